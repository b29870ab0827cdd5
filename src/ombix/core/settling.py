"""What ways out of findings cost, and which of them together leave none at the least cost.

A cost counts habits: 1 is one binding of an action that is used now and then, on another key. The weights are our own.
"""

from collections.abc import Iterable, Mapping, Sequence
from typing import Literal, NamedTuple

from ombix.core.changes import KeymapChange
from ombix.core.keys import Trigger

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


class CostedWay(NamedTuple):
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
        return sum(one.habits for one in self.costs)


class Chosen(NamedTuple):
    """Ways that were chosen together: their indexes, their cost, and the least that any choice could cost, as far as it was proved.
    `open`: obligations that no way makes right."""

    ways: tuple[int, ...]
    cost: float
    bound: float
    open: tuple[str, ...] = ()


def one_by_one(ways: Sequence[CostedWay], obligations: Iterable[str]) -> Chosen:
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


def least_cost(ways: Sequence[CostedWay], obligations: Sequence[str], seconds: float = 20.0) -> Chosen:
    """The ways that make every obligation right at the least cost in all, as a mixed-integer linear programme: each obligation has
    at least one of its ways; each key is taken, and each binding changed, at most once.

    Solved by SciPy's `milp` (HiGHS), to a relative gap of 0; the bound is the solver's. Obligations that cannot be met beside
    the others cost more than all else, so that as few as possible stay open.
    """
    import numpy as np
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import coo_array

    by_obligation = _by_obligation(ways)
    wanted = [name for name in dict.fromkeys(obligations) if name in by_obligation]
    hopeless = [name for name in dict.fromkeys(obligations) if name not in by_obligation]
    if not wanted:
        return Chosen((), 0.0, 0.0, tuple(hopeless))
    count = len(ways)
    penalty = 10.0 + 2 * max(way.cost for way in ways)
    costs = np.array([way.cost + 1e-7 * index / count for index, way in enumerate(ways)] + [penalty] * len(wanted))
    rows: list[int] = []
    columns: list[int] = []
    least: list[float] = []
    most: list[float] = []
    for at, name in enumerate(wanted):
        for index in by_obligation[name]:
            rows.append(at)
            columns.append(index)
        rows.append(at)
        columns.append(count + at)
        least.append(1.0)
        most.append(np.inf)
    for members in (*_groups(ways, "takes").values(), *_groups(ways, "touches").values()):
        if len(members) > 1:
            rows += [len(least)] * len(members)
            columns += members
            least.append(-np.inf)
            most.append(1.0)
    matrix = coo_array((np.ones(len(rows)), (rows, columns)), shape=(len(least), len(costs))).tocsr()
    solved = milp(
        costs, integrality=np.ones(len(costs)), bounds=Bounds(0, 1), constraints=LinearConstraint(matrix, least, most),
        options={"mip_rel_gap": 0.0, "time_limit": seconds},
    )  # fmt: skip
    if solved.x is None:
        return one_by_one(ways, obligations)
    found = tuple(index for index in range(count) if solved.x[index] > 0.5)
    left = [name for at, name in enumerate(wanted) if solved.x[count + at] > 0.5]
    bound = float(solved.mip_dual_bound) - penalty * len(left)
    cost = sum(ways[index].cost for index in found)
    return Chosen(found, cost, min(bound, cost), (*hopeless, *left))


def _by_obligation(ways: Sequence[CostedWay]) -> Mapping[str, list[int]]:
    found: dict[str, list[int]] = {}
    for index, way in enumerate(ways):
        for name in way.settles:
            found.setdefault(name, []).append(index)
    return found


def _groups(ways: Sequence[CostedWay], field: Literal["takes", "touches"]) -> Mapping[object, list[int]]:
    found: dict[object, list[int]] = {}
    for index, way in enumerate(ways):
        for one in getattr(way, field):
            found.setdefault(one, []).append(index)
    return found
