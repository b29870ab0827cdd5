"""What two sides of a merge do with the same keys, decision by decision, over all states at once."""

from collections.abc import Iterator, Mapping
from typing import NamedTuple

from ombix.core.conditions import NEVER, Space, States
from ombix.core.keymap.comparing import are_alike, parts_of
from ombix.core.keymap.deciding import DecisionTable
from ombix.core.keymap.outcomes import Outcome
from ombix.core.keys.notation import Trigger

Decisions = Mapping[Trigger, DecisionTable]


class MergeSides(NamedTuple):
    """The decisions of a keymap as it was, of the two that were made of it, and of what they were merged to."""

    base: Decisions
    ours: Decisions
    theirs: Decisions
    merged: Decisions


class KeyCollision(NamedTuple):
    """In these states both sides had the trigger do something new, each something else; the merged keymap does `merged`."""

    trigger: Trigger
    states: States
    base: Outcome | None
    ours: Outcome
    theirs: Outcome
    merged: Outcome | None


class UnexpectedDecision(NamedTuple):
    """In these states the trigger does what it does on neither side; or not what the only side that changed it has."""

    trigger: Trigger
    states: States
    base: Outcome | None
    ours: Outcome | None
    theirs: Outcome | None
    merged: Outcome | None


def collisions(sides: MergeSides, space: Space, within: States) -> Iterator[KeyCollision]:
    """Where both sides gave the same keys something else to do, in the order of our triggers."""
    for trigger in sides.ours:
        base, ours, theirs, merged = (side.get(trigger) for side in sides)
        if ours is None or theirs is None or are_alike(ours, theirs):
            continue
        if base is not None and (are_alike(base, ours) or are_alike(base, theirs)):
            continue
        found: dict[tuple[Outcome | None, Outcome, Outcome, Outcome | None], States] = {}
        for states, mine, other in _pairs(ours, theirs, space, within):
            if mine is None or other is None or mine == other:
                continue
            for old_states, old in parts_of(base, space):
                if old in (mine, other):
                    continue
                for new_states, new in parts_of(merged, space):
                    both = space.both(space.both(states, old_states), new_states)
                    if both != NEVER:
                        key = (old, mine, other, new)
                        found[key] = space.either(found.get(key, NEVER), both)
        for (old, mine, other, new), states in found.items():
            yield KeyCollision(trigger, states, old, mine, other, new)


def unforeseen(sides: MergeSides, space: Space, within: States) -> Iterator[UnexpectedDecision]:
    """Where the merged keymap does with keys what neither side does, or where a side's change of them has no effect; without what
    `collisions` finds."""
    for trigger in dict.fromkeys([*sides.merged, *sides.ours, *sides.theirs]):
        base, ours, theirs, merged = tables = [side.get(trigger) for side in sides]
        if all(table is not None and base is not None and are_alike(base, table) for table in tables):
            continue
        found: dict[tuple[Outcome | None, ...], States] = {}
        for states, mine, other in _pairs(ours, theirs, space, within):
            for old_states, old in parts_of(base, space):
                wanted = {other if mine == old else mine} if old in (mine, other) else {mine, other}
                if len(wanted) == 2 and None not in wanted:
                    continue  # a collision
                for new_states, new in parts_of(merged, space):
                    both = space.both(space.both(states, old_states), new_states) if new not in wanted else NEVER
                    if both != NEVER:
                        key = (old, mine, other, new)
                        found[key] = space.either(found.get(key, NEVER), both)
        for (old, mine, other, new), states in found.items():
            yield UnexpectedDecision(trigger, states, old, mine, other, new)


def _pairs(
    ours: DecisionTable | None, theirs: DecisionTable | None, space: Space, within: States
) -> Iterator[tuple[States, Outcome | None, Outcome | None]]:
    for states, mine in parts_of(ours, space):
        for their_states, other in parts_of(theirs, space):
            both = space.both(space.both(states, their_states), within)
            if both != NEVER:
                yield both, mine, other
