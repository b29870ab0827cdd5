"""Changes to keymap and workspace files that keep their comments and layout."""

from collections.abc import MutableMapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import tomlkit
from tomlkit.items import InlineTable, Table

from ombix.core.keys import Trigger, write
from ombix.store.files import read_text


@dataclass(frozen=True, slots=True)
class Changed:
    """The text of a file after a change, the entry that was written, and the one that it replaced."""

    text: str
    line: str
    was: str = ""


def bind(text: str, action: str, trigger: Trigger, where: str = "", platform: str = "", also: bool = False) -> Changed:
    """Give an action keys. With `platform` only there; with `also` besides those it has in this file."""
    document = tomlkit.parse(text)
    domain, _, verb = action.partition(".")
    table = _table(_table(document, "bind"), domain)
    old = table.get(verb)
    was = "" if old is None else f"{verb} = {_text(old)}"
    value: Any
    if platform:
        fields = dict(old) if isinstance(old, InlineTable) else {} if old in (None, False) else {"press": old}
        if isinstance(old, list) and not all(isinstance(row, str) for row in old):
            fields, also = {}, True  # entries with conditions stay as they are, and get one more beside them
        fields[platform] = write(trigger)
        if where:
            fields["where"] = where
        value = _inline(fields)
    elif where:
        value = _inline({"press": write(trigger), "where": where})
    else:
        value = tomlkit.item(write(trigger))
    if also and old not in (None, False):
        rows = tomlkit.array()
        for row in [*(old if isinstance(old, list) else [old]), value]:
            rows.append(row)
        value = rows
    _put(table, verb, value)
    return Changed(_with_line_ends(tomlkit.dumps(document), text), f"{verb} = {_text(value)}", was)


def remove(text: str, action: str, why: str = "") -> Changed:
    """Take an action's keys away, with the reason."""
    document = tomlkit.parse(text)
    domain, _, verb = action.partition(".")
    table = _table(_table(document, "bind"), domain)
    old = table.get(verb)
    value = _inline({"press": False, **({"why": why} if why else {})})
    _put(table, verb, value)
    was = "" if old is None else f"{verb} = {_text(old)}"
    return Changed(_with_line_ends(tomlkit.dumps(document), text), f"{verb} = {_text(value)}", was)


def add_layer(path: Path, name: str) -> str:
    """The text of a workspace file with one more layer, which goes above those that it has."""
    text = read_text(path)
    document = tomlkit.parse(text)
    layers = document.get("layers")
    if layers is None:
        layers = tomlkit.array()
        layers.append(name)
        before = [key for key in document if key != "editor"]
        position = document.body.index(
            next(pair for pair in document.body if pair[0] is not None and pair[0].key == before[-1])
        )
        document._insert_at(position + 1, "layers", layers)  # tomlkit has no public way to put a key in the middle
    else:
        layers.append(name)
    return _with_line_ends(tomlkit.dumps(document), text)


def _table(parent: MutableMapping[str, Any], key: str) -> MutableMapping[str, Any]:
    found = parent.get(key)
    if found is None:
        table: Table = tomlkit.table(is_super_table=key == "bind")
        parent[key] = table
        found = parent[key]
    return found  # type: ignore[no-any-return]


def _put(table: MutableMapping[str, Any], key: str, value: Any) -> None:
    """Set a key; a new one goes right behind the last one, before the blanks and comments that end the table."""
    keys = list(table)
    if key in keys or not keys:
        table[key] = value
    else:
        value.trivia.trail = "\n"
        table.value._insert_after(keys[-1], key, value)  # type: ignore[attr-defined]


def _inline(fields: dict[str, Any]) -> Any:
    """An inline table with blanks inside its braces, as people write it."""
    inner = ", ".join(f"{key} = {tomlkit.item(value).as_string()}" for key, value in fields.items())
    return tomlkit.parse(f"x = {{ {inner} }}")["x"]


def _text(value: Any) -> str:
    return str(value.as_string()) if hasattr(value, "as_string") else str(tomlkit.item(value).as_string())


def _with_line_ends(text: str, original: str) -> str:
    """Line ends as in the original: tomlkit writes those of new lines with a bare line feed."""
    if "\r\n" in original:
        return text.replace("\r\n", "\n").replace("\n", "\r\n")
    return text
