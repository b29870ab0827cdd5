"""Holds what was read back from a ported file against its source, decision by decision, over all states."""

from collections.abc import Callable, Iterable, Iterator, Mapping
from typing import NamedTuple

from msgspec import Struct
from msgspec.structs import replace

from ombix.core.catalogue.actions import Catalogue
from ombix.core.conditions import NEVER, Space, States
from ombix.core.keymap.comparing import Difference, differences
from ombix.core.keymap.deciding import DecisionTable
from ombix.core.keymap.outcomes import Do, Nothing
from ombix.core.keys.notation import Trigger
from ombix.core.porting.verdicts import PORT_LAYER, Port, PortEntry


class PortCheck(NamedTuple):
    """What the check found: how many decisions were compared, which differ without a verdict that says so, and which keys
    of exact bindings wait in the target where they do not in the source."""

    compared: int
    unaccounted: list[Difference]
    waiting: list[Trigger]


def check(
    port: Port, source: Mapping[Trigger, DecisionTable], after: Mapping[Trigger, DecisionTable], sections: Iterable[States],
    canonical: Callable[[Trigger], Trigger], space: Space, catalogue: Catalogue,
) -> PortCheck:  # fmt: skip
    """Compare the source's decisions with those of the target with the ported file (`after`, by canonical trigger).

    `sections` are the states of the target's sections.
    """
    checking = _Checking(port, source, after, space.union(sections), canonical, space, catalogue)
    unaccounted = [*checking.exact(), *checking.adapted()]
    waiting = [] if unaccounted else list(checking.waiting())
    return PortCheck(sum(len(table.rows) for table in source.values()), unaccounted, waiting)


class _Checking(Struct):
    port: Port
    source: Mapping[Trigger, DecisionTable]
    after: Mapping[Trigger, DecisionTable]
    universe: States
    canonical: Callable[[Trigger], Trigger]
    space: Space
    catalogue: Catalogue

    def exact(self) -> Iterator[Difference]:
        """Exact bindings do in the target what they do in the source, wherever it binds them."""
        space = self.space
        written: dict[Trigger, set[str]] = {}
        for entry in self.port.entries:
            if entry.verdict == "exact":
                written.setdefault(entry.source.trigger, set()).update(entry.written)
        excused: dict[Trigger, States] = {}
        for entry in self.port.entries:
            # An adapted or lost binding may differ in its own states, and in those in which the target has it.
            trigger = entry.source.trigger
            if entry.verdict != "exact" and trigger in written:
                states = space.either(self._states_of(entry), entry.states)
                excused[trigger] = space.either(excused.get(trigger, NEVER), states)
        for trigger, commands in written.items():
            bound = space.both(self.universe, space.union(row.states for row in self.source[trigger].rows))
            found = self.after.get(self.canonical(trigger))
            for difference in differences(trigger, self.source[trigger], found, space, bound):
                states = space.minus(difference.states, excused.get(trigger, NEVER))
                for row in found.rows if found else ():
                    # The same keys, and to the letter the command that was to be written for them.
                    if row.binding.written in commands and row.binding.layer.id == PORT_LAYER.id:
                        states = space.minus(states, row.states)
                if states != NEVER and not (isinstance(difference.first, Nothing) and difference.second is None):
                    yield replace(difference, states=states)

    def adapted(self) -> Iterator[Difference]:
        """An adapted binding does what was written for it, wherever it was said to hold."""
        space = self.space
        for entry in self.port.entries:
            if entry.verdict != "adapted" or entry.trigger is None or not entry.written:
                continue
            found = self.after.get(self.canonical(entry.trigger))
            outcome = entry.source.outcome
            runs = {*entry.written, *(command for _section, command in entry.commands)}
            action = self.catalogue.actions.get(outcome.action) if isinstance(outcome, Do) else None
            rest = space.both(entry.states, space.parse(action.needs)) if action else entry.states
            for row in found.rows if found else ():
                if row.binding.written in runs or row.binding.outcome == outcome:
                    rest = space.minus(rest, row.states)
                elif (both := space.both(row.states, rest)) != NEVER:
                    yield Difference(entry.trigger, both, outcome, row.binding.outcome)

    def waiting(self) -> Iterator[Trigger]:
        """The keys of exact bindings that wait in the target where they do not in the source."""
        for entry in self.port.entries:
            trigger = entry.source.trigger
            table = self.after.get(self.canonical(trigger)) if entry.verdict == "exact" else None
            if table is None or isinstance(entry.source.outcome, Nothing):
                continue
            states = self.space.both(entry.states, self._states_of(entry))
            if self.space.both(self.space.minus(table.waits, self.source[trigger].waits), states) != NEVER:
                yield trigger

    def _states_of(self, entry: PortEntry) -> States:
        rows = self.source[entry.source.trigger].rows
        return next(row.states for row in rows if row.binding is entry.source)
