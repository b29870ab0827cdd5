"""Which keys are best for which actions, given how often they are used: an assignment at the least cost in all."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from typing import NamedTuple

WEIGHTS = {
    "effort": "the seconds of pressing", "habits": "keys that are learnt anew", "letters": "keys that the words do not tell",
    "pairs": "opposites on keys that belong together", "editors": "defaults of editors that lose their keys",
}  # fmt: skip
"""What counts, each by itself as 1; a workspace can say otherwise in [use.weights]."""
MOST_WEIGHT = 100
LETTERS, PAIRS = 0.10, 0.10
"""Seconds that each use takes longer where nothing tells the keys, and that it is shorter where the opposite does. Our own."""
LEARNING_DAYS = 60
"""Over how many days what is spent on learning counts. Our own."""
EDITOR_DEFAULT = 1.0
"""Seconds a day that a default of an editor is worth which loses its keys. Our own."""

CONSIDERED = (15, 60, 240)
"""Choices of an action that are solved among: more, where fewer did not come near enough to the bound."""
NEAR_ENOUGH = 0.005


class KeyChoice(NamedTuple):
    """An action on keys, by their numbers (keys below 0: none): what it costs in weighted seconds a day, and whether that is
    another one than now."""

    action: int
    keys: int
    cost: float
    is_change: bool


class PairBonus(NamedTuple):
    """Two choices, by their numbers, which together cost less by `worth`."""

    first: int
    second: int
    worth: float


class Assignment(NamedTuple):
    """The numbers of the choices, what they cost, and the least that any assignment could cost, as far as it was proved."""

    chosen: tuple[int, ...]
    cost: float
    bound: float

    @property
    def gap(self) -> float:
        """How far the cost can be above the least, as a share of it."""
        return max(0.0, self.cost - self.bound) / max(abs(self.cost), 1e-9)


def assigned(
    choices: Sequence[KeyChoice], bonuses: Sequence[PairBonus] = (), most: int | None = None, seconds: float = 40.0
) -> Assignment:
    """One choice for each action, keys given once at the most, and no more than `most` changes (None: any number), at the least
    cost in all: a mixed-integer linear programme, solved by SciPy (HiGHS). Its relaxation gives the bound, and says which choices
    come next to it; among these it is solved.

    Raises ValueError where an action has no choice that is no change and there may be none.
    """
    import numpy as np
    from scipy.optimize import Bounds, LinearConstraint, linprog, milp
    from scipy.sparse import coo_array

    count = len(choices)
    if not count:
        return Assignment((), 0.0, 0.0)
    by_action: dict[int, list[int]] = defaultdict(list)
    by_keys: dict[int, list[int]] = defaultdict(list)
    for number, one in enumerate(choices):
        by_action[one.action].append(number)
        if one.keys >= 0:
            by_keys[one.keys].append(number)
    rows: list[int] = []
    columns: list[int] = []
    values: list[float] = []
    least: list[float] = []
    greatest: list[float] = []

    def limit(members: Sequence[tuple[int, float]], low: float, high: float) -> None:
        for column, value in members:
            rows.append(len(least))
            columns.append(column)
            values.append(value)
        least.append(low)
        greatest.append(high)

    for members in by_action.values():
        limit([(one, 1.0) for one in members], 1.0, 1.0)
    for members in by_keys.values():
        if len(members) > 1:
            limit([(one, 1.0) for one in members], -np.inf, 1.0)
    for number, bonus in enumerate(bonuses, count):
        limit([(number, 1.0), (bonus.first, -1.0)], -np.inf, 0.0)
        limit([(number, 1.0), (bonus.second, -1.0)], -np.inf, 0.0)
    if most is not None:
        limit([(number, 1.0) for number, one in enumerate(choices) if one.is_change], -np.inf, float(most))
    costs = np.array([one.cost for one in choices] + [-one.worth for one in bonuses])
    # What costs the same is taken in the order that it stands in, each time.
    costs[:count] += 1e-9 * np.arange(count) / count
    matrix = coo_array((values, (rows, columns)), shape=(len(least), len(costs))).tocsr()
    low, high = np.array(least), np.array(greatest)
    is_equal = low == high
    relaxed = linprog(
        costs, matrix[~is_equal], high[~is_equal], matrix[is_equal], high[is_equal], bounds=(0, 1), method="highs"
    )
    if relaxed.x is None:
        raise ValueError("there is no assignment")
    best: Assignment | None = None
    for each in CONSIDERED:
        near = _nearest(choices, relaxed.lower.marginals, by_action, each)
        kept = np.array([*near, *range(count, count + len(bonuses))])
        solved = milp(
            costs[kept], integrality=(kept < count).astype(int), bounds=Bounds(0, 1),
            constraints=LinearConstraint(matrix[:, kept], low, high), options={"mip_rel_gap": 0.001, "time_limit": seconds},
        )  # fmt: skip
        if solved.x is None:
            continue
        pairs = zip(kept, solved.x, strict=True)
        chosen = tuple(int(number) for number, value in pairs if number < count and value > 0.5)
        cost = cost_of(choices, bonuses, chosen)
        found = Assignment(chosen, cost, min(float(relaxed.fun), cost))
        best = found if best is None or found.cost < best.cost else best
        if best.gap <= NEAR_ENOUGH:
            break
    if best is None:
        raise ValueError("there is no assignment")
    return best


def _nearest(
    choices: Sequence[KeyChoice], reduced: Sequence[float], by_action: Mapping[int, Sequence[int]], each: int
) -> list[int]:
    """The choices that cost least above the bound, so many for each action, and those that change nothing."""
    found = []
    for members in by_action.values():
        ordered = sorted(members, key=lambda number: (round(reduced[number], 9), number))
        found += [number for at, number in enumerate(ordered) if at < each or not choices[number].is_change]
    return sorted(found)


def cost_of(choices: Sequence[KeyChoice], bonuses: Sequence[PairBonus], chosen: Sequence[int]) -> float:
    """What choices cost together."""
    taken = set(chosen)
    saved = sum(one.worth for one in bonuses if one.first in taken and one.second in taken)
    return sum(choices[number].cost for number in chosen) - saved
