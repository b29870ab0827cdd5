"""Porting into an editor that has a description: its means, the file, and the check that it holds what it should."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from ombix.core.actions import Catalogue
from ombix.core.collecting import paused
from ombix.core.comparing import Difference, differences
from ombix.core.conditions import NEVER, Space
from ombix.core.deciding import Policy, Table, decide_all
from ombix.core.errors import OutsideError
from ombix.core.keymap import Binding, Do, Keymap, Nothing, Only, Step
from ombix.core.keys import META, Trigger, write
from ombix.core.platforms import Platform
from ombix.core.porting import port
from ombix.core.terminals import Terminal
from ombix.core.verdicts import Command, Entry, Port, Rehomed
from ombix.dialects.engine import Dialect

MOST_REPEATED = 50
"""How many times a command is written in a row where the editor knows no counts."""


class DialectMeans:
    """A described editor as the target of a port."""

    def __init__(self, dialect: Dialect) -> None:
        self.name = dialect.name
        self.policy = dialect.policy
        self.never = dialect.description.never
        self.beginnings = dialect.description.keys.beginnings
        self._dialect = dialect
        self._commands: dict[tuple[Do, str], Command | None] = {}
        self._bindable: dict[tuple[Trigger, str], bool] = {}

    def sections(self) -> dict[str, str]:
        """The editor's sections and their conditions."""
        return self._dialect.description.sections

    def tell(self, states: int, section: int, space: Space) -> int:
        """The least set of states of a section that has `states` in it and that the editor's file can tell."""
        return self._dialect.tell(states, section, space)

    def can_bind(self, trigger: Trigger, section: str) -> bool:
        """Whether the editor's file can have this trigger in a section."""
        known = self._bindable.get((trigger, section))
        if known is None:
            known = self._bindable[trigger, section] = self._dialect.can_write(trigger, section)
        return known

    def why_not(self, trigger: Trigger) -> str:
        """Why it cannot."""
        return self._dialect.spelling.why_not(trigger, self.name)

    def bindable(self) -> list[Trigger]:
        """All single chords that the editor's file can have."""
        return [(chord,) for chord in self._dialect.spelling.chords()]

    def command_for(self, outcome: Do, section: str) -> Command | None:
        """The command for an action in a section; failing that, a composition."""
        if (outcome, section) not in self._commands:
            self._commands[outcome, section] = self._command_for(outcome, section)
        return self._commands[outcome, section]

    def _command_for(self, outcome: Do, section: str) -> Command | None:
        if outcome.count > 1:
            return self._counted(outcome.once, outcome.count, section)
        outcome = outcome.once
        found = self._dialect.command_for(outcome, section)
        if found is not None:
            return Command(*found)
        one = None if outcome.arguments else self._dialect.composition_for(outcome.action, section)
        if one is None:
            return None
        return Command(one.command, one.differs or ("" if one.exact else "several commands together"), True)

    def _counted(self, outcome: Do, count: int, section: str) -> Command | None:
        """A command with a count, or the same command several times in a row."""
        base = self.command_for(outcome, section)
        if base is None:
            return None
        text = self._dialect.counted(base.written, count, section)
        if text is None and count <= MOST_REPEATED:
            step = Only(self.name, base.written) if base.is_composition else outcome
            text = self.macro_text([step] * count, section)
        return Command(text, base.differs, True) if text is not None else None

    def macro_text(self, steps: Sequence[Step], section: str) -> str | None:
        """Steps as one command of this editor in a section, or None."""
        return self._dialect.macro_text(steps, section)

    def where(self, sections: Sequence[str]) -> str:
        """The condition that means these sections."""
        return self._dialect.where(sections)

    def can_take_away(self) -> bool:
        """Whether the editor's file can take keys away."""
        return self._dialect.can_take_away


@dataclass(frozen=True, slots=True)
class PortedFile:
    """A port that holds: its entries and the text of the target's file."""

    target: str
    entries: tuple[Entry, ...]
    text: str
    checked: int
    """How many decisions (trigger and set of states) were compared after reading the text back."""
    rehomed: tuple[Rehomed, ...] = ()

    def count(self, verdict: str) -> int:
        """How many entries have this verdict."""
        return sum(1 for entry in self.entries if entry.verdict == verdict)


def port_keymap(
    bindings: Sequence[Binding], source: Dialect | None, keymap: Keymap, target: Dialect, platform: Platform,
    terminal: Terminal, space: Space, catalogue: Catalogue, rehome: bool = False,
) -> PortedFile:  # fmt: skip
    """Port the bindings in force to `target`, read the result back and compare it decision by decision.

    Raises OutsideError, with nothing written, when a difference is not accounted for by a verdict.
    """
    with paused():
        return _port(bindings, source, keymap, target, platform, terminal, space, catalogue, rehome)


def _port(
    bindings: Sequence[Binding], source: Dialect | None, keymap: Keymap, target: Dialect, platform: Platform,
    terminal: Terminal, space: Space, catalogue: Catalogue, rehome: bool,
) -> PortedFile:  # fmt: skip
    policy = source.policy if source is not None else Policy()
    source_tables = decide_all(bindings, space, catalogue, policy)
    default_bindings = Keymap([target.default_layer]).in_force(platform)
    defaults = decide_all(narrowed(default_bindings, terminal), space, catalogue, target.policy)
    result = port(
        list(source_tables.values()),
        keymap.macros,
        DialectMeans(target),
        defaults,
        terminal.canonical,
        space,
        source.differs if source is not None and source.name != target.name else lambda binding: "",
        rehome,
        source.policy if source is not None and source.name != target.name else None,
        _within(source, space),
        # Systems and desktops keep most of what is pressed with their own modifier.
        lambda trigger: bool(trigger[0].modifiers & META and not platform.main_modifier & META),
        lambda binding: target.policy.rank(binding, space, catalogue),
    )
    kept = [one for layer in keymap.layers for one in layer.kept if one.editor == target.name]
    result.layer.kept = kept
    text = target.write(result.layer, space, catalogue)
    reading = target.read(text, f"{target.name} port", "port")
    layer = reading.layer
    known = {one.text for one in kept}
    for piece in layer.kept:
        if piece.text not in known:
            raise OutsideError(
                f"the port does not hold: {piece.text} was written, and is not read: {piece.reason}",
                "Nothing was written. This is a fault in the description of the editor.",
            )
    after = decide_all(
        narrowed(Keymap([target.default_layer, layer]).in_force(platform), terminal), space, catalogue, target.policy
    )
    checked, unaccounted = _check(result, source_tables, after, target, terminal, space, catalogue)
    waits = [one for one in _waits_longer(result, source_tables, after, terminal, space) if not unaccounted]
    if waits:
        raise OutsideError(
            f"the port does not hold: {write(waits[0])} waits in {target.name} for what may follow, and not in the source",
            "Nothing was written. This is a fault in the description of the editor.",
        )
    if unaccounted:
        one = unaccounted[0]
        raise OutsideError(
            f"the port does not hold: {write(one.trigger)} is {one.first or 'not bound'} in the source and "
            f"{one.second or 'not bound'} in {target.name}, when {space.describe(one.states)}",
            "Nothing was written. This is a fault in the description of the editor.",
        )
    return PortedFile(target.name, tuple(result.entries), text, checked, tuple(result.rehomed))


def _within(source: Dialect | None, space: Space) -> int | None:
    """The states that the source can be in; for an editor without modes, whatever the mode."""
    if source is None:
        return None
    within = space.minus(space.possible, space.union(map(space.parse, source.description.never)))
    return within if space.overlap(within, space.parse("mode is not plain")) else space.without(within, ["mode"])


def _check(
    result: Port, source: dict[Trigger, Table], after: dict[Trigger, Table], target: Dialect,
    terminal: Terminal, space: Space, catalogue: Catalogue,
) -> tuple[int, list[Difference]]:  # fmt: skip
    nodes = [space.states(text) for text in target.description.sections.values()]
    universe = space.union(nodes)
    exact: set[Trigger] = set()
    written: dict[Trigger, set[str]] = {}
    for entry in result.entries:
        if entry.verdict == "exact":
            exact.add(entry.source.trigger)
            written.setdefault(entry.source.trigger, set()).update(entry.written)
    excused: dict[Trigger, int] = {}
    for entry in result.entries:
        # An adapted or lost binding may differ in its own states, and in those in which the target has it.
        if entry.verdict != "exact" and entry.source.trigger in exact:
            states = space.either(_states_of(entry, source), entry.states)
            excused[entry.source.trigger] = space.either(excused.get(entry.source.trigger, NEVER), states)
    unaccounted: list[Difference] = []
    for trigger in exact:
        table = source[trigger]
        bound = space.both(universe, space.union(row.states for row in table.rows))
        found = after.get(terminal.canonical(trigger))
        for one in differences(trigger, table, found, space, bound):
            states = space.minus(one.states, excused.get(trigger, NEVER))
            for row in found.rows if found else ():
                # The same keys, and to the letter the command that was to be written for them.
                if row.binding.written in written[trigger] and row.binding.layer == "port":
                    states = space.minus(states, row.states)
            if states == NEVER or (isinstance(one.first, Nothing) and one.second is None):
                continue
            unaccounted.append(replace(one, states=states))
    for entry in result.entries:
        # An adapted binding does what was written for it, wherever it was said to hold.
        if entry.verdict == "adapted" and entry.trigger is not None and entry.written:
            found = after.get(terminal.canonical(entry.trigger))
            action = (
                catalogue.actions.get(entry.source.outcome.action) if isinstance(entry.source.outcome, Do) else None
            )
            rest = space.both(entry.states, space.parse(action.needs)) if action else entry.states
            for row in found.rows if found else ():
                if row.binding.written in entry.written or row.binding.outcome == entry.source.outcome:
                    rest = space.minus(rest, row.states)
                elif space.both(row.states, rest) != NEVER:
                    both = space.both(row.states, rest)
                    unaccounted.append(Difference(entry.trigger, both, entry.source.outcome, row.binding.outcome))
    return sum(len(table.rows) for table in source.values()), unaccounted


def _waits_longer(
    result: Port, source: dict[Trigger, Table], after: dict[Trigger, Table], terminal: Terminal, space: Space
) -> list[Trigger]:
    """The keys of exact bindings that wait in the target where they do not in the source."""
    found = []
    for entry in result.entries:
        table = after.get(terminal.canonical(entry.source.trigger)) if entry.verdict == "exact" else None
        if table is None or isinstance(entry.source.outcome, Nothing):
            continue
        states = space.both(entry.states, _states_of(entry, source))
        if space.both(space.minus(table.waits, source[entry.source.trigger].waits), states) != NEVER:
            found.append(entry.source.trigger)
    return found


def narrowed(bindings: Iterable[Binding], terminal: Terminal) -> list[Binding]:
    """The bindings as a program in a terminal tells them apart: chords that arrive alike are one chord."""
    return [binding._replace(trigger=terminal.canonical(binding.trigger)) for binding in bindings]


def _states_of(entry: Entry, source: dict[Trigger, Table]) -> int:
    return next(row.states for row in source[entry.source.trigger].rows if row.binding is entry.source)
