"""A keymap or workspace file in plain lines, one for each thing that it says, for comparing two versions of it by meaning."""

from collections.abc import Iterator, Mapping
from typing import Any

import tomli

from ombix.data.platform_names import PLATFORMS

_KEYS = ("press", "also", *PLATFORMS)


def plain_lines(text: str) -> list[str]:
    """The lines, in an order that does not depend on how the file is laid out; those of a text that is not TOML as they are."""
    try:
        table = tomli.loads(text)
    except (ValueError, RecursionError):
        return text.splitlines()
    lines: list[str] = []
    for name, value in table.items():
        if name == "bind" and isinstance(value, dict):
            found = (
                (f"{domain}.{verb}", one)
                for domain, verbs in value.items()
                if isinstance(verbs, dict)
                for verb, one in verbs.items()
            )
            lines += sorted(line for what, one in found for line in _entry(what, one))
        elif name == "only" and isinstance(value, dict):
            found = (
                (f"{editor}: {command}", one)
                for editor, rows in value.items()
                if isinstance(rows, dict)
                for command, one in rows.items()
            )
            lines += sorted(line for what, one in found for line in _entry(what, one))
        elif name in ("macro", "snippet") and isinstance(value, dict):
            lines += [line for key, one in sorted(value.items()) for line in _named(f"{name} {key}", one)]
        elif isinstance(value, dict):
            lines += sorted(line for key, one in value.items() for line in _fields(f"{name} {key}", one))
        else:
            lines += list(_fields(name, value))
    return lines


def _entry(what: str, value: Any) -> Iterator[str]:
    """A line for each key of an entry."""
    if value is False:
        yield f"{what}  no keys"
        return
    for row in value if isinstance(value, list) else [value]:
        fields = row if isinstance(row, dict) else {"press": row}
        rest = "".join(
            f"  {_word(name)} {_flat(one)}" for name, one in fields.items() if name not in _KEYS and name != "also"
        )
        for name in _KEYS:
            keys = fields.get(name)
            for key in keys if isinstance(keys, list) else [keys] if keys is not None else []:
                on = "" if name in ("press", "also") else f"  on {name}"
                said = "no keys" if key is False else str(key)
                if key is not True:
                    yield f"{what}  {said}{'  as well' * (fields.get('also') is not None)}{on}{rest}"


def _word(name: str) -> str:
    return {"where": "when"}.get(name, name)


def _named(what: str, value: Any) -> Iterator[str]:
    """A macro or a snippet: its keys, and below them what it does."""
    if not isinstance(value, Mapping):
        yield f"{what}  {_flat(value)}"
        return
    yield from _entry(what, {key: one for key, one in value.items() if key in _KEYS or key == "where"})
    for key, one in value.items():
        if key in ("steps", "body") and isinstance(one, list):
            yield from (f"{what}  {number}. {_flat(step)}" for number, step in enumerate(one, 1))
        elif key not in _KEYS and key != "where":
            yield f"{what}  {key} {_flat(one)}"


def _fields(what: str, value: Any) -> Iterator[str]:
    if isinstance(value, dict):
        for key, one in value.items():
            yield from _fields(f"{what} {key}", one)
    elif isinstance(value, list) and value and all(isinstance(one, dict) for one in value):
        yield from sorted(f"{what}  {_flat(one)}" for one in value)
    else:
        yield f"{what}  {_flat(value)}"


def _flat(value: Any) -> str:
    if isinstance(value, dict):
        return ", ".join(f"{key} {_flat(one)}" for key, one in value.items())
    if isinstance(value, list):
        return f"[{', '.join(map(_flat, value))}]"
    if isinstance(value, str):
        return repr(value) if "\n" in value or value != value.strip() else value
    return str(value).lower() if isinstance(value, bool) else str(value)
