"""Finds an editor's description, puts it together with that of the editor it is like, and says what is wrong with it."""

import hashlib
import os
import re
from collections.abc import Iterator, Mapping
from functools import cached_property
from pathlib import Path
from typing import Any, TypeVar

import msgspec

from ombix.core.decoding import shaped
from ombix.core.errors import InputError, OmbixError, Place, did_you_mean
from ombix.core.plug_ins import EDITORS, plug_ins
from ombix.core.toml import Document
from ombix.data.seen import stamp
from ombix.data.shipped import Shipped, made_once
from ombix.editors.description import CommandFile, Defaults, Description
from ombix.editors.dialect import Dialect
from ombix.editors.modal_grammar import Grammar, GrammarSyntax
from ombix.editors.snippet_formats import SnippetSyntax

_Shape = TypeVar("_Shape")
_Tables = dict[str, Any]

_FOLDER = Path(__file__).parent
_FILE_NAME = re.compile(r"[^/\\\x00-\x1f\x7f]{1,200}")
_EDITOR_NAME = re.compile(r"[a-z][a-z0-9-]{0,40}")
_FILES = ("dialect.toml", "commands.toml", "defaults.toml", "grammar.toml", "snippets.toml")
"""What a description is read from; the last two may be missing."""

Actions = tuple[tuple[str, str], ...]
"""Commands with the actions that a user says they stand for."""


class Dialects:
    """Loads descriptions when they are first asked for, and keeps them. `seen` has the files that were read; `texts` are texts by
    absolute path that stand for what is on the disk (None: there is no such file), but not for what is installed."""

    def __init__(self, shipped: Shipped, texts: Mapping[str, str | None] | None = None) -> None:
        self.seen = shipped.seen
        self._shipped = shipped
        self._texts = {} if texts is None else {
            name: text for name, text in texts.items() if not any(Path(name).is_relative_to(home) for home in self._homes)
        }  # fmt: skip
        self._known: dict[tuple[str, Actions], Dialect] = {}
        self._documents: dict[Path, Document] = {}

    def names(self) -> list[str]:
        """The names of all editors that Ombix knows: of its own descriptions, and of those of installed packages."""
        return sorted({*self._own, *self._installed})

    def own_names(self) -> list[str]:
        """The names of the editors whose descriptions come with Ombix."""
        return sorted(self._own)

    @cached_property
    def _own(self) -> frozenset[str]:
        """The names of the editors whose descriptions come with Ombix."""
        return frozenset(path.parent.name for path in _FOLDER.glob("*/dialect.toml"))

    @cached_property
    def _installed(self) -> dict[str, Path]:
        """The editors whose descriptions come with another package that is installed, by their names, with their folders.

        No code of these packages is run; what ships with Ombix cannot be described anew by them.
        """
        found: dict[str, Path] = {}
        for one in plug_ins(EDITORS).values():
            if one.name in self._own or not _EDITOR_NAME.fullmatch(one.name):
                continue
            folder = one.folder / one.value.partition(":")[0].replace(".", "/")
            if (folder / "dialect.toml").is_file():
                found[one.name] = folder
        return found

    @property
    def _homes(self) -> list[Path]:
        """The folders of the descriptions that come with Ombix and with packages."""
        return [_FOLDER, *self._installed.values()]

    def knows(self, name: str) -> bool:
        """Whether there is an editor of this name."""
        return self._home_of(name) is not None

    def _home_of(self, name: str) -> Path | None:
        """The folder of the description of an editor that Ombix knows; None for another one."""
        return _FOLDER / name if name in self._own else self._installed.get(name)

    def is_shipped(self, home: Path) -> bool:
        """Whether a description comes with Ombix."""
        return home.resolve().is_relative_to(_FOLDER.resolve())

    def is_installed(self, home: Path) -> bool:
        """Whether a description comes with Ombix, or with another package that its user installed."""
        return self.is_shipped(home) or any(home.resolve() == one.resolve() for one in self._installed.values())

    def digest_of(self, dialect: Dialect) -> str:
        """What changes when one of the files of a description does, or one of those that it is like; empty where one of them
        is no longer what was read."""
        found = hashlib.blake2b(digest_size=16)
        for file in sorted(dialect.files):
            data = file.read_bytes() if file.is_file() else b""
            if stamp(str(file)) != self.seen.get(str(file)) or str(file) in self._texts:
                return ""
            found.update(f"{file}\0{len(data)}\0".encode("utf-8", "surrogateescape") + data)
        return found.hexdigest()

    def called(self, name: str) -> str:
        """The editor that is also called so, as by the name of its program; empty where none is."""
        return next((known for known in self.names() if name in self.load(known).description.also_called), "")

    def load(self, name: str, actions: Actions = ()) -> Dialect:
        """The editor called `name`, or described in the folder with this path. Raises InputError with the nearest names.

        `actions` go before those of the description.
        """
        found = self._known.get((name, actions))
        if found is None:
            found = self._known[name, actions] = self._load(name, actions)
        return found

    def _load(self, name: str, actions: Actions) -> Dialect:
        found = Path(name) if "/" in name else self._home_of(name)
        if found is None:
            known = self.names()
            raise InputError(f"unknown editor: {name}", did_you_mean(name, known) or f"Ombix knows {', '.join(known)}.")
        home = found
        if not self._is_file(home / "dialect.toml"):
            raise InputError(
                "there is no description here", "A description is a folder with dialect.toml.", Place(str(home))
            )
        files: dict[Path, _Tables] = {}
        raw = [self._table(home, file, (), files) for file in _FILES]
        if name in self._own and not actions:
            one = made_once(
                f"editor {name}", list(filter(None, files.values())), lambda: self._made(name, home, raw, files)
            )
            return one.over(self._shipped.facts())
        raw[1]["command"] = {
            **raw[1].get("command", {}),
            **{text: {"action": action, "reaches": "unknown"} for text, action in actions},
        }
        return self._made(name, home, raw, files)

    def _made(self, name: str, home: Path, raw: list[_Tables], files: dict[Path, _Tables]) -> Dialect:
        """A description of its tables, which were read of these files."""
        description = self._converted(raw[0], Description, home / "dialect.toml")
        if name not in self._own:  # those that ship are tested
            if description.name != name and self.knows(description.name):
                raise InputError(
                    f"{description.name} is the name of an editor that Ombix knows", "Give the description a name of its own.",
                    self.place_in(home / "dialect.toml", "name"),
                )  # fmt: skip
            self._check_file(description, home / "dialect.toml")
        try:
            terminal = self._shipped.terminal(description.terminal)
        except InputError as error:
            raise InputError(error.what, error.advice, self.place_in(home / "dialect.toml", "terminal")) from None
        dialect = Dialect(
            description, self._converted(raw[1], CommandFile, home / "commands.toml"),
            self._converted(raw[2], Defaults, home / "defaults.toml"), self._shipped.facts(), terminal, home,
        )  # fmt: skip
        if raw[3]:
            dialect.grammar = Grammar(self._converted(raw[3], GrammarSyntax, home / "grammar.toml"))
        if raw[4]:
            dialect.snippets = self._converted(raw[4], SnippetSyntax, home / "snippets.toml")
        if not self.is_shipped(home):
            from ombix.editors.description_validation import check_names

            dialect.files = tuple(file for file in files if not self.is_shipped(file))
            check_names(dialect, lambda file, *keys: self.place_in(home / file, *keys))
        return dialect

    def _table(self, home: Path, file: str, seen: tuple[Path, ...], files: dict[Path, _Tables]) -> _Tables:
        """A file's table, on top of that of the editor that this one is `like`; a list takes the other's place. `files` gets
        what was read."""
        first, own = (files.setdefault(path, self._read(path)) for path in (home / "dialect.toml", home / file))
        like = first.get("like", "")
        own = {key: value for key, value in own.items() if key != "like"}
        if not like:
            return own
        other = self._home_of(str(like)) or (home / str(like)).resolve()
        if other in seen or not self._is_file(other / "dialect.toml"):
            raise InputError(
                f"there is no editor {like} to be like", did_you_mean(str(like), self.names()),
                self.place_in(home / "dialect.toml", "like"),
            )  # fmt: skip
        return _joined(self._table(other, file, (*seen, home), files), own)

    def _read(self, path: Path) -> _Tables:
        """A file's table; empty where there is no such file."""
        self.seen.note(str(path))
        try:
            name = os.path.abspath(path)  # noqa: PTH100 (this one takes `..` out)
            if name in self._texts:
                import tomli

                return tomli.loads(self._texts[name] or "")
            return self._shipped.read(path) if path.is_file() else {}
        except (ValueError, OSError, RecursionError) as error:  # what is no TOML, or no UTF-8, is a ValueError
            match = re.search(r"\(at line (\d+), column (\d+)\)", str(error))
            place = Place(str(path), int(match[1]), int(match[2])) if match else Place(str(path))
            said = str(error).partition("; use sys.")[0][:200]
            raise InputError(f"the description is wrong: {said}", "See: docs/description.md", place) from None

    def _is_file(self, path: Path) -> bool:
        name = os.path.abspath(path)  # noqa: PTH100
        return self._texts[name] is not None if name in self._texts else path.is_file()

    def _text(self, path: Path) -> str:
        """The text of a file of a description. Raises OSError or UnicodeDecodeError."""
        text = self._texts.get(os.path.abspath(path))  # noqa: PTH100
        return path.read_text("utf-8") if text is None else text

    def _document(self, path: Path) -> Document:
        """A file of a description with the places in it. Raises as `_text`, and OmbixError where it is no TOML."""
        text, document = self._text(path), self._documents.get(path)
        if document is None or document.text != text:
            document = self._documents[path] = Document(text, str(path))
        return document

    def _converted(self, table: _Tables, kind: type[_Shape], path: Path) -> _Shape:
        try:
            return shaped(table, kind)
        except msgspec.ValidationError as error:
            what, _, key = str(error).partition(" - at `")
            key = key.removeprefix("$").removeprefix(".").rstrip("`")
            unknown = re.search(r"unknown field `([^`]+)`", what)
            keys = [*re.findall(r"[^.\[\]]+", key), *([unknown[1]] if unknown else [])]
            advice = f"It is at {key}." if key else "See: docs/description.md"
            raise InputError(
                f"the description is wrong: {what[:1].lower()}{what[1:]}", advice, self.place_in(path, *keys)
            ) from None

    def place_in(self, path: Path, *keys: str) -> Place:
        """Where a key of a description stands; the file alone, where the key is in that of the editor that it is like."""
        try:
            document = self._document(path)
        except (OSError, UnicodeDecodeError, OmbixError):
            return Place(str(path))
        table: Any = document.table
        for key in keys:
            if isinstance(table, list) and key.isdigit() and int(key) < len(table):
                table = table[int(key)]
            elif isinstance(table, dict) and key in table:
                table = table[key]
            else:
                return Place(str(path))
        return document.place(*keys) if keys else Place(str(path))

    def _check_file(self, description: Description, path: Path) -> None:
        """Raise InputError where the form of the file is not known, or lacks what it needs."""
        from ombix.editors.file_forms import form_of_files

        file, program = description.file, description.program
        if not _FILE_NAME.fullmatch(file.name) or file.name in (".", ".."):
            raise InputError(
                f"{file.name} is no name for a file", "Write the name alone; where it is, is said by usual.",
                self.place_in(path, "file", "name"),
            )  # fmt: skip
        inside = [program.config, program.text, *program.files] if program is not None else []
        if program is not None and (
            not program.command or any(Path(one).is_absolute() or ".." in Path(one).parts for one in inside)
        ):
            raise InputError(
                "the program's command is empty, or one of its files is not below the home folder",
                "Write config = \".config/name\".",
                self.place_in(path, "program"),
            )  # fmt: skip
        try:
            form = form_of_files(file.format)
        except InputError as error:
            raise InputError(error.what, error.advice, self.place_in(path, "file", "format")) from None
        for fault in form.check(description) if hasattr(form, "check") else ():
            raise InputError(fault.what, fault.advice, self.place_in(path, *fault.keys))
        for pattern, means, keys in _patterns(description):
            needed = {"bind": ("{key}", "{command}", "{keys}", "{string}"), "remove": ("{key}",)}.get(means, ())
            has = [variable for variable in needed if variable in pattern]
            if needed and ("{key}" not in has or (means == "bind" and len(has) < 2)):
                raise InputError(
                    f"the form {pattern!r} has not what it needs", "Write {key}, and {command} where it binds.",
                    self.place_in(path, *keys, "pattern"),
                )  # fmt: skip


_PARTS = frozenset({"add", "without"})
"""What a table may have in place of a list that the editor below has: what is added to it, and what is taken away."""


def _joined(below: _Tables, above: _Tables) -> _Tables:
    """A table on top of another one: tables are joined, `false` takes one away, and a list takes the place of the other or, as a
    table of parts, is added to it or taken away from it."""
    joined = dict(below)
    for key, value in above.items():
        known = joined.get(key)
        if isinstance(known, dict) and value is False:
            del joined[key]
        elif isinstance(known, dict) and isinstance(value, dict):
            joined[key] = _joined(known, value)
        elif isinstance(known, list) and isinstance(value, dict) and value.keys() <= _PARTS:
            joined[key] = _in_parts(known, value)
        else:
            joined[key] = value
    return joined


def _in_parts(known: list[Any], parts: _Tables) -> list[Any]:
    """A list without some of its members, or without some keys of their tables, and with others behind."""
    left = known
    for gone in parts.get("without", ()):
        left = [one for each in left if (one := _without(each, gone)) is not None]
    return [*left, *parts.get("add", ())]


def _without(member: Any, gone: Any) -> Any:
    """A member of a list, None where it is taken away: it is the same; or a table that has all of what `gone` has. Of tables in
    `gone`, as of keys in a group of default keys, only these are taken away."""
    if not isinstance(member, dict) or not isinstance(gone, dict):
        return None if member == gone else member
    plain = {key: value for key, value in gone.items() if not isinstance(value, dict)}
    if any(member.get(key) != value for key, value in plain.items()):
        return member
    inner = {key: value for key, value in gone.items() if isinstance(value, dict)}
    if not inner:
        return None
    return {
        key: {name: one for name, one in value.items() if name not in inner[key]} if key in inner else value
        for key, value in member.items()
    }


def _patterns(description: Description) -> Iterator[tuple[str, str, tuple[str, ...]]]:
    """Each pattern of a description, what it means, and where it stands."""
    file = description.file
    for index, form in enumerate(file.forms):
        yield form.pattern, form.means, ("file", "forms", str(index))
    for index, form in enumerate(file.words.forms if file.words is not None else ()):
        yield form.pattern, form.means, ("file", "words", "forms", str(index))
