"""What ways out of findings cost, and which of them together leave none at the least cost.

A cost counts habits: 1 is one binding of an action that is used now and then, on another key. The weights are our own.
"""

from collections.abc import Iterable, Mapping, Sequence
from typing import Literal, NamedTuple

from ombix.core.keymap.changes import KeymapChange
from ombix.core.keys.notation import Trigger
from ombix.core.linear_programme import LinearProgramme

WayKind = Literal["bind", "move", "narrow", "take out", "settle", "accept", "correct"]

HABIT, FREQUENT = 1.0, 3.0
"""A habit that is broken; and how much more it is where the action is used all day."""
SECOND = 2.0
"""A second more of effort at each press."""
LOST_ONLY_KEYS, LOST_KEYS = 6.0, 1.5
"""An action that has no keys any more, and one that has fewer."""
NARROWED, ALL_STATES = 0.5, 4.0
"""A binding that holds in fewer states; and all of its states given up, of which a part counts its share."""
TEXT_STATES = 0.8
"""How much the states in which text is edited count of all: people are there most of the time."""
NEVER_RAN = 0.1
"""A line that did nothing, taken out."""
EXCEPTION = 0.3
"""One platform on which keys are others than elsewhere."""
DISPLACED = 0.5
"""An editor whose default loses its keys."""
NEW_KEYS = 0.5
"""Keys for an action that had none."""
MISSPELT = 0.05
"""A word that means nothing, spelt like the nearest that does."""
ACCEPTED = 8.0
"""A finding that is left as it is, for a reason."""


class Cost(NamedTuple):
    """What a part of a way costs, and why."""

    habits: float
    why: str


class CostedFix(NamedTuple):
    """A way out: what is changed, what that costs, what it makes right (`settles`: names of obligations), the keys that it takes,
    and the bindings that it changes."""

    kind: WayKind
    changes: tuple[KeymapChange, ...]
    costs: tuple[Cost, ...]
    settles: frozenset[str] = frozenset()
    takes: tuple[Trigger, ...] = ()
    touches: tuple[str, ...] = ()

    @property
    def cost(self) -> float:
        """The sum."""
        return sum(cost.habits for cost in self.costs)


class Chosen(NamedTuple):
    """Ways that were chosen together: their indexes, their cost, and the least that any choice could cost, as far as it was proved.
    `open`: obligations that no way makes right."""

    ways: tuple[int, ...]
    cost: float
    bound: float
    open: tuple[str, ...] = ()


def one_by_one(ways: Sequence[CostedFix], obligations: Iterable[str]) -> Chosen:
    """For one obligation after the other the cheapest way that nothing chosen before stands against."""
    settled: set[str] = set()
    taken: set[Trigger] = set()
    touched: set[str] = set()
    found: list[int] = []
    left = []
    by_obligation = _by_obligation(ways)
    for name in obligations:
        if name in settled:
            continue
        free = [
            index for index in by_obligation.get(name, ())
            if not taken & set(ways[index].takes) and not touched & set(ways[index].touches)
        ]  # fmt: skip
        if not free:
            left.append(name)
            continue
        best = min(free, key=lambda index: (round(ways[index].cost, 9), index))
        found.append(best)
        settled |= ways[best].settles
        taken |= set(ways[best].takes)
        touched |= set(ways[best].touches)
    return Chosen(tuple(found), sum(ways[index].cost for index in found), 0.0, tuple(left))


def least_cost(ways: Sequence[CostedFix], obligations: Sequence[str], seconds: float = 20.0) -> Chosen:
    """The ways that make every obligation right at the least cost in all, as a mixed-integer linear programme: each obligation has
    at least one of its ways; each key is taken, and each binding changed, at most once.

    Solved to a relative gap of 0; the bound is the solver's. Obligations that cannot be met beside the others cost more than all
    else, so that as few as possible stay open.
    """
    by_obligation = _by_obligation(ways)
    wanted = [name for name in dict.fromkeys(obligations) if name in by_obligation]
    hopeless = [name for name in dict.fromkeys(obligations) if name not in by_obligation]
    if not wanted:
        return Chosen((), 0.0, 0.0, tuple(hopeless))
    count, penalty = len(ways), 10.0 + 2 * max(way.cost for way in ways)
    # What costs the same is taken in the order that it stands in, each time.
    costs = [way.cost + 1e-7 * index / count for index, way in enumerate(ways)]
    programme = LinearProgramme([*costs, *[penalty] * len(wanted)])
    for place, name in enumerate(wanted, count):
        programme.limit([*by_obligation[name], place], least=1.0)
    for members in (*_groups(ways, "takes").values(), *_groups(ways, "touches").values()):
        if len(members) > 1:
            programme.limit(members, most=1.0)
    solved = programme.solved(range(count + len(wanted)), count + len(wanted), 0.0, seconds)
    if solved is None:
        return one_by_one(ways, obligations)
    found = tuple(index for index in range(count) if solved.values[index] > 0.5)
    left = [name for place, name in enumerate(wanted, count) if solved.values[place] > 0.5]
    bound = solved.bound - penalty * len(left)
    cost = sum(ways[index].cost for index in found)
    return Chosen(found, cost, min(bound, cost), (*hopeless, *left))


def _by_obligation(ways: Sequence[CostedFix]) -> Mapping[str, list[int]]:
    found: dict[str, list[int]] = {}
    for index, way in enumerate(ways):
        for name in way.settles:
            found.setdefault(name, []).append(index)
    return found


def _groups(ways: Sequence[CostedFix], field: Literal["takes", "touches"]) -> Mapping[object, list[int]]:
    found: dict[object, list[int]] = {}
    for index, way in enumerate(ways):
        for one in getattr(way, field):
            found.setdefault(one, []).append(index)
    return found
