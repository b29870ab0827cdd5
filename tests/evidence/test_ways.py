"""The commands in a row that are written for actions do what their programs say, pressed with one key in the real editors."""

import random

import pytest

from ombix.evidence.effect_conformance import cases, expected, run_many, ways_of
from ombix.evidence.sandbox import best_sandbox
from tests.helpers import SECTIONS, dialect, seed, shipped

WITH_WAYS = ("micro", "nano", "joe", "ex", "kakoune")


@pytest.mark.parametrize(("editor", "section"), [one for one in SECTIONS if one[0] in WITH_WAYS])
def test_ways_do_what_is_said_of_them(editor: str, section: str) -> None:
    """Some of them, others with each seed; all of them: tools/press_ways.py."""
    ways = ways_of(dialect(editor), section, shipped.catalogue())
    if editor != "micro":  # which has a command of its own for nearly all of them
        assert len(ways.ways) >= 3
    every = [one for one in cases(ways, 1000 if ways.ways else 0, seed(), alone=True) if expected(one, ways).is_sure]
    some = random.Random(seed()).sample(every, min(15, len(every)))
    wrong = [one for one in run_many(some, ways, best_sandbox(), 4) if one is not None]
    assert not wrong, (seed(), wrong)
