"""Two keymaps, decision by decision, over all states at once."""

from collections.abc import Mapping

from msgspec import Struct

from ombix.core.conditions import NEVER, Space, States
from ombix.core.keymap.deciding import DecisionTable
from ombix.core.keymap.outcomes import Outcome
from ombix.core.keys.notation import Trigger


class Difference(Struct, frozen=True):
    """In these states the trigger does one thing in the first keymap and another in the second (None: not bound)."""

    trigger: Trigger
    states: States
    first: Outcome | None
    second: Outcome | None


class Waiting(Struct, frozen=True):
    """In these states both do the same for the trigger, but one waits for what may follow: the first, or the second."""

    trigger: Trigger
    states: States
    outcome: Outcome
    first_waits: bool


def waiting(
    first: Mapping[Trigger, DecisionTable], second: Mapping[Trigger, DecisionTable], space: Space, within: States
) -> list[Waiting]:
    """Where only one of two keymaps waits for a longer sequence, in the order of the first's triggers."""
    found = []
    for trigger, one in first.items():
        other = second.get(trigger)
        if other is None or one.waits == other.waits:
            continue
        for states_a, outcome in parts_of(one, space):
            for states_b, same in parts_of(other, space):
                if outcome is None or outcome != same:
                    continue
                states = space.both(space.both(states_a, states_b), within)
                for waits, runs, is_first in ((one.waits, other.waits, True), (other.waits, one.waits, False)):
                    only = space.both(states, space.minus(waits, runs))
                    if only != NEVER:
                        found.append(Waiting(trigger, only, outcome, is_first))
    return found


def differences(
    trigger: Trigger, first: DecisionTable | None, second: DecisionTable | None, space: Space, within: States
) -> list[Difference]:
    """Where the decisions for one trigger differ in the states `within`."""
    if first is None and second is None:
        return []
    if first is not None and second is not None and are_alike(first, second):
        return []
    found = []
    for states_a, outcome_a in parts_of(first, space):
        for states_b, outcome_b in parts_of(second, space):
            if outcome_a == outcome_b:
                continue
            states = space.both(space.both(states_a, states_b), within)
            if states != NEVER:
                found.append(Difference(trigger, states, outcome_a, outcome_b))
    return found


def compare(
    first: Mapping[Trigger, DecisionTable], second: Mapping[Trigger, DecisionTable], space: Space, within: States
) -> list[Difference]:
    """All differences between two keymaps in the states `within`, in the order of the triggers."""
    found = []
    for trigger in dict.fromkeys([*first, *second]):
        found.extend(differences(trigger, first.get(trigger), second.get(trigger), space, within))
    return found


def are_alike(first: DecisionTable, second: DecisionTable) -> bool:
    """Whether the same outcomes win, in the same order, under the same conditions: then they do so in the same states."""
    if len(first.rows) != len(second.rows) or first.hidden != second.hidden:
        return False
    return all(
        one.binding.outcome == other.binding.outcome
        and one.binding.where == other.binding.where
        and one.binding.scope is other.binding.scope
        for one, other in zip(first.rows, second.rows, strict=True)
    )


def parts_of(table: DecisionTable | None, space: Space) -> list[tuple[States, Outcome | None]]:
    """All states in parts, each with what is run in it (None: nothing)."""
    if table is None:
        return [(space.possible, None)]
    parts: list[tuple[States, Outcome | None]] = [(row.states, row.binding.outcome) for row in table.rows]
    if table.hidden != NEVER:  # a shorter one fires before it is complete
        parts.append((table.hidden, None))
    rest = table.rest(space)
    if rest != NEVER:
        parts.append((rest, None))
    return parts
