"""What a keymap or workspace file says, in units: an action's entry, a named condition, a macro, an accepted finding."""

from collections.abc import Iterable, Iterator, Mapping
from functools import lru_cache
from typing import Any

from ombix.core.errors import NotationError
from ombix.core.keys.notation import parse, write
from ombix.data.platform_names import PLATFORMS

Unit = tuple[str, ...]

KEY_FIELDS = ("press", "also", *PLATFORMS)
ROWS = ("accept", "kept", "conflict")
"""Lists of tables; each row is a unit of its own."""
LISTS = ("extends", "never", "layers")
"""Lists whose members come and go by themselves."""
_DEPTH = {
    "bind": 3, "only": 3, "where": 2, "unbind": 2, "macro": 2, "snippet": 2, "fact": 2, "editor": 2, "reserved": 2,
    "machine": 2, "severity": 2, "use": 2,
}  # fmt: skip


class Absent:
    """The value of a unit that is not there."""

    def __repr__(self) -> str:
        return "ABSENT"


ABSENT = Absent()


def units(table: Mapping[str, Any], coarse: Iterable[Unit] = ()) -> dict[Unit, Any]:
    """Unit to its value, in the order of the file. What stands under one of the `coarse` paths is one unit: somewhere it is
    written as one table that cannot be taken apart."""
    found: dict[Unit, Any] = {}
    whole = set(coarse)
    for key, value in table.items():
        if key in ROWS and _is_rows(value):
            for unit, row in zip(row_units(key, value), value, strict=True):
                found[unit] = row
        else:
            for path, each in _walk((key,), value, _DEPTH.get(key, 1), whole):
                found[unit_of(path)] = each
    return found


def _walk(path: Unit, value: Any, depth: int, whole: set[Unit]) -> Iterator[tuple[Unit, Any]]:
    if len(path) >= depth or not isinstance(value, dict) or path in whole:
        yield path, value
        return
    for key, each in value.items():
        yield from _walk((*path, key), each, depth, whole)


def depth_of(name: str) -> int:
    """How many names the path of a unit has that begins so."""
    return _DEPTH.get(name, 2 if name in ROWS else 1)


def unit_of(path: Unit) -> Unit:
    """The unit that a path is of, or stands in."""
    unit = path[: depth_of(path[0])]
    return (*unit[:-1], keys_text(unit[-1])) if unit[0] in ("unbind", "reserved") and len(unit) > 1 else unit


def row_units(key: str, rows: Iterable[Mapping[str, Any]]) -> list[Unit]:
    """The units of the rows of a list of tables, known by what they are about."""
    found: list[Unit] = []
    for row in rows:
        if key == "accept":
            name = f"{row.get('rule', '')} {keys_text(row.get('press', ''))}".strip()
        elif key == "conflict":
            name = str(row.get("at", "")) or keys_text(row.get("press", ""))
        else:
            name = f"{row.get('editor', '')}\n{row.get('text', '')}"
        unit: Unit = (key, name)
        number = 1
        while unit in found:
            number += 1
            unit = (key, name, str(number))
        found.append(unit)
    return found


def _is_rows(value: Any) -> bool:
    return isinstance(value, list) and all(isinstance(row, dict) for row in value)


@lru_cache(maxsize=65536)
def _written(keys: str) -> str:
    try:
        return write(parse(keys))
    except NotationError:
        return keys


def keys_text(keys: Any) -> str:
    """Keys as Ombix writes them; what is no keys stays as it is."""
    return _written(keys) if isinstance(keys, str) else repr(keys)


def plain_condition(text: str) -> str:
    """A condition without what only its looks differ by."""
    return " ".join(text.split())


# --- rows of an entry


def rows_of(value: Any) -> list[dict[str, Any]]:
    """The rows of an entry, each as a table of fields."""
    rows = value if isinstance(value, list) else [value]
    return [row if isinstance(row, dict) else {"press": row} for row in rows]


def meaning(unit: Unit, value: Any) -> Any:
    """What a unit's value means: equal for two that are only written otherwise."""
    if isinstance(value, Absent):
        return value
    kind = unit[0]
    if kind in ("bind", "only") and len(unit) == 3:
        return [_fields(row) for row in rows_of(value)]
    if kind == "where" and isinstance(value, str):
        return plain_condition(value)
    return _fields(value) if isinstance(value, dict) else value


def _fields(row: Mapping[str, Any]) -> dict[str, Any]:
    return {key: field_meaning(key, value) for key, value in row.items()}


def field_meaning(key: str, value: Any) -> Any:
    """What a field's value means."""
    if key in KEY_FIELDS:
        return keys_list(value)
    return plain_condition(value) if key == "where" and isinstance(value, str) else value


def keys_list(value: Any) -> list[Any]:
    """The keys of a field, one or several, as Ombix writes them."""
    return [keys_text(one) if isinstance(one, str) else one for one in (value if isinstance(value, list) else [value])]
