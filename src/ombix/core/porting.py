"""From the neutral model to another editor's means: for each binding a verdict, and what is to be written."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal, Protocol

from ombix.core.conditions import NEVER, Space
from ombix.core.deciding import Table
from ombix.core.errors import Place
from ombix.core.keymap import Binding, Do, Layer, Macro, Nothing, Only, Outcome, Play, Step
from ombix.core.keys import SHIFT, Trigger, is_mouse, is_place, write

Verdict = Literal["exact", "adapted", "lost"]


@dataclass(frozen=True, slots=True)
class Command:
    """A target editor's command for an action, and how its work differs ("" where it does not)."""

    written: str
    differs: str = ""
    is_composition: bool = False


class Means(Protocol):
    """What porting needs to know of the target editor."""

    name: str
    fires: bool
    """Whether a chord that begins a longer sequence fires at once, so that the longer one is never reached."""

    def sections(self) -> dict[str, str]:
        """The editor's sections (panes, menus) and the condition that each stands for."""

    def can_bind(self, trigger: Trigger, section: str) -> bool:
        """Whether the editor's file can have this trigger in a section."""

    def why_not(self, trigger: Trigger) -> str:
        """Why it cannot."""

    def bindable(self) -> list[Trigger]:
        """All single chords that the editor's file can have."""

    def command_for(self, action: str, section: str) -> Command | None:
        """The command for an action in a section, or commands that do the same together."""

    def macro_text(self, steps: Sequence[Step], section: str) -> str | None:
        """Steps as one command of this editor in a section, or None."""

    def where(self, sections: Sequence[str]) -> str:
        """The condition that means these sections."""


@dataclass(frozen=True, slots=True)
class Entry:
    """What became of one source binding. `trigger` is what is pressed in the target, None where the binding is lost.

    `displaced` names what the target's defaults had on these keys, by section; `sections` where the binding holds.
    """

    source: Binding
    verdict: Verdict
    how: str
    trigger: Trigger | None = None
    sections: tuple[str, ...] = ()
    written: tuple[str, ...] = ()
    displaced: tuple[tuple[str, Outcome], ...] = ()


@dataclass(frozen=True, slots=True)
class Rehomed:
    """A default of the target that lost its keys, and the free ones that it got."""

    outcome: Outcome
    old: Trigger
    new: Trigger
    sections: tuple[str, ...]


@dataclass(slots=True)
class Port:
    """The result: one entry for each binding that wins somewhere, and the layer to be written."""

    entries: list[Entry] = field(default_factory=list)
    rehomed: list[Rehomed] = field(default_factory=list)
    layer: Layer = field(default_factory=lambda: Layer("port", "adopted"))

    def count(self, verdict: Verdict) -> int:
        """How many entries have this verdict."""
        return sum(1 for entry in self.entries if entry.verdict == verdict)


def port(
    tables: Sequence[Table],
    macros: dict[str, Macro],
    target: Means,
    defaults: Mapping[Trigger, Table],
    canonical: Callable[[Trigger], Trigger],
    space: Space,
    source_differs: Callable[[Binding], str] = lambda binding: "",
    rehome: bool = False,
) -> Port:
    """Carry the decisions of a keymap over to another editor.

    `tables` are the source's decisions by trigger; `defaults` those of the target without any file, by canonical
    trigger. `canonical` gives the trigger that stands for all those which the target cannot tell apart; a trigger that
    the target's file cannot have is written as another one that stands for the same.
    `source_differs` says how what the source's command does differs from the action it stands for. With `rehome` each
    default that lost its only keys gets free ones near the old; see `_Rehoming`.
    """
    result = Port()
    alike = _Alike(target, canonical)
    taken: dict[tuple[Trigger, str], Outcome] = {}
    nodes = {name: space.states(text) for name, text in target.sections().items()}
    for table in tables:
        for row in table.rows:
            others = [other.states for other in table.rows if other is not row]
            job = _Job(row.binding, row.states, others, macros, target, defaults, alike, taken, nodes, space)
            job.source_differs = source_differs(row.binding)
            entry, bindings = job.run()
            result.entries.append(entry)
            for binding in bindings:
                result.layer.bindings.append(binding)
                if isinstance(binding.outcome, Play):
                    result.layer.macros[binding.outcome.macro] = macros[binding.outcome.macro]
    if rehome:
        used = {canonical(table.trigger) for table in tables}
        _Rehoming(result, target, defaults, canonical, taken, nodes, space, used).run()
    return result


@dataclass(slots=True)
class _Rehoming:
    """Free keys for the target's defaults that lost theirs.

    The rule: the same key with other modifiers, the fewest first; then a function key; then another key with the same
    modifiers. Only single chords that nothing has by default, that the source does not bind, and that arrive as no other.
    """

    result: Port
    target: Means
    defaults: Mapping[Trigger, Table]
    canonical: Callable[[Trigger], Trigger]
    taken: dict[tuple[Trigger, str], Outcome]
    nodes: dict[str, int]
    space: Space
    used: set[Trigger]

    def run(self) -> None:
        starts = {trigger[:1] for trigger in (*self.defaults, *self.used)}
        free = [
            trigger
            for trigger in self.target.bindable()
            if (place := self.canonical(trigger)) == trigger and place not in self.used and place not in starts
            and is_character_or_named(trigger)
        ]  # fmt: skip
        lost: dict[tuple[Outcome, Trigger], list[str]] = {}
        for entry in self.result.entries:
            for section, outcome in entry.displaced:
                if not isinstance(outcome, Nothing) and not self._is_bound(outcome, section):
                    lost.setdefault((outcome, self.canonical(entry.trigger or entry.source.trigger)), []).append(
                        section
                    )
        homed: set[tuple[Outcome, str]] = set()
        for (outcome, old), found in lost.items():
            sections = [section for section in found if (outcome, section) not in homed]
            candidates = [one for one in free if all(self.target.can_bind(one, section) for section in sections)]
            if not sections or not candidates:
                continue
            new = min(candidates, key=lambda one, old=old: _nearness(old, one))  # type: ignore[misc]
            free.remove(new)
            homed.update((outcome, section) for section in sections)
            written = self._written(old, sections[0])
            where = self.target.where(sections)
            self.result.rehomed.append(Rehomed(outcome, old, new, tuple(sections)))
            self.result.layer.bindings.append(Binding(new, outcome, Place("port"), "port", where, written=written))

    def _is_bound(self, outcome: Outcome, section: str) -> bool:
        """Whether the outcome still has keys in a section."""
        if any(home == section and other == outcome for (_place, home), other in self.taken.items()):
            return True
        return any(
            row.binding.outcome == outcome and self.space.both(row.states, self.nodes[section]) != NEVER
            for place, table in self.defaults.items()
            if (place, section) not in self.taken
            for row in table.rows
        )

    def _written(self, old: Trigger, section: str) -> str:
        rows = self.defaults[old].rows if old in self.defaults else ()
        node = self.nodes[section]
        return next((row.binding.written for row in rows if self.space.both(row.states, node) != NEVER), "")


def is_character_or_named(trigger: Trigger) -> bool:
    """Whether it is a chord that can be found on a keyboard by its name: with a modifier, or a function key."""
    (chord,) = trigger
    is_function = chord.key[0] == "F" and chord.key[1:].isdigit() and int(chord.key[1:]) <= MAX_FUNCTION_KEY
    return not is_mouse(chord) and not is_place(chord) and (bool(chord.modifiers & ~SHIFT) or is_function)


MAX_FUNCTION_KEY = 12
"""The function keys that keyboards have."""


def _nearness(old: Trigger, new: Trigger) -> tuple[int, int, int, str]:
    """How far a free chord is from the old keys; less is nearer."""
    before, after = old[-1], new[0]
    if after.key == before.key:
        return 0, (after.modifiers ^ before.modifiers).bit_count(), after.modifiers, ""
    is_function = len(after.key) > 1 and after.key[0] == "F" and after.key[1:].isdigit()
    if is_function:
        return 1, after.modifiers.bit_count(), int(after.key[1:]), ""
    return 2, (after.modifiers ^ before.modifiers).bit_count(), len(after.key), after.key


class _Alike:
    """Triggers that the target cannot tell apart."""

    def __init__(self, target: Means, canonical: Callable[[Trigger], Trigger]) -> None:
        self.canonical = canonical
        self._writable: dict[Trigger, Trigger] = {}
        for trigger in target.bindable():
            self._writable.setdefault(canonical(trigger), trigger)

    def writable(self, trigger: Trigger) -> Trigger | None:
        return self._writable.get(self.canonical(trigger))


@dataclass(slots=True)
class _Job:
    binding: Binding
    states: int
    others: list[int]
    macros: dict[str, Macro]
    target: Means
    defaults: Mapping[Trigger, Table]
    alike: _Alike
    taken: dict[tuple[Trigger, str], Outcome]
    nodes: dict[str, int]
    space: Space
    remarks: list[str] = field(default_factory=list)
    source_differs: str = ""

    def run(self) -> tuple[Entry, list[Binding]]:
        homes = {name: self.space.both(node, self.states) for name, node in self.nodes.items()}
        homes = {name: part for name, part in homes.items() if part != NEVER}
        if not homes:
            where = self.binding.where if self.binding.where != "always" else self.space.describe(self.states)
            return self._lost(f"{self.target.name} has nothing like {where}")
        outcome = self.binding.outcome
        if isinstance(outcome, Do) and outcome.arguments:
            return self._lost(f"{self.target.name}'s commands take no arguments")
        if isinstance(outcome, Only) and outcome.editor != self.target.name:
            return self._lost(f"{outcome.command} is a command of {outcome.editor} only")
        return self._carry(homes)

    def _carry(self, homes: dict[str, int]) -> tuple[Entry, list[Binding]]:
        source = self.binding.trigger
        trigger = source
        bindable = any(self.target.can_bind(source, name) for name in homes)
        place = self.alike.canonical(source)
        fixed = all(
            (one := self._default(place, name)) is not None and one.outcome == self.binding.outcome for name in homes
        )
        if not bindable and not fixed and (other := self.alike.writable(source)) is not None:
            trigger, bindable = other, True
            self.remarks.append(f"as {write(other)}, which arrives as the same bytes")
        written: dict[str, Outcome] = {}
        kept: list[str] = []
        displaced: list[tuple[str, Outcome]] = []
        commands: dict[str, str] = {}
        differs: list[str] = []
        reasons: list[str] = []
        without: list[str] = []
        for name, part in homes.items():
            if part != self.nodes[name] and any(
                self.space.both(other, self.nodes[name]) != NEVER for other in self.others
            ):
                facts = ", ".join(sorted(self.space.mentioned(part) - self.space.mentioned(self.nodes[name])))
                reasons.append(f"the key means several things by {facts}, which {self.target.name} cannot tell")
                continue
            default = self._default(place, name)
            if default is not None and default.outcome == self.binding.outcome:
                before = self.taken.setdefault((place, name), self.binding.outcome)
                if before == self.binding.outcome:
                    kept.append(name)
                    command = self._command(name)
                    if command is not None and command.differs:
                        differs.append(command.differs)
                else:
                    reasons.append(f"{write(trigger)} is taken by {before}")
                continue
            if (
                not bindable
                and default is not None
                and (near := self._command(name))
                and near.written == default.written
            ):
                kept.append(name)
                differs.append(near.differs)
                continue
            if not bindable or not self.target.can_bind(trigger, name):
                reasons.append(self.target.why_not(trigger))
                continue
            if (place, name) in self.taken and self.taken[place, name] != self.binding.outcome:
                reasons.append(f"{write(trigger)} arrives as the same bytes and is taken by {self.taken[place, name]}")
                continue
            if self.target.fires and (conflict := self._in_the_way(place, name)) is not None:
                reasons.append(conflict)
                continue
            outcome: Outcome
            if isinstance(self.binding.outcome, Nothing):
                if default is None:
                    kept.append(name)
                    continue
                outcome = Nothing()
            else:
                command = self._command(name)
                if command is None:
                    without.append(name)
                    continue
                if command.differs:
                    differs.append(command.differs)
                outcome = Only(self.target.name, command.written) if command.is_composition else self.binding.outcome
                commands[name] = command.written
            self.taken[place, name] = self.binding.outcome
            written[name] = outcome
            if part != self.nodes[name]:
                facts = ", ".join(sorted(self.space.mentioned(part) - self.space.mentioned(self.nodes[name])))
                differs.append(f"in every state, as {self.target.name} cannot tell {facts}")
            if default is not None:
                displaced.append((name, default.outcome))
        if without:
            reasons.append(self._no_command(without))
        if not written and not kept:
            return self._lost("; ".join(dict.fromkeys(reasons)))
        if reasons:
            differs.append("only in " + ", ".join([*kept, *written]) + ": " + "; ".join(dict.fromkeys(reasons)))
        if self.source_differs:
            differs.append(f"in the source, {self.source_differs}")
        how = self._how(kept, commands, differs)
        entry = Entry(
            self.binding, "adapted" if differs else "exact", how, trigger, (*kept, *written),
            tuple(dict.fromkeys(commands.values())), tuple(displaced),
        )  # fmt: skip
        groups: dict[Outcome, list[str]] = {}
        for name, outcome in written.items():
            groups.setdefault(outcome, []).append(name)
        bindings = [
            Binding(trigger, outcome, Place("port"), "port", self.target.where(names))
            for outcome, names in groups.items()
        ]
        return entry, bindings

    def _in_the_way(self, place: Trigger, section: str) -> str | None:
        """Why a sequence, or its beginning, cannot be had where a chord that begins a sequence fires at once."""
        for length in range(1, len(place)):
            start = place[:length]
            if (start, section) in self.taken or self._default(start, section) is not None:
                return f"{write(start)} fires at once in {self.target.name}"
        for other, home in self.taken:
            if home == section and len(other) > len(place) and other[: len(place)] == place:
                return f"{write(place)} would fire before {write(other)} is complete"
        return None

    def _how(self, kept: list[str], commands: dict[str, str], differs: list[str]) -> str:
        parts = list(self.remarks)
        if commands:
            parts.append("written as " + ", ".join(dict.fromkeys(commands.values())))
        elif kept and isinstance(self.binding.outcome, Nothing):
            parts.append("not bound there either")
        elif kept:
            parts.append("so by default")
        elif not parts:
            parts.append("taken away")
        return "; ".join([*parts, *dict.fromkeys(differs)])

    def _command(self, section: str) -> Command | None:
        outcome = self.binding.outcome
        if isinstance(outcome, Do):
            return self.target.command_for(outcome.action, section)
        if isinstance(outcome, Only):
            return Command(outcome.command)
        if isinstance(outcome, Play):
            macro = self.macros.get(outcome.macro)
            if macro is None:
                return None
            for step in macro.steps:
                if isinstance(step, Do) and self.target.command_for(step.action, section) is None:
                    return None
            text = self.target.macro_text(macro.steps, section)
            return None if text is None else Command(text, "a chain of the editor's own commands")
        return None

    def _no_command(self, sections: list[str]) -> str:
        outcome = self.binding.outcome
        where = f" in {', '.join(sections)}" if len(self.nodes) > 1 else ""
        if isinstance(outcome, Play):
            return f"{self.target.name} cannot write the steps of the macro {outcome.macro}"
        return f"{self.target.name} has no command for {outcome}{where}"

    def _default(self, place: Trigger, section: str) -> Binding | None:
        table = self.defaults.get(place)
        if table is None:
            return None
        return next(
            (row.binding for row in table.rows if self.space.both(row.states, self.nodes[section]) != NEVER), None
        )

    def _lost(self, why: str) -> tuple[Entry, list[Binding]]:
        return Entry(self.binding, "lost", why), []
