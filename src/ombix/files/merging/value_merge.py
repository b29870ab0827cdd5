"""Three-way merges of values: of an entry's rows, of a table's fields, of keys, of lists."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any, NamedTuple

from ombix.files.merging.file_units import ABSENT, KEY_FIELDS, LISTS, Unit, field_meaning, keys_list, meaning, rows_of

Same = Callable[[str, str], bool]
"""Whether two conditions, each as it is written, are the same."""


class MergedValue(NamedTuple):
    """A unit's value behind the merge; where both sides changed it differently, `other` is what theirs would have it be."""

    value: Any
    collides: bool = False
    other: Any = ABSENT


class ThreeWay:
    """Merges values. `same` compares conditions."""

    def __init__(self, same: Same) -> None:
        self._same = same

    def equal(self, unit: Unit, one: Any, other: Any) -> bool:
        """Whether two values of a unit mean the same."""
        if one is other or (type(one) is type(other) and one == other):
            return True
        first, second = meaning(unit, one), meaning(unit, other)
        return first == second or self._alike(first, second, unit[0] == "where")

    def _alike(self, one: Any, other: Any, is_condition: bool) -> bool:
        """Whether two meanings differ in nothing but how conditions are written."""
        if is_condition and isinstance(one, str) and isinstance(other, str):
            return one == other or self._same(one, other)
        if isinstance(one, dict) and isinstance(other, dict):
            return one.keys() == other.keys() and all(
                self._alike(value, other[key], key == "where") for key, value in one.items()
            )
        if isinstance(one, list) and isinstance(other, list):
            return len(one) == len(other) and all(
                self._alike(first, second, False) for first, second in zip(one, other, strict=True)
            )
        return type(one) is type(other) and bool(one == other)

    def unit(self, unit: Unit, base: Any, ours: Any, theirs: Any) -> MergedValue:
        """A unit's value: of the side that changed it, or put together where both did."""
        if self.equal(unit, ours, theirs) or self.equal(unit, base, theirs):
            return MergedValue(ours)
        if self.equal(unit, base, ours):
            return MergedValue(theirs)
        if ours is ABSENT or theirs is ABSENT:
            return MergedValue(theirs if ours is ABSENT else ours, True, theirs)
        if unit[0] in ("bind", "only") and len(unit) == 3:
            return self._entry(base, ours, theirs)
        if len(unit) == 1 and unit[0] in LISTS and isinstance(ours, list) and isinstance(theirs, list):
            return MergedValue(_members(base if isinstance(base, list) else [], ours, theirs))
        if isinstance(ours, dict) and isinstance(theirs, dict):
            value, collides = self._fields(base if isinstance(base, dict) else {}, ours, theirs)
            return MergedValue(value, collides, self._fields(base, theirs, ours)[0] if collides else ABSENT)
        return MergedValue(ours, True, theirs)

    # --- fields

    def _fields(
        self, base: Mapping[str, Any], ours: Mapping[str, Any], theirs: Mapping[str, Any]
    ) -> tuple[dict[str, Any], bool]:
        """A table whose fields are merged one by one, and whether any collides: then it has ours."""
        if not isinstance(base, Mapping):
            base = {}
        found: dict[str, Any] = {}
        collides = False
        for key in dict.fromkeys([*ours, *theirs]):
            value, is_wrong = self._field(key, *(side.get(key, ABSENT) for side in (base, ours, theirs)))
            collides = collides or is_wrong
            if value is not ABSENT:
                found[key] = value
        return found, collides

    def _field(self, key: str, base: Any, ours: Any, theirs: Any) -> tuple[Any, bool]:
        if self._same_field(key, ours, theirs) or self._same_field(key, base, theirs):
            return ours, False
        if self._same_field(key, base, ours):
            return theirs, False
        is_keys = key in KEY_FIELDS and all(_is_keys(one) for one in (base, ours, theirs))
        if not is_keys:
            return ours, True
        before, mine, other = keys_list(base), keys_list(ours), keys_list(theirs)
        moved = (set(before) - set(mine)) & (set(before) - set(other))
        if moved and set(mine) - set(before) != set(other) - set(before):
            return ours, True  # the same keys were moved to two places
        merged = _members(before, mine, other)
        return (merged[0] if len(merged) == 1 else merged) if merged else ABSENT, not merged

    def _same_field(self, key: str, one: Any, other: Any) -> bool:
        if one is ABSENT or other is ABSENT:
            return one is other
        return self._alike(field_meaning(key, one), field_meaning(key, other), key == "where")

    # --- rows

    def _entry(self, base: Any, ours: Any, theirs: Any) -> MergedValue:
        """An entry whose rows are merged one by one; one that takes the action's keys away (`false`) has no rows."""
        if ours is False or theirs is False:
            return MergedValue(ours, True, theirs)
        before = rows_of(base) if base is not ABSENT and base is not False else []
        rows, collides = self._rows(before, rows_of(ours), rows_of(theirs))
        if not rows:
            return MergedValue(ours, True, theirs)
        if not collides:
            return MergedValue(_entry_of(rows))
        other, _ = self._rows(before, rows_of(theirs), rows_of(ours))
        return MergedValue(_entry_of(rows), True, _entry_of(other))

    def _rows(
        self, base: list[dict[str, Any]], ours: list[dict[str, Any]], theirs: list[dict[str, Any]]
    ) -> tuple[list[dict[str, Any]], bool]:
        mine, other = self._partners(base, ours), self._partners(base, theirs)
        mine_base = {index: number for number, index in mine.items()}
        found: list[dict[str, Any]] = []
        collides = False
        for index, row in enumerate(ours):
            if index not in mine_base:
                found.append(row)  # a new one
                continue
            before = base[mine_base[index]]
            partner = other.get(mine_base[index])
            if partner is None:
                if self._same_row(before, row):
                    continue  # theirs took it out
                collides = True
                found.append(row)
                continue
            merged, is_wrong = self._fields(before, row, theirs[partner])
            collides = collides or is_wrong
            found.append(row if is_wrong else merged)  # half of each would be what nobody wrote
        for number, partner in other.items():
            if number not in mine and not self._same_row(base[number], theirs[partner]):
                collides = True  # ours took out what theirs changed
                found.append(theirs[partner])
        known = set(other.values())
        new = [row for index, row in enumerate(theirs) if index not in known]
        found += [row for row in new if not any(self._same_row(row, one) for one in found)]
        return found, collides

    def _same_row(self, one: Mapping[str, Any], other: Mapping[str, Any]) -> bool:
        return one.keys() == other.keys() and all(self._same_field(key, one[key], other[key]) for key in one)

    def _partners(self, base: Sequence[dict[str, Any]], side: Sequence[dict[str, Any]]) -> dict[int, int]:
        """Which row of the base is which of a side: the same; or on the same keys; or the same but for its keys; or the only one
        that is left of both."""
        found: dict[int, int] = {}
        free = list(range(len(side)))
        tests: tuple[Callable[[dict[str, Any], dict[str, Any]], bool], ...] = (
            self._same_row,
            lambda one, two: _keys_of(one) == _keys_of(two),
            lambda one, two: bool(set(_keys_of(one)) & set(_keys_of(two))),
            lambda one, two: self._same_row(_without_keys(one), _without_keys(two)) and one.keys() == two.keys(),
        )
        for is_partner in tests:
            for number, row in enumerate(base):
                if number not in found:
                    index = next((index for index in free if is_partner(row, side[index])), None)
                    if index is not None:
                        found[number] = index
                        free.remove(index)
        left = [number for number in range(len(base)) if number not in found]
        if len(left) == len(free) == 1:
            found[left[0]] = free[0]
        return found


def _is_keys(value: Any) -> bool:
    members = value if isinstance(value, list) else [value]
    return value is ABSENT or all(isinstance(member, str) for member in members)


def _keys_of(row: Mapping[str, Any]) -> list[Any]:
    return [keys for key in KEY_FIELDS if key in row for keys in keys_list(row[key])]


def _without_keys(row: Mapping[str, Any]) -> dict[str, Any]:
    return {key: value for key, value in row.items() if key not in KEY_FIELDS}


def _members(base: Sequence[Any], ours: Sequence[Any], theirs: Sequence[Any]) -> list[Any]:
    """A list with what either side put in, and without what either took out, in the order of ours."""
    kept = [value for value in ours if value in theirs or value not in base]
    return [*kept, *(value for value in theirs if value not in base and value not in ours)]


def _entry_of(rows: Sequence[dict[str, Any]]) -> Any:
    """The rows as an entry, in its shortest form."""
    short = [row["press"] if list(row) == ["press"] and isinstance(row["press"], str) else row for row in rows]
    return short[0] if len(short) == 1 else short
