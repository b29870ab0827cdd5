"""Writing commands killed before each of their calls that change a file, and at random moments; see tools/try_kills.py."""

import random
import sys

import pytest

from tests.helpers import ROOT

sys.path.insert(0, str(ROOT / "tools"))

import try_kills

_SLOW = [("move",), ("narrow",), ("settle", "--rule", "clash", "--draft")]
"""What writes as others do, and takes long; `python tools/try_kills.py` has all."""
ALL = [one for one in (*try_kills.WRITINGS, try_kills.INIT) if not any(one.call[: len(slow)] == slow for slow in _SLOW)]


@pytest.mark.long
@pytest.mark.parametrize("writing", ALL, ids=lambda writing: " ".join(writing.call[:2]))
def test_a_kill_before_any_call_leaves_old_or_new_and_nothing_lying_about(writing: try_kills.Writing) -> None:
    number, was_killed = 0, True
    while was_killed:
        number += 1
        was_killed, wrong = try_kills.fault(writing, try_kills.before_call(number))
        assert wrong == "", f"before call {number}"
    assert number > 6  # it was killed, and more than once


@pytest.mark.long(first=True)
def test_kills_at_random_moments() -> None:
    chance = random.Random(3)
    killed = 0
    for _ in range(30):
        was_killed, wrong = try_kills.fault(chance.choice(ALL), try_kills.after_seconds(chance.uniform(0.0, 0.06)))
        killed += was_killed
        assert wrong == ""
    assert killed
