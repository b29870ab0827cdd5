"""Three texts of one file merged: which side's value each unit has, where both changed it, and the text that says so."""

from collections.abc import Mapping, Sequence, Set
from functools import cached_property
from typing import Any, NamedTuple

import tomli

from ombix.core.errors import OutsideError
from ombix.core.toml import Document
from ombix.files import line_merge as lines
from ombix.files import toml_pieces
from ombix.files.merging.assembling import Assembly
from ombix.files.merging.file_units import ABSENT, KEY_FIELDS, Unit, keys_list, keys_text, rows_of, units
from ombix.files.merging.name_uses import NAMED, names_used
from ombix.files.merging.renames import Renames, renamed, renames_in
from ombix.files.merging.text_pieces import Piece, coarse_in, coarser, pieces_of
from ombix.files.merging.value_merge import Same, ThreeWay


class UnitChange(NamedTuple):
    """A unit that a side changed: `ours`, `theirs`, or `both` in the same way or in ways that go together."""

    unit: Unit
    side: str
    before: Any
    after: Any


class UnitConflict(NamedTuple):
    """A unit that both sides changed, each otherwise; the merged file has `kept`. ABSENT: it is not there."""

    unit: Unit
    base: Any
    ours: Any
    theirs: Any
    kept: Any


class MergedText(NamedTuple):
    """The text behind a merge, what each side changed, and what collides; `renamed` says what was renamed on a side, `tables` are
    what was read: as it was, as both sides have it."""

    text: str
    changes: tuple[UnitChange, ...]
    conflicts: tuple[UnitConflict, ...]
    renamed: tuple[tuple[str, str, str, str], ...]
    """Side, kind, old and new name."""
    tables: tuple[dict[str, Any], ...] = ()


class Version(NamedTuple):
    """A text of the file, and what it is called in errors."""

    text: str
    name: str = ""


class _Side:
    """A version, read, with what the other side renamed in it."""

    def __init__(self, version: Version, document: Document, renames: Sequence[Renames]) -> None:
        self.text = version.text
        self.table = document.table
        if any(rename.named for rename in renames):
            for rename in renames:
                self.text = renamed(self.text, rename)
            self.table = Document(self.text, version.name).table

    @cached_property
    def pieces(self) -> list[Piece]:
        """The text in pieces."""
        return pieces_of(self.text, self.table)


def merge_texts(base: Version, ours: Version, theirs: Version, same: Same) -> MergedText:
    """The text with what both sides changed in `base`. Raises InputError where one is not TOML."""
    versions = (base, ours, theirs)
    documents = [Document(*version) for version in versions]
    mine, other = (renames_in(documents[0].table, side.table) for side in documents[1:])
    only_mine, only_theirs = mine.without_those_of(other), other.without_those_of(mine)
    followed = ([only_mine, only_theirs], [only_theirs], [only_mine])
    first, second, third = (_Side(*one) for one in zip(versions, documents, followed, strict=True))
    said = tuple((side, *one) for side, found in (("ours", mine), ("theirs", other)) for one in found.named)
    merged = _Merge(first, second, third, same).merged()
    return merged._replace(renamed=said, tables=(first.table, second.table, third.table))


def _is_about(row: Mapping[str, Any], unit: Unit, value: Any) -> bool:
    """Whether what was left open is about a unit: it is named, or the keys are among its own."""
    if "at" in row:
        return bool(".".join(map(toml_pieces.key_text, unit)) == row["at"])
    if unit[0] not in ("bind", "only", "macro", "snippet") or value is ABSENT:
        return False
    keys = keys_text(row.get("press", ""))
    return any(keys in keys_list(each.get(field)) for each in rows_of(value) for field in KEY_FIELDS if field in each)


class _Merge:
    def __init__(self, base: _Side, ours: _Side, theirs: _Side, same: Same) -> None:
        self._three = ThreeWay(same)
        self._base, self._ours, self._theirs = base, ours, theirs
        self._coarse = frozenset(unit for side in (base, ours, theirs) for unit in coarse_in(side.text))
        self._units = [units(side.table, self._coarse) for side in (base, ours, theirs)]

    def merged(self) -> MergedText:
        """The whole merge."""
        base, ours, theirs = self._units
        wanted: dict[Unit, Any] = {}
        changes: list[UnitChange] = []
        conflicts: list[UnitConflict] = []
        for unit in dict.fromkeys([*ours, *theirs, *base]):
            values = tuple(side.get(unit, ABSENT) for side in (base, ours, theirs))
            if values[0] is not ABSENT and values[0] == values[1] == values[2]:
                wanted[unit] = values[1]
                continue
            found = self._three.unit(unit, *values)
            changes += self._change(unit, values, found.value)
            if found.collides:
                conflicts.append(UnitConflict(unit, values[0], values[1], found.other, found.value))
            if found.value is not ABSENT:
                wanted[unit] = found.value
        conflicts += self._settled_otherwise(wanted, {conflict.unit for conflict in conflicts})
        conflicts += self._used_all_the_same(wanted)
        return MergedText(self._text(wanted), tuple(changes), tuple(conflicts), ())

    def _settled_otherwise(self, wanted: Mapping[Unit, Any], known: Set[Unit]) -> list[UnitConflict]:
        """What a merge before left open, and both sides settled, each otherwise. One of them may have settled for what stood there
        already, so that by the values alone only the other one has changed anything."""
        base, ours, theirs = self._units
        found: dict[Unit, UnitConflict] = {}
        for unit, row in base.items():
            if unit[0] != "conflict" or unit in ours or unit in theirs or not isinstance(row, dict):
                continue
            about = [
                one for one in base.keys() | ours.keys() | theirs.keys() if _is_about(row, one, base.get(one, ABSENT))
            ]
            for one in sorted(about):
                values = [side.get(one, ABSENT) for side in self._units]
                if one not in known and not self._three.equal(one, values[1], values[2]):
                    found[one] = UnitConflict(one, values[0], values[1], values[2], wanted.get(one, ABSENT))
        return list(found.values())

    def _used_all_the_same(self, wanted: dict[Unit, Any]) -> list[UnitConflict]:
        """What one side took out and the other newly uses stays, and collides."""
        found = []
        gone = [unit for unit in self._units[0] if unit[0] in NAMED and len(unit) == 2 and unit not in wanted]
        used = names_used(wanted) if gone else set()
        for unit in gone:
            if (unit[0], unit[1]) in used or (unit[0] == "fact" and ("where", unit[1]) in used):
                base, ours, theirs = (side.get(unit, ABSENT) for side in self._units)
                wanted[unit] = base if ours is ABSENT and theirs is ABSENT else theirs if ours is ABSENT else ours
                found.append(UnitConflict(unit, base, ours, theirs, wanted[unit]))
        return found

    def _change(self, unit: Unit, values: tuple[Any, ...], merged: Any) -> list[UnitChange]:
        base, ours, theirs = values
        is_ours, is_theirs = (not self._three.equal(unit, base, side) for side in (ours, theirs))
        if not is_ours and not is_theirs:
            return []
        side = "both" if is_ours and is_theirs else "ours" if is_ours else "theirs"
        return [UnitChange(unit, side, base, merged)]

    def _text(self, wanted: Mapping[Unit, Any]) -> str:
        """The merged text: line by line where that says what is wanted, else unit by unit."""
        ours = self._ours.text
        if self._base.text == ours:
            return self._theirs.text
        if self._theirs.text in (self._base.text, ours):
            return ours
        sides = (self._base, self._ours, self._theirs)
        found = lines.merge(*(side.text.encode("utf-8") for side in sides))
        if isinstance(found, bytes) and self._says(found.decode("utf-8"), wanted):
            return found.decode("utf-8")
        for side in sides:
            coarser(side.pieces, self._coarse)
        assembly = Assembly(*(side.pieces for side in sides))
        made = assembly.made(wanted, self._units[1], self._units[2], "\r\n" if "\r\n" in ours else "\n")
        if not self._says(made, wanted):
            raise OutsideError(
                "the merged text does not say what was merged", "Nothing was written. This is a fault in Ombix."
            )
        return made

    def _says(self, text: str, wanted: Mapping[Unit, Any]) -> bool:
        """Whether a text has these units, and no others."""
        try:
            found = units(tomli.loads(text), self._coarse)
        except (ValueError, RecursionError):
            return False
        return found.keys() == wanted.keys() and all(
            value == found[unit] or self._three.equal(unit, value, found[unit]) for unit, value in wanted.items()
        )
