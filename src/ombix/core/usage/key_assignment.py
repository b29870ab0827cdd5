"""Which keys are best for which actions, given how often they are used: an assignment at the least cost in all."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from ombix.core.linear_programme import LinearProgramme

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
    cost in all: a mixed-integer linear programme. Its relaxation gives the bound, and says which choices
    come next to it; among these it is solved.

    Raises ValueError where an action has no choice that is no change and there may be none.
    """
    count = len(choices)
    if not count:
        return Assignment((), 0.0, 0.0)
    by_action: dict[int, list[int]] = defaultdict(list)
    by_keys: dict[int, list[int]] = defaultdict(list)
    for number, one in enumerate(choices):
        by_action[one.action].append(number)
        if one.keys >= 0:
            by_keys[one.keys].append(number)
    # What costs the same is taken in the order that it stands in, each time.
    costs = [one.cost + 1e-9 * number / count for number, one in enumerate(choices)]
    programme = LinearProgramme([*costs, *(-bonus.worth for bonus in bonuses)])
    for members in by_action.values():
        programme.limit(members, least=1.0, most=1.0)
    for members in by_keys.values():
        if len(members) > 1:
            programme.limit(members, most=1.0)
    for number, bonus in enumerate(bonuses, count):
        programme.limit([number], [bonus.first], most=0.0)
        programme.limit([number], [bonus.second], most=0.0)
    if most is not None:
        programme.limit([number for number, one in enumerate(choices) if one.is_change], most=float(most))
    whole = range(count + len(bonuses))
    relaxed = programme.solved(whole, 0, 0.0, seconds)
    if relaxed is None:
        raise ValueError("there is no assignment")
    reduced = [programme.reduced(number, relaxed.marginals) for number in range(count)]
    best: Assignment | None = None
    for each in CONSIDERED:
        near = _nearest(choices, reduced, by_action, each)
        solved = programme.solved([*near, *whole[count:]], len(near), 0.001, seconds)
        if solved is None:
            continue
        chosen = tuple(number for number, value in zip(near, solved.values, strict=False) if value > 0.5)
        cost = cost_of(choices, bonuses, chosen)
        found = Assignment(chosen, cost, min(relaxed.bound, cost))
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
    saved = sum(bonus.worth for bonus in bonuses if bonus.first in taken and bonus.second in taken)
    return sum(choices[number].cost for number in chosen) - saved
