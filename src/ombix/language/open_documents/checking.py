"""What is wrong with a keymap while it is typed: at once for what the last change touched, in full when there is time."""

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any, NamedTuple

from ombix.core.audit import AuditSubject, audit
from ombix.core.errors import OmbixError, Place
from ombix.core.gc_pause import no_garbage_collection
from ombix.core.keymap.bindings import Keymap, Layer
from ombix.core.live_toml import LiveDocument, Statements, live_document
from ombix.core.text_changes import alike
from ombix.core.toml import Document
from ombix.files import keymap_reading
from ombix.files.disk import absolute
from ombix.files.merging.affected_entries import AffectedEntries, KeyIndex
from ombix.files.merging.file_merge import UnitChange
from ombix.files.merging.file_units import ABSENT, Unit, depth_of, unit_of, units
from ombix.workspace import findings
from ombix.workspace.findings_answer import FindingSpot, FoundFault
from ombix.workspace.open_workspace import OpenWorkspace

AT_ONCE = (
    "argument", "clash", "conflict", "covered", "crossed-exceptions", "desktop-key", "doubled", "hard-press", "hidden-sequence",
    "impossible", "no-press", "not-sent", "swallowed-text", "system-key", "unfit", "unknown",
)  # fmt: skip
"""The rules whose findings are about some keys alone: asked after each change."""
_NOT_TOML = "this is not TOML"


class _Known(NamedTuple):
    """What the last full check found: the text's units and lines, the findings, and what they were found in."""

    units: dict[Unit, Any]
    by_keys: KeyIndex
    lines: list[str]
    findings: tuple[FoundFault, ...]
    subject: AuditSubject
    below: list[Layer]
    above: list[Layer]
    own: Layer


class DraftCheck:
    """The checks of one keymap file that is being written. `path` is where it belongs."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._file = absolute(path)
        self._statements = Statements()
        self._known: _Known | None = None

    def in_full(self, session: OpenWorkspace, text: str) -> tuple[FoundFault, ...]:
        """All findings that are about this file. `session` has the text in place of the file."""
        try:
            with no_garbage_collection():
                here = session.keymap(tells_faults=False)
                editors = session.workspace_editors()
                subject = findings.subject_of(here, editors, session.resources)
                rules = findings.choose_rules()
                found = findings.Found(subject, tuple(rules), tuple(audit(subject, rules)))
                mine = tuple(self._mine(findings.report(found).findings))
        except OmbixError as error:
            return (as_finding(error, self._file),)
        layers = list(here.context.layers)
        index = next((number for number, one in enumerate(layers) if self._file in one.files), len(layers) - 1)
        statements = Statements()
        table = LiveDocument(
            text, self._file, statements
        ).table  # so that the first half statement finds all others read
        found_units = units(table)
        self._statements = statements
        self._known = _Known(
            found_units,
            KeyIndex(found_units),
            text.split("\n"),
            mine,
            subject,
            layers[:index],
            layers[index + 1 :],
            layers[index],
        )
        return mine

    def at_once(self, text: str) -> tuple[FoundFault, ...] | None:
        """The findings behind a change: those about the keys that it touched anew, the others as they were; None where a full check
        has to be made first."""
        known = self._known
        if known is None:
            return None
        with no_garbage_collection():
            try:
                document = live_document(text, self._file, self._statements)
                found, old = units(document.table), known.units
                changed = [
                    UnitChange(unit, "ours", old.get(unit, ABSENT), found.get(unit, ABSENT))
                    for unit in dict.fromkeys([*old, *found])
                    if old.get(unit, ABSENT) is not found.get(unit, ABSENT) and old.get(unit) != found.get(unit)
                ]
                new = self._about(document, changed, known) if changed or document.errors else ()
            except OmbixError as error:
                return (as_finding(error, self._file),)
            return (*self._kept(known, text, changed), *new)

    def _mine(self, found: Sequence[FoundFault]) -> Iterator[FoundFault]:
        """The findings that have a place in this file."""
        return (one for one in found if any(spot.place.file == self._file for spot in one.places))

    # --- at once

    def _about(self, document: Document, changed: list[UnitChange], known: _Known) -> tuple[FoundFault, ...]:
        """The findings about the entries that were changed, and those on the same keys."""
        near = AffectedEntries(changed, ())
        wanted = near.units_among(known.by_keys)
        document.table, whole = _only(document.table, wanted), document.table
        try:
            base = known.subject
            facts = Keymap(known.below).facts(base.space.facts)
            own = keymap_reading.read_over(document, base.catalogue, facts, known.below, known.own.name)
        finally:
            document.table = whole
        layers = [*(near.layer(one) for one in known.below), own, *(near.layer(one) for one in known.above)]
        keymap = Keymap(layers)
        space = base.space if base.space.is_over(keymap.facts(base.space.facts)) else keymap.space(base.space.facts)
        subject = AuditSubject(
            keymap, base.platform, space, base.catalogue, base.policy, tuple, base.setups, base.usual_setup, base.reserved,
            base.terminals, base.platforms, severities=base.severities, effort=base.effort,
        )  # fmt: skip
        subject.proposes = False
        rules = findings.choose_rules(AT_ONCE)
        found = findings.Found(subject, tuple(rules), tuple(audit(subject, rules)))
        return tuple(self._mine(findings.report(found).findings))

    def _kept(self, known: _Known, text: str, changed: list[UnitChange]) -> Iterator[FoundFault]:
        """The findings of the last full check that the change has nothing to do with, where their lines are now."""
        lines = text.split("\n")
        first, same = alike(known.lines, lines)
        behind, moved = len(known.lines) - same, len(lines) - len(known.lines)
        keys = {key for change in changed for key in _keys(change)}
        for finding in known.findings:
            if finding.rule in AT_ONCE and (keys & set(finding.keys) or finding.message.startswith(_NOT_TOML)):
                continue
            spots = []
            for spot in finding.places:
                place = spot.place
                if place.file == self._file and first < place.line <= behind:
                    break  # in the lines that were changed
                is_behind = place.file == self._file and place.line > behind
                spots.append(FindingSpot(_moved(place, moved) if is_behind else place, spot.text))
            else:
                yield finding._replace(places=tuple(spots))


def _only(table: dict[str, Any], wanted: set[Unit] | None) -> dict[str, Any]:
    """A file's table with these entries, and all that is none; None: all of it."""
    if wanted is None:
        return table
    return {
        name: _part((name,), value, wanted) if name in ("bind", "only", "unbind") and isinstance(value, dict) else value
        for name, value in table.items()
    }


def _part(path: Unit, table: dict[str, Any], wanted: set[Unit]) -> dict[str, Any]:
    """The entries of a table that are wanted, in its order."""
    found: dict[str, Any] = {}
    for name, value in table.items():
        unit = (*path, name)
        if len(unit) < depth_of(path[0]) and isinstance(value, dict):
            found[name] = _part(unit, value, wanted)
        elif unit_of(unit) in wanted:
            found[name] = value
    return found


def _moved(place: Place, lines: int) -> Place:
    end = place.end_line + lines if place.end_line else 0
    return place._replace(line=place.line + lines, end_line=end)


def _keys(change: UnitChange) -> Iterator[str]:
    """The keys of an entry, before and behind a change."""
    for value in (change.before, change.after):
        yield from AffectedEntries.keys_in(change.unit, value)


def as_finding(error: OmbixError, file: str) -> FoundFault:
    """What keeps a file from being read, as a finding about it."""
    place = error.place if error.place and error.place.file == file and error.place.line else Place(file, 1, 1)
    return FoundFault(
        "unknown", "error", (), error.what, "", None, (FindingSpot(place, ""),), (), None, error.advice, ()
    )
