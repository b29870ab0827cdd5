"""Pieces of TOML with their texts: values, lists, inline tables."""

from collections.abc import Sequence
from typing import Any

import tomlkit


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
    inner = ", ".join(f"{key} = {field_text(value)}" for key, value in fields.items())
    return tomlkit.parse(f"x = {{ {inner} }}")["x"]


def field_text(value: Any) -> str:
    """The text of a field of an inline table."""
    return text(inline(value)) if isinstance(value, dict) else text(value)


def text(value: Any) -> str:
    """The text of a value."""
    return str(value.as_string()) if hasattr(value, "as_string") else str(tomlkit.item(value).as_string())


def item(written: str) -> Any:
    """A value with its text as it stands."""
    return tomlkit.parse(f"x = {written}")["x"]
