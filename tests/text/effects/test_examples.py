"""The worked examples of the catalogue's actions, each written by hand, hold on the stage; and each exact effect has some."""

import pytest

from ombix.core.keymap.outcomes import Do
from ombix.text.stage.action_effects import run
from ombix.text.stage.stage_state import State
from tests.helpers import EXAMPLES, WITH_EFFECT, shipped

CATALOGUE = shipped.catalogue()


@pytest.mark.parametrize("action", EXAMPLES)
def test_examples(action: str) -> None:
    for one in EXAMPLES[action]:
        begin, end = one.begin, one.end
        start = State(begin.text, begin.cursor, begin.anchor, one.kept, settings=one.settings)
        after = run(Do(action, one.arguments), start, CATALOGUE)
        anchor = None if after.anchor == after.cursor else after.anchor
        assert (after.text, after.cursor, anchor) == (end.text, end.cursor, end.anchor), one
        if one.keeps is not None:
            assert after.clipboard == one.keeps, one


def test_each_exact_effect_has_two_examples_or_more() -> None:
    assert len(WITH_EFFECT) >= 220
    few = [name for name in WITH_EFFECT if len(EXAMPLES.get(name, ())) < 2]
    # What keeps a mark, and nothing that is to be seen, is shown with what follows it: tests/stage/test_effects.py.
    assert few == []
    assert set(EXAMPLES) <= set(WITH_EFFECT)


def test_numbers_of_any_length_are_sorted_by_their_value() -> None:
    long = "9" * 5000
    start = State(f"{long}\n10\n9", len(long) + 5, 0)
    assert run(Do("line.sort-naturally"), start, CATALOGUE).text == f"9\n10\n{long}"


def test_an_example_shows_something() -> None:
    """Each action has an example in which it changes something, or, for a mark, what is selected behind it."""
    marks = {"select.start"}
    for name, found in EXAMPLES.items():
        assert name in marks or any(one.before != one.after or one.keeps for one in found), name
