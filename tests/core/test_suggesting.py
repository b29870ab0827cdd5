"""Assignments of keys to actions against the best of all that there are."""

from itertools import product
from random import Random

import pytest

from ombix.core.usage.key_assignment import KeyChoice, PairBonus, assigned, cost_of


def brute_force(choices: list[KeyChoice], bonuses: list[PairBonus], most: int | None) -> float:
    """The least cost of all assignments."""
    by_action: dict[int, list[int]] = {}
    for number, one in enumerate(choices):
        by_action.setdefault(one.action, []).append(number)
    least = float("inf")
    for chosen in product(*by_action.values()):
        keys = [choices[number].keys for number in chosen if choices[number].keys >= 0]
        changes = sum(choices[number].is_change for number in chosen)
        if len(keys) == len(set(keys)) and (most is None or changes <= most):
            least = min(least, cost_of(choices, bonuses, chosen))
    return least


@pytest.mark.parametrize("seed", range(40))
def test_no_assignment_is_better(seed: int) -> None:
    chance = Random(seed)
    actions, keys = chance.randint(1, 4), chance.randint(4, 6)
    choices = [
        KeyChoice(action, key, round(chance.uniform(0, 10), 2), key != action)
        for action in range(actions) for key in range(keys)
    ] + [KeyChoice(actions, -1, 3.0, False), KeyChoice(actions, 4 % keys, round(chance.uniform(0, 6), 2), True)]  # fmt: skip
    pairs = [chance.sample(range(len(choices)), 2) for _ in range(chance.randint(0, 4))]
    bonuses = [PairBonus(first, second, round(chance.uniform(0, 4), 2)) for first, second in pairs]
    most = chance.choice([None, 0, 1, 2])
    found = assigned(choices, bonuses, most)
    best = brute_force(choices, bonuses, most)
    assert found.cost == pytest.approx(best, rel=0.001, abs=1e-6)
    assert found.bound <= found.cost + 1e-9
    assert found.bound <= best + 1e-6
    taken = [choices[number] for number in found.chosen]
    assert sorted(one.action for one in taken) == list(range(actions + 1))
    given = [one.keys for one in taken if one.keys >= 0]
    assert len(given) == len(set(given))
    assert most is None or sum(one.is_change for one in taken) <= most


def test_many_actions_and_keys_come_within_a_percent_of_the_bound() -> None:
    chance = Random(3)
    choices = [
        KeyChoice(action, key, chance.uniform(0, 50) if key != action else 40.0, key != action)
        for action in range(60) for key in range(200)
    ]  # fmt: skip
    for most in (None, 5):
        found = assigned(choices, [], most)
        assert found.gap <= 0.01


def test_where_nothing_fits() -> None:
    with pytest.raises(ValueError, match="no assignment"):
        assigned([KeyChoice(0, 0, 1.0, True), KeyChoice(1, 0, 1.0, True)])
    with pytest.raises(ValueError, match="no assignment"):
        assigned([KeyChoice(0, 0, 1.0, True)], most=0)
    assert assigned([]).chosen == ()
