"""Finds an editor's description, puts it together with that of the editor it is like, and says what is wrong with it."""

import re
from functools import lru_cache
from pathlib import Path
from typing import Any, TypeVar

import msgspec
import tomli

from ombix.core.errors import InputError, OmbixError, Place, did_you_mean
from ombix.core.toml import Document
from ombix.dialects.description import CommandFile, Defaults, Description, Line, convert
from ombix.dialects.engine import Dialect
from ombix.dialects.formats import tree
from ombix.dialects.formats.lines import check_form
from ombix.dialects.forms import form_of_files

_Shape = TypeVar("_Shape")

_FOLDER = Path(__file__).parent


def known() -> list[str]:
    """The names of all editors that have a description."""
    return sorted(path.parent.name for path in _FOLDER.glob("*/dialect.toml"))


def folder(name: str) -> Path:
    """The folder of an editor's description: of one that Ombix knows, or a path to a user's own."""
    return Path(name) if "/" in name else _FOLDER / name


@lru_cache(maxsize=16)
def dialect(name: str, actions: tuple[tuple[str, str], ...] = ()) -> Dialect:
    """The editor called `name`, or described in the folder with this path. Raises InputError with the nearest names.

    `actions` has commands with the actions that a user says they stand for; they go before those of the description.
    """
    if "/" not in name and name not in known():
        raise InputError(f"unknown editor: {name}", did_you_mean(name, known()) or f"Ombix knows {', '.join(known())}.")
    home = folder(name)
    if not (home / "dialect.toml").is_file():
        raise InputError(
            "there is no description here", "A description is a folder with dialect.toml.", Place(str(home))
        )
    tables = [_table(home, file, ()) for file in ("dialect.toml", "commands.toml", "defaults.toml")]
    description = _converted(tables[0], Description, home / "dialect.toml")
    _check_file(description, home / "dialect.toml")
    tables[1]["command"] = {**tables[1].get("command", {}), **{text: {"action": action} for text, action in actions}}
    return Dialect(
        description,
        _converted(tables[1], CommandFile, home / "commands.toml"),
        _converted(tables[2], Defaults, home / "defaults.toml"),
    )


def _table(home: Path, file: str, seen: tuple[Path, ...]) -> dict[str, Any]:
    """A file's table, on top of that of the editor that this one is `like`; a list takes the other's place."""
    path = home / file
    try:
        own: dict[str, Any] = tomli.loads(path.read_text("utf-8")) if path.is_file() else {}
        like = tomli.loads((home / "dialect.toml").read_text("utf-8")).get("like", "")
    except (tomli.TOMLDecodeError, UnicodeDecodeError, OSError, RecursionError) as error:
        match = re.search(r"\(at line (\d+), column (\d+)\)", str(error))
        place = Place(str(path), int(match[1]), int(match[2])) if match else Place(str(path))
        raise InputError(f"the description is wrong: {error}", place=place) from None
    own.pop("like", None)
    if not like:
        return own
    other = folder(like) if like in known() else (home / str(like)).resolve()
    if other in seen or not (other / "dialect.toml").is_file():
        raise InputError(
            f"there is no editor {like} to be like", did_you_mean(str(like), known()), Place(str(home / "dialect.toml"))
        )
    return _joined(_table(other, file, (*seen, home)), own)


def _joined(below: dict[str, Any], above: dict[str, Any]) -> dict[str, Any]:
    joined = dict(below)
    for key, value in above.items():
        known_value = joined.get(key)
        joined[key] = (
            _joined(known_value, value) if isinstance(known_value, dict) and isinstance(value, dict) else value
        )
    return joined


def _converted(table: dict[str, Any], kind: type[_Shape], path: Path) -> _Shape:
    try:
        return convert(table, kind)
    except msgspec.ValidationError as error:
        what, _, key = str(error).partition(" - at `")
        key = key.removeprefix("$").removeprefix(".").rstrip("`")
        unknown = re.search(r"unknown field `([^`]+)`", what)
        keys = [*re.findall(r"[^.\[\]]+", key), *([unknown[1]] if unknown else [])]
        advice = f"It is at {key}." if key else ""
        raise InputError(
            f"the description is wrong: {what[:1].lower()}{what[1:]}", advice, place_in(path, *keys)
        ) from None


def place_in(path: Path, *keys: str) -> Place:
    """Where a key of a description stands; the file alone, where the key is in that of the editor that it is like."""
    try:
        document = Document(path.read_text("utf-8"), str(path))
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


def _check_file(description: Description, path: Path) -> None:
    """Raise InputError where the form of the file is not known, or lacks what it needs."""
    file = description.file
    try:
        form = form_of_files(file.format)
    except InputError as error:
        raise InputError(error.what, error.advice, place_in(path, "file", "format")) from None
    if (file.format == "headed" and file.headed is None) or (file.format == "words" and file.words is None):
        raise InputError(f"the table file.{file.format} is missing", "See docs/describing.md.", place_in(path, "file"))
    forms: list[tuple[Line, tuple[str, ...]]] = [
        (line, ("file", "forms", str(index))) for index, line in enumerate(file.forms)
    ]
    if file.words is not None:
        forms += [(line, ("file", "words", "forms", str(index))) for index, line in enumerate(file.words.forms)]
    for line, keys in forms:
        place = place_in(path, *keys, "pattern")
        if hasattr(form, "parse") and file.words is None:
            try:
                tree.patterns((line,), form)
            except OmbixError as error:
                raise InputError(f"a pattern is wrong: {error.what}", error.advice, place) from None
        if file.format == "lines" and (wrong := check_form(line.pattern)):
            raise InputError(f"in the form {line.pattern!r} {wrong}", "Part them by a sign or a word.", place)
        needed = {"bind": ("{key}", "{command}", "{keys}", "{string}"), "remove": ("{key}",)}.get(line.means, ())
        has = [variable for variable in needed if variable in line.pattern]
        if needed and ("{key}" not in has or (line.means == "bind" and len(has) < 2)):
            raise InputError(
                f"the form {line.pattern!r} has not what it needs", "Write {key}, and {command} where it binds.", place
            )
