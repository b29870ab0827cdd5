"""Three versions of a file merged: the text, what collides in which states, and what neither side had."""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from functools import cached_property
from pathlib import Path
from typing import Any, NamedTuple, Protocol

from ombix.core.audit import AuditSubject, audit
from ombix.core.conditions import NEVER, Scope, Space, States, fact_names
from ombix.core.errors import InputError, NotationError, OmbixError, TangledError
from ombix.core.gc_pause import no_garbage_collection
from ombix.core.keymap.bindings import Binding, Keymap, Layer
from ombix.core.keymap.deciding import Policy, decide_all
from ombix.core.keymap.merge_decisions import MergeSides, collisions, unforeseen
from ombix.core.keymap.outcomes import Outcome
from ombix.core.keys.notation import Trigger, write
from ombix.core.toml import Document
from ombix.files import keymap_reading
from ombix.files import line_merge as lines
from ombix.files import workspace_file as workspaces
from ombix.files.disk import absolute
from ombix.files.merging.affected_entries import AffectedEntries, in_another_order
from ombix.files.merging.file_merge import UnitChange, UnitConflict, Version, merge_texts
from ombix.files.merging.file_units import ABSENT, Unit
from ombix.files.merging.name_uses import using
from ombix.work.versions.merge_answer import MergeReport, OpenConflict, UnforeseenKeys
from ombix.work.versions.merge_words import (
    change_in_words,
    entry_of,
    open_table,
    outcome_text,
    path_of,
    renamed_in_words,
    text_of,
    unit_of,
)
from ombix.workspace import findings
from ombix.workspace.change_answer import PlatformFinding
from ombix.workspace.context import Opener
from ombix.workspace.editor_recognition import is_workspace_file
from ombix.workspace.resources import Resources
from ombix.workspace.what_if import new_findings

_RULES = ("clash", "covered", "crossed-exceptions", "doubled", "hidden-sequence")
"""What is wrong with keys by themselves."""


class Versions(NamedTuple):
    """The texts of a file as it was, and of the two that were made of it; `path` is where it stands, `names` are what the three
    are called in errors."""

    path: Path
    base: str
    ours: str
    theirs: str
    names: tuple[str, str, str]

    @property
    def texts(self) -> tuple[str, str, str]:
        """The three texts."""
        return self.base, self.ours, self.theirs


class _OnKeys(Protocol):
    """What is said of keys in some states."""

    @property
    def trigger(self) -> Trigger: ...
    @property
    def states(self) -> States: ...
    @property
    def base(self) -> Outcome | None: ...
    @property
    def ours(self) -> Outcome | None: ...
    @property
    def theirs(self) -> Outcome | None: ...
    @property
    def merged(self) -> Outcome | None: ...


class Merging(NamedTuple):
    """The text behind a merge, and its account."""

    text: str
    report: MergeReport


def merge(found: Versions, opener: Opener, resources: Resources) -> Merging:
    """Merge three versions of a keymap or workspace file; of what cannot be read as one, the lines."""
    try:
        with no_garbage_collection():
            return _ByMeaning(found, opener, resources).merging()
    except InputError as error:
        base, ours, theirs = (text.encode("utf-8") for text in found.texts)
        file = absolute(found.path)
        text, left = lines.merge_with_marks(base, ours, theirs)
        remarks = (f"merged line by line: {error.what}" + (f" ({error.place})" if error.place else ""),)
        opened = tuple(
            OpenConflict(f"lines of {found.path.name}", "both sides changed them", "", "", "", "", "", None)
            for _ in left
        )
        return Merging(text.decode("utf-8"), MergeReport(file, "lines", remarks, (), opened, (), ()))


class _Version(NamedTuple):
    """A version as it was read, as far as the keys that somebody changed are concerned: its layers, and the file's own one."""

    layers: tuple[Layer, ...]
    own: Layer | None


class _ByMeaning:
    def __init__(self, found: Versions, opener: Opener, resources: Resources) -> None:
        self._found = found
        self._opener = opener
        self._resources = resources
        self._shipped = resources.shipped
        self._file = absolute(found.path)
        self._catalogue = self._shipped.catalogue()

    def merging(self) -> Merging:
        found = self._found
        base, ours, theirs = map(Version, found.texts, found.names)
        merged = merge_texts(base, ours, theirs, self._same)
        self._merged = merged
        opened: list[OpenConflict] = []
        text, strange, findings = merged.text, tuple[UnforeseenKeys, ...](), tuple[PlatformFinding, ...]()
        is_of_one_side = merged.text in found.texts and not merged.conflicts
        if not is_of_one_side or (len(set(found.texts)) == 3 and in_another_order(merged.tables)):
            opened = [*self._entries(), *self._conditions()]
            text += "".join(open_table(one, "at") for one in opened)
            if not self._is_workspace:
                on_keys = list(self._on_same_keys(opened))
                text += "".join(open_table(key, "press") for key in on_keys)
                opened += on_keys
                strange, findings = tuple(self._unforeseen(opened)), self._new_findings()
        renamed, changes = map(renamed_in_words, merged.renamed), map(change_in_words, merged.changes)
        report = MergeReport(self._file, "meaning", tuple(renamed), tuple(changes), tuple(opened), strange, findings)
        return Merging(text, report)

    @cached_property
    def _is_workspace(self) -> bool:
        if self._found.path.name == workspaces.FILE_NAME:
            return True
        return is_workspace_file(self._found.path, self._resources.with_texts({self._found.path: self._found.ours}))

    # --- conditions

    @cached_property
    def _plain_space(self) -> Space:
        return Space(self._shipped.facts())

    def _same(self, one: str, other: str) -> bool:
        """Whether two conditions, without names of their own, have the same states."""
        try:
            return self._plain_space.states(one) == self._plain_space.states(other)
        except (NotationError, TangledError):
            return False

    # --- the versions

    @cached_property
    def _versions(self) -> tuple[_Version, _Version, _Version, _Version]:
        """The keymap as it was, as both sides have it, and as it is merged."""
        tables = [*self._merged.tables, Document(self._merged.text, self._file).table]
        near = AffectedEntries(self._merged.changes, self._merged.conflicts, tables)
        read = [self._read(near.kept(table)) for table in tables]
        return (read[0], read[1], read[2], read[3])

    def _read(self, table: dict[str, Any]) -> _Version:
        if not table or self._is_workspace:
            return _Version((), None)
        document = Document("", self._file)
        document.table = table
        files, path, facts = self._resources.files, Path(self._file), self._shipped.facts()
        try:
            layers = keymap_reading.load(path, self._catalogue, facts, files, lenient=True, document=document)
        except InputError:  # what it extends is not there
            document.table = {name: value for name, value in table.items() if name != "extends"}
            layers = keymap_reading.load(path, self._catalogue, facts, files, lenient=True, document=document)
        own = layers[-1]
        before, behind = self._around({layer.name.id for layer in layers})
        return _Version((*before, *layers, *behind), own)

    def _around(self, own: set[str]) -> tuple[list[Layer], list[Layer]]:
        """The layers of the workspace below and above those of the file, where it is one of them."""
        if self._workspace is None:
            return [], []
        layers = list(self._opener.layers(lenient=True))
        index = next(number for number, layer in enumerate(layers) if self._file in layer.files)
        return [layer for layer in layers[:index] if layer.name.id not in own], layers[index + 1 :]

    @cached_property
    def _workspace(self) -> workspaces.WorkspaceFile | None:
        """The workspace whose keymap the file is a part of; None where it is of none."""
        try:
            workspace = None if self._opener.is_file() else self._opener.workspace()
            if workspace is None or not any(self._file in layer.files for layer in self._opener.layers(lenient=True)):
                return None
        except OmbixError:
            return None
        return workspace

    @cached_property
    def _space(self) -> Space:
        """The states over the facts of all versions, those of the merged one first."""
        facts = self._shipped.facts()
        known: set[str] = set()
        for version in reversed(self._versions):
            for layer in version.layers:
                new = [fact for fact in layer.facts if fact.name not in known]
                try:
                    facts = facts.extended(new, layer.never if version is self._versions[3] else [])
                except ValueError:
                    continue
                known |= {one.name for one in new}
        return self._resources.space(facts)

    # --- what both changed

    def _entries(self) -> Iterator[OpenConflict]:
        for conflict in self._merged.conflicts:
            why = "both sides changed it"
            if conflict.theirs is ABSENT or conflict.ours is ABSENT:
                side, other = ("theirs", "ours") if conflict.theirs is ABSENT else ("ours", "theirs")
                used = conflict.unit[0] in ("where", "macro", "snippet", "fact")
                why = (
                    f"{side} took it out, {other} {'uses' if used and conflict.kept == conflict.base else 'changed'} it"
                )
            yield self._open(conflict, why, self._states_of(conflict.unit))

    def _open(self, one: UnitConflict, why: str, states: States | None) -> OpenConflict:
        when, example = self._in_words(states)
        base, ours, theirs, kept = (text_of(value) for value in (one.base, one.ours, one.theirs, one.kept))
        return OpenConflict(path_of(one.unit), why, base, ours, theirs, kept, when, example)

    def _states_of(self, unit: Unit) -> States | None:
        """The states in which either side's bindings of an entry apply; None where it has none."""
        found = [
            self._states(binding) for version in self._versions[1:3] if version.own is not None
            for binding in version.own.bindings if unit_of(binding) == unit
        ]  # fmt: skip
        return self._space.union(found) if found else None

    def _states(self, binding: Binding) -> States:
        try:
            return self._space.states(binding.where, binding.scope)
        except (NotationError, TangledError, ValueError):
            return self._space.possible

    def _in_words(self, states: States | None) -> tuple[str, dict[str, str] | None]:
        space = self._space
        if states is None or states in (NEVER, space.possible) or space.minus(space.possible, states) == NEVER:
            return "", None
        try:
            return space.describe(states), space.example(states)
        except TangledError:
            return "a part of all states", space.example(states)

    def _conditions(self) -> Iterator[OpenConflict]:
        """Named conditions that one side changed under bindings that the other side changed."""
        if self._is_workspace:
            return
        table = Document(self._merged.text, self._file).table
        named: dict[Unit, Any] = {("where", name): text for name, text in dict(table.get("where", {})).items()}
        for change in self._merged.changes:
            if change.unit[0] != "where" or change.before is ABSENT or change.side == "both":
                continue
            is_ours = change.side == "ours"
            other = {one.unit: one.after for one in self._merged.changes if one.side not in (change.side, "both")}
            under = list(using({**named, **other}, change.unit[1]))
            states = self._changed_states(change)
            if under and states != NEVER:
                sides = (change.after, change.before) if is_ours else (change.before, change.after)
                names = ", ".join(map(path_of, under))
                why = f"{change.side} changed the condition, {'theirs' if is_ours else 'ours'} changed {names} under it"
                yield self._open(UnitConflict(change.unit, change.before, *sides, change.after), why, states)

    def _changed_states(self, change: UnitChange) -> States:
        """The states in which a named condition was true and is not, or the other way round."""
        space = self._space
        sets = []
        for version in (self._versions[0], self._versions[3]):
            scope = version.own.scope if version.own is not None else Scope({})
            try:
                sets.append(space.states(change.unit[1], scope))
            except (NotationError, TangledError, ValueError):
                sets.append(NEVER)
        return space.both(space.either(space.minus(*sets), space.minus(*reversed(sets))), space.possible)

    # --- the same keys

    @cached_property
    def _platforms(self) -> Sequence[str]:
        """The platforms on which keys can differ."""
        bindings = [binding for version in self._versions for layer in version.layers for binding in layer.bindings]
        named = {name for binding in bindings for name in binding.platforms}
        # Where no binding is of one platform only, all with the same main modifier decide the same: one of them is enough.
        firsts = {platform.main_modifier: platform.name for platform in reversed(self._shipped.platforms())}.values()
        return [name for name in self._shipped.platform_names() if name in named or name in firsts]

    @cached_property
    def _sides(self) -> Mapping[str, MergeSides]:
        """Platform to the decisions of all versions, for the keys that are not bound alike in all."""
        policy, space = Policy(), self._space
        found = {}
        for name in self._platforms:
            platform = self._shipped.platform(name)
            bound = [Keymap(list(version.layers)).in_force(platform).bindings for version in self._versions]
            triggers = _changed_triggers(bound)
            kept = [[binding for binding in bindings if binding.trigger in triggers] for bindings in bound]
            found[name] = MergeSides(*(decide_all(one, space, self._catalogue, policy) for one in kept))
        return found

    def _each(self, find: Callable[[MergeSides], Iterable[_OnKeys]]) -> list[tuple[_OnKeys, str]]:
        """What is found on all platforms, each once, with the keys as they are written."""
        found: dict[Any, tuple[_OnKeys, str]] = {}
        for name, sides in self._sides.items():
            for one in find(sides):
                keys = self._as_written(one.trigger, name)
                found.setdefault((keys, one.states, str(one.ours), str(one.theirs), str(one.merged)), (one, keys))
        return list(found.values())

    def _on_same_keys(self, known: Sequence[OpenConflict]) -> Iterator[OpenConflict]:
        """Keys that both sides gave something else to do, where no entry says so already."""
        space = self._space
        for one, keys in self._each(lambda sides: collisions(sides, space, space.possible)):
            entries = {f"bind.{one.ours}", f"bind.{one.theirs}"}
            if any(each.what in entries and f'"{keys}"' in each.ours + each.theirs for each in known):
                continue
            when, example = self._in_words(one.states)
            why = "both sides gave these keys something to do"
            base, ours, theirs, merged = map(outcome_text, (one.base, one.ours, one.theirs, one.merged))
            yield OpenConflict(keys, why, base, ours, theirs, merged, when, example)

    def _as_written(self, trigger: Trigger, platform: str) -> str:
        """Keys as ours has them in its file."""
        resolve = self._shipped.platform(platform).resolve
        for version in self._versions[1:3]:
            for binding in version.own.bindings if version.own is not None else ():
                if "{" not in binding.written and resolve(binding.keys) == trigger:
                    return write(binding.keys)
        return write(trigger)

    def _unforeseen(self, known: Sequence[OpenConflict]) -> Iterator[UnforeseenKeys]:
        """What happens on keys that no side has so, where no conflict says why."""
        space = self._space
        opened = {one.what for one in known}
        for one, keys in self._each(lambda sides: unforeseen(sides, space, space.possible)):
            if opened & {entry_of(side) for side in (one.base, one.ours, one.theirs)}:
                continue
            when, _example = self._in_words(one.states)
            base, ours, theirs, merged = (
                str(side) if side is not None else None for side in (one.base, one.ours, one.theirs, one.merged)
            )
            yield UnforeseenKeys(keys, when, base, ours, theirs, merged)

    # --- what is wrong behind it

    def _new_findings(self) -> tuple[PlatformFinding, ...]:
        """The findings about keys that the merged file has and neither side had."""
        rules = findings.choose_rules(_RULES)
        found: dict[tuple[str, str], PlatformFinding] = {}
        for name in self._sides:
            subjects = [self._subject(version, name) for version in self._versions[1:]]
            after = audit(subjects[2], rules)
            before = [one for subject in subjects[:2] for one in audit(subject, rules)] if after else []
            for finding in new_findings(before, after):
                report = findings.in_words(finding, subjects[2])
                key = (finding.rule, ", ".join(spot.text for spot in finding.spots))
                known = found.get(key)
                platforms = (*(known.platforms if known else ()), name)
                found[key] = PlatformFinding(known.finding if known else report, platforms)
        return tuple(found.values())

    def _subject(self, version: _Version, platform: str) -> AuditSubject:
        found = AuditSubject(
            Keymap(list(version.layers)), self._shipped.platform(platform), self._space, self._catalogue, Policy()
        )
        found.proposes = False
        return found


def _changed_triggers(bound: Sequence[Sequence[Binding]]) -> set[Trigger]:
    """The triggers that are not bound alike in all versions, in the same order, with those that begin them and those that they
    begin."""
    rows: list[dict[Trigger, list[object]]] = []
    for bindings in bound:
        rows.append({})
        for binding in bindings:
            rows[-1].setdefault(binding.trigger, []).append((binding.outcome, _expanded(binding), binding.adds))
    first = rows[0]
    changed = {
        trigger for other in rows[1:] for trigger in {*first, *other} if first.get(trigger) != other.get(trigger)
    }
    starts = {trigger[:length] for trigger in changed for length in range(1, len(trigger))}
    triggers = {binding.trigger for bindings in bound for binding in bindings}
    longer = {trigger for trigger in triggers if any(trigger[:length] in changed for length in range(1, len(trigger)))}
    return changed | (starts & triggers) | longer


def _expanded(binding: Binding) -> tuple[str, tuple[str, ...]]:
    """A condition with what its names mean."""
    scope = binding.scope
    if scope is None or not scope.is_used_in(binding.where):
        return binding.where, ()
    texts: list[str] = []
    pending, seen = [binding.where], set[str]()
    while pending:
        for word in fact_words(pending.pop()):
            found = scope.find(word)
            if found is not None and word not in seen:
                seen.add(word)
                texts.append(f"{word}={found[0]}")
                pending.append(found[0])
    return binding.where, tuple(texts)


def fact_words(text: str) -> list[str]:
    """The words of a condition."""
    return fact_names(text, None)
