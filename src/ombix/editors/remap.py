"""Keys that stand for keys: where those of one map are looked up among the other maps, what they come to at the end."""

from collections.abc import Iterable, Iterator

from ombix.core.errors import InputError
from ombix.editors.dialect import Dialect
from ombix.editors.formats import Statement

_DEEPEST = 20
"""Maps through which keys go one after the other, and"""
_LONGEST = 2000
"""characters that they may come to."""


class NotFollowed(InputError):
    """Keys go through other maps in a way that depends on more than the file says."""


class RemapResolver:
    """Follows the keys of maps through the other maps of a file, as far as its last word on that says that they go."""

    def __init__(self, dialect: Dialect, statements: Iterable[Statement]) -> None:
        words = dialect.description.commands.remapping
        self._vocabulary = dialect.vocabulary
        self._maps: dict[str, dict[str, str]] = {}
        goes_on = bool(words)
        for statement in statements:
            for word, says in words.items():
                if statement.kind in ("keep", "structure") and word in dialect.settings_on(statement.written):
                    goes_on = says
            if statement.kind == "bind" and words:
                self._maps.setdefault(statement.section, {})[dialect.spelling.unquoted(statement.key)] = (
                    statement.command
                )
            elif statement.kind == "remove" and words:
                self._maps.get(statement.section, {}).pop(dialect.spelling.unquoted(statement.key), None)
        self.goes_on = goes_on

    def follow(self, statement: Statement) -> str:
        """The keys that a map comes to. Raises NotFollowed."""
        if not self.goes_on or statement.kind != "bind":
            return statement.command
        return self._followed(statement.command, statement.key, statement.section, ())

    def _followed(self, command: str, key: str, section: str, before: tuple[str, ...]) -> str:
        maps = self._maps.get(section, {})
        if key in before:
            raise NotFollowed("its keys come to themselves again")
        if len(before) > _DEEPEST:
            raise NotFollowed("its keys go through too many other maps")
        before = (*before, key)
        if command in maps and command != key:
            return self._followed(maps[command], command, section, before)
        head = key if command.startswith(key) else ""  # what a map begins with of its own keys is taken as it is
        rest = command[len(head) :]
        if not any(one in rest for some in self._maps.values() for one in some):
            return command
        found = head
        for piece in self._pieces(rest, section, before):
            found += piece
            if len(found) > _LONGEST:
                raise NotFollowed("its keys come to more than is looked into")
        return found

    def _pieces(self, rest: str, section: str, before: tuple[str, ...]) -> Iterator[str]:
        """What the keys of a row come to, those of maps first, else as the commands that they are."""
        maps, vocabulary, at = self._maps.get(section, {}), self._vocabulary, 0
        longest = sorted(maps, key=len, reverse=True)
        while at < len(rest):
            one = next((each for each in longest if each and rest.startswith(each, at)), "")
            if one:
                yield self._followed(maps[one], one, section, before)
                at += len(one)
                continue
            command = rest[at]
            row = vocabulary.row_of(command, section)
            is_alone = row is not None and bool(row.effect) and not row.leads
            if not is_alone and not command.isdigit():  # what follows may be part of it, or belong to another section
                if any(each in rest[at:] for some in self._maps.values() for each in some):
                    raise NotFollowed("its keys go through other maps, in ways that are not followed")
                yield rest[at:]
                return
            yield command
            at += 1
