"""Pieces of TOML with their texts: values, lists, inline tables."""

import re
from collections.abc import Sequence
from typing import Any

import tomlkit

_PLAIN = re.compile(r'[^"\\\x00-\x1f\x7f]*')
_BARE = re.compile(r"[A-Za-z0-9_-]+")


def value(fields: dict[str, Any]) -> Any:
    """The value of a row: a text alone, where that says all, or a table of fields."""
    if list(fields) == ["press"]:
        keys = fields["press"]
        return tomlkit.item(keys) if isinstance(keys, str) else array(keys)
    return inline(fields)


def array(values: Sequence[Any]) -> Any:
    """A list."""
    found = tomlkit.array()
    for one in values:
        found.append(one)
    return found


def inline(fields: dict[str, Any]) -> Any:
    """An inline table with blanks inside its braces, as people write it."""
    return item(field_text(dict(fields)))


def field_text(value: Any) -> str:
    """The text of a field of an inline table."""
    if type(value) is str and _PLAIN.fullmatch(value):
        return f'"{value}"'
    if isinstance(value, list) and not hasattr(value, "as_string"):
        return f"[{', '.join(map(field_text, value))}]"
    if isinstance(value, dict):
        return (
            f"{{ {', '.join(f'{key_text(key)} = {field_text(one)}' for key, one in value.items())} }}"
            if value
            else "{}"
        )
    return text(value)


def text(value: Any) -> str:
    """The text of a value."""
    return str(value.as_string()) if hasattr(value, "as_string") else str(tomlkit.item(value).as_string())


def item(written: str) -> Any:
    """A value with its text as it stands."""
    return tomlkit.parse(f"x = {written}")["x"]


def key_text(name: str) -> str:
    """A name as a key: bare where it can be."""
    if _BARE.fullmatch(name):
        return name
    return str(tomlkit.key(name).as_string())


def one_line(row: Any) -> str:
    """The fields of a table in one line."""
    return ", ".join(tomlkit.dumps(row).strip().split("\n"))
