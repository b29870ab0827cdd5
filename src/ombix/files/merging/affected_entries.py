"""Which entries of a file have to do with keys that somebody changed."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import lru_cache
from typing import Any

from msgspec.structs import replace

from ombix.core.errors import NotationError
from ombix.core.keymap.bindings import Layer
from ombix.core.keys.notation import CTRL, META, MOD, parse, write
from ombix.files.merging.file_merge import UnitChange, UnitConflict
from ombix.files.merging.file_units import ABSENT, KEY_FIELDS, Unit, keys_text, rows_of, unit_of, units

_BOUND = ("bind", "only", "macro", "snippet")
"""Tables whose entries have keys, of which the last one wins."""
_MAIN = CTRL | META | MOD
Keys = tuple[str, ...]


class AffectedEntries:
    """The entries that were changed, or on whose keys others come first in some of the versions (`tables`), and those with the
    same keys, with some that begin them, or with longer ones."""

    def __init__(
        self, changes: Iterable[UnitChange], opened: Iterable[UnitConflict], tables: Sequence[Mapping[str, Any]] = ()
    ) -> None:
        values = [
            *((change.unit, value) for change in changes for value in (change.before, change.after)),
            *((one.unit, value) for one in opened for value in (one.base, one.ours, one.theirs)),
        ]
        self._units = {unit for unit, _value in values}
        self._keys = {keys for unit, value in values for keys in _keys_of(unit, value)}
        self._keys |= in_another_order(tables)
        self._starts = {keys[:length] for keys in self._keys for length in range(1, len(keys))}
        kinds = {unit[0] for unit in self._units}
        self._is_all = () in self._keys or not kinds.isdisjoint(("where", "fact", "never", "extends"))

    def kept(self, table: Mapping[str, Any]) -> dict[str, Any]:
        """A file's table with these entries, and all that is none."""
        found = dict(table)
        for name, depth in (("bind", 2), ("only", 2), ("unbind", 1)) if not self._is_all else ():
            if isinstance(table.get(name), dict):
                found[name] = self._part((name,), table[name], depth)
        return found

    def _part(self, path: Unit, table: Mapping[str, Any], depth: int) -> dict[str, Any]:
        found: dict[str, Any] = {}
        for key, value in table.items():
            unit = (*path, key)
            if depth > 1 and isinstance(value, dict):
                found[key] = self._part(unit, value, depth - 1)
            elif unit_of(unit) in self._units:
                found[key] = value
            elif rows := [row for row in rows_of(value) if self._is_near(unit, row)]:
                found[key] = rows if isinstance(value, list) else value
        return found

    def _is_near(self, unit: Unit, row: Any) -> bool:
        return any(map(self._are_near, _keys_of(unit, row)))

    def _are_near(self, keys: Keys) -> bool:
        return (
            keys in self._keys
            or keys in self._starts
            or any(keys[:length] in self._keys for length in range(len(keys)))
        )

    def units_among(self, index: "KeyIndex") -> set[Unit] | None:
        """The units of an index that are near; None for all."""
        if self._is_all:
            return None
        found = set(self._units)
        for keys in self._keys:
            found |= index.beginning.get(keys, set())
            found.update(*(index.exactly.get(keys[:length], set()) for length in range(1, len(keys))))
        return found

    def layer(self, layer: Layer) -> Layer:
        """A layer with those of its bindings whose keys are near."""
        if self._is_all:
            return layer
        kept = [binding for binding in layer.bindings if self._are_near(_chords(binding.written))]
        return replace(layer, bindings=kept, removals=[], replaces={}, problems=[], accepted=layer.accepted)

    @staticmethod
    def keys_in(unit: Unit, value: Any) -> Iterator[str]:
        """The keys of an entry, as Ombix writes them."""
        texts = [unit[-1]] if unit[0] == "unbind" and value is not ABSENT else []
        for row in rows_of(value) if value is not ABSENT and unit[0] != "unbind" else ():
            for name in KEY_FIELDS:
                keys = row.get(name)
                texts += [key for key in (keys if isinstance(keys, list) else [keys]) if isinstance(key, str)]
        yield from map(keys_text, texts)


def in_another_order(tables: Sequence[Mapping[str, Any]]) -> set[Keys]:
    """The keys whose entries do not follow on each other in the same way in all versions that are there."""
    found = [{unit: value for unit, value in units(table).items() if unit[0] in _BOUND} for table in tables if table]
    if not found:
        return set()
    everywhere = set(found[0]).intersection(*found[1:])
    orders = [[unit for unit in one if unit in everywhere] for one in found]
    if all(order == orders[0] for order in orders[1:]):
        return set()
    on_keys: list[dict[Keys, list[Unit]]] = []
    for one, order in zip(found, orders, strict=True):
        on_keys.append({})
        for unit in order:
            for keys in dict.fromkeys(_keys_of(unit, one[unit])):
                on_keys[-1].setdefault(keys, []).append(unit)
    first = on_keys[0]
    return {keys for other in on_keys[1:] for keys in {*first, *other} if first.get(keys) != other.get(keys)}


class KeyIndex:
    """The units of a file by their keys, and by each beginning of these."""

    def __init__(self, units: Mapping[Unit, Any]) -> None:
        self.exactly: dict[Keys, set[Unit]] = {}
        self.beginning: dict[Keys, set[Unit]] = {}
        for unit, value in units.items():
            for keys in _keys_of(unit, value) if unit[0] in ("bind", "only", "unbind") else ():
                self.exactly.setdefault(keys, set()).add(unit)
                for length in range(1, len(keys) + 1):
                    self.beginning.setdefault(keys[:length], set()).add(unit)


def _keys_of(unit: Unit, value: Any) -> Iterator[Keys]:
    """The keys of an entry, chord by chord; () for keys that stand for several."""
    if value is ABSENT:
        return
    if unit[0] == "unbind":
        yield _chords(unit[-1])
        return
    for row in rows_of(value):
        for name in KEY_FIELDS:
            keys = row.get(name)
            yield from (_chords(key) for key in (keys if isinstance(keys, list) else [keys]) if isinstance(key, str))


def _chords(keys: str) -> Keys:
    return () if "{" in keys else tuple(map(_chord, keys.split()))


@lru_cache(maxsize=4096)
def _chord(text: str) -> str:
    """A chord, in which the main modifiers of all platforms are the same."""
    try:
        (one,) = parse(text)
    except (NotationError, ValueError):
        return text
    return write((one._replace(modifiers=one.modifiers & ~_MAIN | (MOD if one.modifiers & _MAIN else 0)),))
