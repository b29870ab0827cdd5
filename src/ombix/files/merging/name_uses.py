"""Which names of its own a keymap file uses, and where."""

import re
from collections.abc import Iterator, Mapping
from typing import Any

from ombix.files.merging.file_units import Unit

NAMED = ("where", "macro", "snippet", "fact")
"""The tables whose entries are used by their names."""
_WORD = re.compile(r"[A-Za-z0-9_][A-Za-z0-9_.+#-]*")


def names_used(units: Mapping[Unit, Any]) -> set[tuple[str, str]]:
    """The names that are used, each with the table that it would be defined in; of conditions all words."""
    return {name for unit, value in units.items() for name in names_in(unit, value)}


def names_in(unit: Unit, value: Any) -> Iterator[tuple[str, str]]:
    """The names that one unit uses."""
    if unit[0] in ("where", "never") and not isinstance(value, dict):
        for text in value if isinstance(value, list) else [value]:
            if isinstance(text, str):
                yield from (("where", word) for word in _WORD.findall(text))
    yield from _in(value)


def _in(value: Any) -> Iterator[tuple[str, str]]:
    if isinstance(value, list):
        for one in value:
            yield from _in(one)
    elif isinstance(value, dict):
        for key, one in value.items():
            if key == "where" and isinstance(one, str):
                yield from (("where", word) for word in _WORD.findall(one))
            elif key in ("play", "insert") and isinstance(one, str):
                yield ("macro" if key == "play" else "snippet"), one
            elif key == "means" and isinstance(one, str) and one.startswith(("macro ", "snippet ")):
                kind, _, name = one.partition(" ")
                yield kind, name
            else:
                yield from _in(one)


def using(units: Mapping[Unit, Any], name: str) -> Iterator[Unit]:
    """The units whose conditions use a named condition, by itself or through another one."""
    names = {name}
    while True:
        more = {
            unit[1]
            for unit, value in units.items()
            if unit[0] == "where" and len(unit) == 2 and _uses(unit, value, names)
        }
        if more <= names:
            break
        names |= more
    yield from (unit for unit, value in units.items() if unit[0] != "where" and _uses(unit, value, names))


def _uses(unit: Unit, value: Any, names: set[str]) -> bool:
    return any(table == "where" and name in names for table, name in names_in(unit, value))
