"""What a merge left open, as it stands in a file: one table for each thing that both sides changed."""

from typing import Any

import tomli

from ombix.core.errors import NotationError, did_you_mean
from ombix.core.keymap.bindings import Unsettled
from ombix.core.keys.notation import Trigger, parse
from ombix.core.toml import Document

TABLE = "conflict"
FIELDS = ("at", "press", "why", "base", "ours", "theirs")


def unsettled(document: Document, row: dict[str, Any], index: int) -> Unsettled:
    """A row of the conflicts of a file. Raises InputError."""
    path = (TABLE, str(index))
    for key in row:
        if key not in FIELDS:
            raise document.error(
                f"unknown key: {key}", did_you_mean(key, FIELDS) or f"Known are {', '.join(FIELDS)}.", *path, key
            )
    if not isinstance(row.get("at", ""), str) or ("at" in row) == ("press" in row):
        raise document.error("a conflict is at an entry, or on keys", 'Write at = "bind.line.delete".', *path)
    at, keys = path_of(row.get("at", "")), _keys(row.get("press", ""))
    if not at and not keys:
        raise document.error("a conflict is at an entry, or on keys", 'Write at = "bind.line.delete".', *path)
    for side in ("base", "ours", "theirs"):
        if not isinstance(row.get(side, ""), str):
            raise document.error(f"{side} takes a value as a text", f"Write {side} = '\"Ctrl+K\"'.", *path, side)
        if "at" in row and row.get(side) and value_of(row[side]) is None:
            raise document.error(f"{side} is no value", f"Write {side} = '\"Ctrl+K\"'.", *path, side)
    texts = (str(row.get(side, "")) for side in ("base", "ours", "theirs"))
    return Unsettled(document.place(*path), at, keys, str(row.get("why", "")), *texts)


def path_of(text: str) -> tuple[str, ...]:
    """The names of a path with points between them; none for what is no path."""
    try:
        table: Any = tomli.loads(f"{text} = 0") if text and "\n" not in text and "=" not in text else {}
    except ValueError:
        return ()
    found = []
    while isinstance(table, dict) and table:
        name, table = next(iter(table.items()))
        found.append(str(name))
    return tuple(found)


def value_of(text: str) -> Any:
    """What a text of TOML has as its value; None for none."""
    try:
        found = tomli.loads(f"x = {text}")
    except (ValueError, RecursionError):
        return None
    return found["x"] if list(found) == ["x"] else None


def standing(text: str, at: tuple[str, ...]) -> Any:
    """The value that stands at a path of a file; None for none."""
    value: Any = Document(text, "", recover=True).table
    for name in at:
        value = value.get(name) if isinstance(value, dict) else None
    return value


def _keys(text: Any) -> Trigger:
    try:
        return parse(text) if isinstance(text, str) and text else ()
    except NotationError:
        return ()
