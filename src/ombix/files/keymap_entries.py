"""Entries of a keymap file as texts, one row or several: a row's keys changed, its condition, or the row taken out.

A row is keys alone (`"Ctrl+D"`) or an inline table of fields; an entry is a row or an array of rows. Each function gives the
new text, with all else as it was, or None where no row binds these keys under this condition.
"""

from collections.abc import Callable, Iterator
from typing import NamedTuple

import tomli

from ombix.core.errors import NotationError
from ombix.core.keys.notation import Trigger, parse, write
from ombix.data.platform_names import PLATFORMS
from ombix.files import toml_values

KEY_FIELDS = ("press", "also", *PLATFORMS)


class _Slot(NamedTuple):
    """Where keys stand in a row: in which field (empty: the row is the keys alone), and in which member of a list of them (None:
    it is no list)."""

    field: str
    at: int | None
    text: str


def moved(text: str, keys: Trigger, where: str, to: Trigger) -> str | None:
    """The entry with other keys in place of some."""
    return _changed(text, keys, where, lambda row: [_with_keys(row, keys, to)])


def narrowed(text: str, keys: Trigger, where: str, to: str) -> str | None:
    """The entry with another condition for these keys; other keys of the same row stay in one of their own."""

    def change(row: str) -> list[str]:
        rest = _without_keys(row, lambda each: each == keys)
        alone = _without_keys(row, lambda each: each != keys)
        assert alone is not None
        return [*([rest] if rest is not None else []), _with_where(alone, to)]

    return _changed(text, keys, where, change)


def removed(text: str, keys: Trigger, where: str) -> str | None:
    """The entry without keys; empty where nothing is left of it."""

    def change(row: str) -> list[str]:
        rest = _without_keys(row, lambda each: each == keys)
        return [rest] if rest is not None else []

    found = _changed(text, keys, where, change)
    if found and any(map(_is_for_all, _rows(text))) and not any(map(_is_for_all, _rows(found))):
        # Where an entry speaks of some platforms only, what lower layers say holds on the others.
        first, *others = _rows(found)
        found = _joined([toml_values.with_field(first, "press", "false"), *others])
    return found


def with_row(text: str, row: str) -> str:
    """The entry with one more row."""
    return toml_values.with_one_more(text, row) if text.startswith("[") else f"[{text}, {row}]"


def has_keys(text: str, keys: Trigger, where: str = "") -> bool:
    """Whether a row of the entry binds these keys, under this condition where one is named."""
    return any(_is_row(row, keys, where) for row in _rows(text))


# --- rows


def _changed(text: str, keys: Trigger, where: str, change: Callable[[str], list[str]]) -> str | None:
    """The entry with each row of these keys changed."""
    if not text.startswith("["):
        return _joined(change(text)) if _is_row(text, keys, where) else None
    is_found = False
    for index in reversed(range(len(toml_values.members(text)))):
        row = toml_values.parts(text)[index]
        if not _is_row(row, keys, where):
            continue
        is_found = True
        found = change(row)
        if not found:
            text = toml_values.without_part(text, index)
            continue
        text = toml_values.with_part(text, index, found[0])
        for more in found[1:]:
            text = toml_values.with_one_more(text, more)
    if not is_found:
        return None
    left = toml_values.parts(text)
    if len(left) < 2 and "#" not in text:
        return left[0] if left else ""
    return text if left else ""


def _joined(rows: list[str]) -> str:
    return rows[0] if len(rows) == 1 else f"[{', '.join(rows)}]" if rows else ""


def _rows(text: str) -> list[str]:
    return toml_values.parts(text) if text.startswith("[") else [text]


def _is_row(row: str, keys: Trigger, where: str) -> bool:
    has_where = not where or _where(row) == where
    return has_where and any(_parsed(slot.text) == keys for slot in _slots(row))


def _is_for_all(row: str) -> bool:
    """Whether a row says all that there is to say of its action, on every platform; one that adds to lower layers stays such."""
    return not row.startswith("{") or any(toml_values.field(row, name) is not None for name in ("press", "also"))


def _where(row: str) -> str:
    found = toml_values.field(row, "where") if row.startswith("{") else None
    return str(_value(found[1])) if found is not None else "always"


def _slots(row: str) -> Iterator[_Slot]:
    """Where the keys of a row stand."""
    if not row.startswith("{"):
        yield _Slot("", None, row)
        return
    for name in KEY_FIELDS:
        found = toml_values.field(row, name)
        if found is None:
            continue
        if found[1].startswith("["):
            yield from (_Slot(name, index, part) for index, part in enumerate(toml_values.parts(found[1])))
        else:
            yield _Slot(name, None, found[1])


def _with_keys(row: str, keys: Trigger, to: Trigger) -> str:
    for slot in _slots(row):
        if _parsed(slot.text) == keys:
            row = _with_slot(row, slot, toml_values.quoted_like(slot.text, write(to)))
    return row


def _with_slot(row: str, slot: _Slot, text: str) -> str:
    if not slot.field:
        return text
    if slot.at is None:
        return toml_values.with_field(row, slot.field, text)
    found = toml_values.field(row, slot.field)
    assert found is not None
    return toml_values.with_field(row, slot.field, toml_values.with_part(found[1], slot.at, text))


def _without_keys(row: str, is_unwanted: Callable[[Trigger], bool]) -> str | None:
    """The row without some keys; None where none is left."""
    slots = list(_slots(row))
    unwanted = [slot for slot in slots if (keys := _parsed(slot.text)) and is_unwanted(keys)]
    left = [slot for slot in slots if slot not in unwanted and _parsed(slot.text)]
    if not left:
        return None
    for slot in reversed(unwanted):
        found = toml_values.field(row, slot.field)
        if slot.at is None or found is None:
            row = toml_values.without_field(row, slot.field)
            continue
        rest = toml_values.without_part(found[1], slot.at)
        row = (
            toml_values.with_field(row, slot.field, rest)
            if toml_values.parts(rest)
            else toml_values.without_field(row, slot.field)
        )
    # A platform that has no keys of its own any more would have those for all: that it has none is said.
    is_for_all = any(toml_values.field(row, name) is not None for name in ("press", "also"))
    for name in {slot.field for slot in unwanted} & {*PLATFORMS} if is_for_all else ():
        if toml_values.field(row, name) is None:
            row = toml_values.with_field(row, name, "false")
    if any(slot.field == "also" for slot in unwanted) and toml_values.field(row, "also") is None:
        row = toml_values.with_field(row, "also", "true")  # it still adds to what lower layers say
    return row


def _with_where(row: str, where: str) -> str:
    if where == "always":
        found = toml_values.without_field(row, "where") if row.startswith("{") else row
        press = toml_values.field(found, "press") if found.startswith("{") else None
        return press[1] if press is not None and found == f"{{ press = {press[1]} }}" else found
    condition = toml_values.quoted_like("", where)
    if not row.startswith("{"):
        return f"{{ press = {row}, where = {condition} }}"
    return toml_values.with_field(row, "where", condition)


def _parsed(text: str) -> Trigger:
    """The keys of a string's text; none where it is something else."""
    value = _value(text)
    try:
        return parse(value) if isinstance(value, str) else ()
    except NotationError:
        return ()


def _value(text: str) -> object:
    return tomli.loads(f"x = {text}")["x"]
