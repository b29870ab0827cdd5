"""Writes a layer as a file of an editor."""

from collections.abc import Iterator, Sequence
from typing import Literal

from ombix.core.catalogue.actions import Catalogue
from ombix.core.conditions import Space, States
from ombix.core.errors import InputError, Place
from ombix.core.keymap.bindings import Binding, Layer, effective_states
from ombix.core.keymap.outcomes import Do, Insert, Nothing, Only, Outcome, Play, without_steering
from ombix.core.keys.notation import Trigger, parse
from ombix.editors.abilities import can_take_away, language_where
from ombix.editors.assigning import gathered
from ombix.editors.dialect import Dialect, joined_where, table_name
from ombix.editors.file_forms import form_of_files
from ombix.editors.formats import Heading, Statement

_MACROS, _OTHER, _REMOVED = "Macros", "Commands that only this editor has", "Keys taken away"
_Written = tuple[Literal["bind", "remove"], str, bool]
"""What a statement does, its command, and whether that is a text with commands in it."""


def write_file(dialect: Dialect, layer: Layer, space: Space, catalogue: Catalogue, headings: bool = True) -> str:
    """The layer as a file of an editor, grouped by kind of work; the same layer gives the same text.

    Raises InputError for a binding that the editor cannot express.
    """
    writer = _FileWriter(dialect, layer, space, catalogue)
    items: list[Statement | Heading] = []
    groups = writer.groups()
    if dialect.description.file.assigns:
        groups = _by_command(dialect, groups) if headings else iter([("", [*gathered(dialect, _all_of(groups))])])
    for title, statements in groups:
        if headings:
            items.append(Heading(title))
        items.extend(statements)
    return form_of_files(dialect.description.file.format).write(items, dialect.description)


def _all_of(groups: Iterator[tuple[str, list[Statement]]]) -> list[Statement]:
    return [statement for _title, statements in groups for statement in statements]


def _by_command(
    dialect: Dialect, groups: Iterator[tuple[str, list[Statement]]]
) -> Iterator[tuple[str, list[Statement]]]:
    """The groups of a file in which each command has all of its keys in one statement."""
    titles: dict[str, str] = {}
    every: list[Statement] = []
    for title, statements in groups:
        for one in statements:
            titles.setdefault(one.command if one.kind == "bind" else one.written, title)
        every += statements
    found: dict[str, list[Statement]] = {}
    for one in gathered(dialect, every):
        title = titles.get(one.command if one.kind == "bind" else one.written, _REMOVED)
        found.setdefault(title, []).append(one)
    yield from found.items()


class _FileWriter:
    def __init__(self, dialect: Dialect, layer: Layer, space: Space, catalogue: Catalogue) -> None:
        self.dialect = dialect
        self.layer = layer
        self.space = space
        self.catalogue = catalogue
        self.nodes = {name: space.states(text) for name, text in dialect.description.sections.items()}

    def groups(self) -> Iterator[tuple[str, list[Statement]]]:
        """The statements of the file in their order, with the headings of their groups."""
        layer = self.layer
        kept = [
            Statement(one.place, one.text, "keep")
            for one in layer.kept
            if one.editor == self.dialect.name and not one.is_beside
        ]
        if kept:
            yield "Kept as it was", kept
        tables = list(self._tables())
        if tables:
            yield "Keys that wait for another one", tables
        found: dict[str, list[Statement]] = {}
        for binding in layer.bindings:
            found.setdefault(_group(binding.instead_of or binding.outcome, self.catalogue), []).extend(
                self._statements(binding)
            )
        # What is taken away comes first: it may stand in the way of what is bound.
        order = [_REMOVED, *self.catalogue.domains.values(), _MACROS, _OTHER]
        for title in sorted(found, key=lambda title: order.index(title) if title in order else len(order)):
            yield title, found[title]

    def _tables(self) -> Iterator[Statement]:
        """The declarations of tables for the keys behind a prefix, and the keys that lead to them."""
        dialect, syntax = self.dialect, self.dialect.description.commands
        prefixes = dialect.description.prefixes
        found: dict[Trigger, Place] = {}
        for binding in self.layer.bindings:
            for length in range(1, len(binding.trigger)):
                prefix = dialect.prefix_of(binding.trigger[: length + 1])
                if prefix is not None and prefix[0] not in prefixes:
                    found.setdefault(binding.trigger[:length], binding.place)
        for keys, place in found.items():
            name = table_name(keys)
            yield Statement(place, syntax.declare_prefix.replace("{name}", name), "keep")
            home, last = dialect.description.file.default_section, keys[-1:]
            if len(keys) > 1:
                known = (one for one, row in prefixes.items() if parse(row.keys) == keys[:-1])
                home = next(known, table_name(keys[:-1]))
            command = syntax.enter_prefix.replace("{name}", name)
            yield Statement(place, "", "bind", str(dialect.spelling.write(last)), command, home)

    def _statements(self, binding: Binding) -> list[Statement]:
        dialect = self.dialect
        states = effective_states(binding, self.space, self.catalogue)
        homes = [name for name, node in self.nodes.items() if self.space.overlap(node, states)]
        key = dialect.spelling.write(binding.trigger)
        table = None
        if key is None or len(binding.trigger) > 1:
            table = next((one for home in homes if (one := dialect.prefix_of(binding.trigger, home))), None)
            if table is not None:
                key, homes = dialect.spelling.write(binding.trigger[-1:]), homes[:1]
        if key is None:
            raise InputError(dialect.spelling.why_not(binding.trigger, dialect.name), place=binding.place)
        written = {home: self._written(binding, [home] if dialect.by_section else homes) for home in homes}
        if table is not None and (prefix := dialect.description.prefixes.get(table[0])) is not None and prefix.leave:
            written = {home: (kind, prefix.leave + command, flag) for home, (kind, command, flag) in written.items()}
        wheres = {home: self._where(states, home, binding) for home in homes}
        if len(set(wheres.values())) == 1 and (every := self._in_every_section(homes, written)):
            kind, command, is_string = written[homes[0]]
            return [Statement(binding.place, "", kind, key, command, every, is_string, where=wheres[homes[0]])]
        return [
            Statement(
                binding.place, "", kind, key, command, table[0] if table else home, is_string, where=wheres[home],
                title=without_steering(binding.why), platform=platform,
            )
            for home, (kind, command, is_string) in written.items()
            for platform in ([""] if table else self._platform_words(binding) or [""])
        ]  # fmt: skip

    def _in_every_section(self, homes: list[str], written: dict[str, _Written]) -> str:
        """The word for all sections at once, where the file has one and it is right here."""
        every = self.dialect.description.file.every_section
        if not every or self.dialect.by_section or len(homes) < 2:
            return ""
        kind, command, is_string = written[homes[0]]
        vocabulary = self.dialect.vocabulary
        is_whole = set(homes) == set(vocabulary.sections_of(vocabulary.row_of(command)))
        return every if kind == "bind" and not is_string and is_whole else ""

    def _platform_words(self, binding: Binding) -> list[str]:
        """The editor's words for the platforms of a binding; none where it has not one for each."""
        words = self.dialect.description.platforms
        found = [word for name in sorted(binding.platforms) for word, one in words.items() if one == name]
        return found if len(found) == len(binding.platforms) else []

    def _where(self, states: States, home: str, binding: Binding) -> str:
        """The condition beside a section, as the file has it. Raises InputError where the editor has no words for it."""
        dialect, space = self.dialect, self.space
        if dialect.wording is None:
            return language_where(dialect, states, space)
        section, node = dialect.description.sections[home], self.nodes[home]
        meant = space.parse(binding.where, binding.scope)
        about: frozenset[str] = frozenset()
        if dialect.policy.wins in ("innermost", "specific"):  # what a condition speaks of tells how strong it is
            about = space.mentioned(meant) - space.mentioned(space.parse(section))
        # What an action needs is not written, where reading the file brings it in again.
        for wanted in (meant, states):
            text = dialect.wording.write(wanted, node, space, about)
            if text is None:
                continue
            where = joined_where(section, dialect.wording.read(text)) if text else section
            plain = Binding(binding.trigger, binding.outcome, binding.place, binding.layer, where)
            if effective_states(plain, space, self.catalogue) == space.both(states, node):
                return text
        raise InputError(f"{dialect.name} has no words for {binding.where}", place=binding.place)

    def _written(self, binding: Binding, homes: Sequence[str]) -> _Written:
        """The command for a binding in these sections. Raises InputError where there is none."""
        dialect, outcome = self.dialect, binding.outcome
        vocabulary, syntax = dialect.vocabulary, dialect.description.commands
        if isinstance(outcome, Nothing):
            if not can_take_away(dialect):
                raise InputError(f"{dialect.name} cannot take its own keys away", place=binding.place)
            return ("bind", syntax.nothing, False) if syntax.nothing else ("remove", "", False)
        if self._is_as_it_was(binding, homes):
            return "bind", binding.written, False
        if isinstance(outcome, Do):
            return "bind", self._action_command(outcome, binding, homes), False
        if isinstance(outcome, Only):
            if outcome.editor != dialect.name:
                raise InputError(f"{outcome.command} is a command of {outcome.editor} only", place=binding.place)
            return "bind", outcome.command, bool(syntax.function_in_string) and not vocabulary.has(outcome.command)
        if isinstance(outcome, Insert):
            raise InputError(f"{dialect.name} has no key for {outcome}", place=binding.place)
        macro = self.layer.macros[outcome.macro]
        if binding.written and homes and vocabulary.key_steps(binding.written, homes[0]) == macro.steps:
            return "bind", binding.written, False
        text = vocabulary.macro_text(macro.steps, homes[0] if homes else "")
        if text is None:
            raise InputError(f"{dialect.name} cannot write the macro {macro.name}", place=binding.place)
        return "bind", text, bool(syntax.function_in_string)

    def _is_as_it_was(self, binding: Binding, homes: Sequence[str]) -> bool:
        """Whether a binding was read from a command that means it in all these sections."""
        vocabulary = self.dialect.vocabulary
        name = vocabulary.called(binding.written)[0]
        if not binding.written or not (vocabulary.has(name) or vocabulary.syntax.keys):
            return False
        rows = [vocabulary.row_of(name, home) for home in homes]
        is_known = all(not row.fixed if row is not None else vocabulary.syntax.keys for row in rows)
        return is_known and all(vocabulary.outcome(binding.written, home) == binding.outcome for home in homes)

    def _action_command(self, outcome: Do, binding: Binding, homes: Sequence[str]) -> str:
        vocabulary = self.dialect.vocabulary
        found = vocabulary.command_for(outcome)
        names = [row.written or name for name, row in vocabulary.by_action.get(outcome.action, ())]
        for command in [*([found] if found else []), *names]:
            if all(vocabulary.outcome(command, home) == outcome for home in homes):
                return command
        raise InputError(f"{self.dialect.name} has no command for {outcome}", place=binding.place)


def _group(outcome: Outcome, catalogue: Catalogue) -> str:
    if isinstance(outcome, Do):
        return catalogue.domains.get(outcome.domain, outcome.domain)
    if isinstance(outcome, Play):
        return _MACROS
    return _REMOVED if isinstance(outcome, Nothing) else _OTHER
