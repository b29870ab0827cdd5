"""Lines that are folded away, by hand: `>` before a line begins a fold, `.` is a line that is hidden in one."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ombix.core.keymap.outcomes import Do
from ombix.text.effects.buffer import Settings
from ombix.text.stage.action_effects import run
from ombix.text.stage.folded_lines import blocks, hiding_fold
from ombix.text.stage.stage_state import Fold, State
from tests.helpers import WITH_EFFECT, shipped, told

TEXT = "a\n b\n  c\n\n d\ne\nf\n g"
"""Blocks: a with b, c, the blank line and d; b with c; f with g."""


def shown(state: State) -> str:
    """The lines, with their marks, and | before the line of the cursor."""
    rows, at = [], 0
    for line in state.text.split("\n"):
        hidden = any(one.start < at <= one.end for one in state.folds)
        head = any(one.start == at for one in state.folds)
        here = at <= state.cursor <= at + len(line)
        rows.append(("|" if here else "") + ("." if hidden else ">" if head else "") + line.strip())
        at += len(line) + 1
    return " ".join(rows)


def at(line: int, *folds: Fold, text: str = TEXT) -> State:
    return State(text, sum(len(one) + 1 for one in text.split("\n")[:line]), folds=folds)


def act(state: State, *names: str, **arguments: str) -> State:
    for name in names:
        state = run(Do(name, tuple(arguments.items())), state, shipped.catalogue())
    return state


def test_blocks_go_by_the_indentation() -> None:
    assert blocks(TEXT, 8) == [Fold(0, 12), Fold(2, 8), Fold(15, 19)]
    assert blocks("x\n\ty\n        z", 8) == [Fold(0, 14)]  # a tab is as wide as eight blanks
    assert blocks("a\nb\n", 8) == blocks("", 8) == blocks("\n\n", 8) == []
    assert blocks("a\n b\n\n\n", 8) == [Fold(0, 4)]  # blank lines behind it are not in it


@pytest.mark.parametrize(
    ("line", "actions", "wanted"),
    [
        (0, "close", "|>a .b .c . .d e f g"), (2, "close", "a |>b .c  d e f g"), (4, "close", "|>a .b .c . .d e f g"),
        (5, "close", "a b c  d |e f g"), (1, "close close", "|>a .b .c . .d e f g"), (0, "close open", "|a b c  d e f g"),
        (0, "toggle", "|>a .b .c . .d e f g"), (0, "toggle toggle", "|a b c  d e f g"),
        (5, "close-all", ">a .b .c . .d |e >f .g"), (7, "close-all", ">a .b .c . .d e |>f .g"),
        (5, "close-all open-all", "a b c  d |e f g"), (0, "close-deep open", "|a >b .c  d e f g"),
        (0, "close-deep open-deep", "|a b c  d e f g"), (2, "close-others", "a b |c  d e >f .g"),
        (0, "next", "a |b c  d e f g"), (7, "previous", "a b c  d e |f g"), (2, "parent", "a |b c  d e f g"),
        (1, "parent", "|a b c  d e f g"), (0, "previous", "|a b c  d e f g"),
    ],
)  # fmt: skip
def test_folding_and_unfolding(line: int, actions: str, wanted: str) -> None:
    assert shown(act(at(line), *(f"fold.{one}" for one in actions.split()))) == wanted


def test_folding_to_a_level() -> None:
    assert shown(act(at(5), "fold.level", number="1")) == ">a .b .c . .d |e >f .g"
    assert shown(act(at(5), "fold.level", number="2")) == "a >b .c  d |e f g"


def test_folds_made_by_hand() -> None:
    made = act(State("a\nb\nc\nd", 5, anchor=2), "fold.selection")
    assert made.folds == (Fold(2, 5, by_hand=True),)
    assert shown(made) == "a |>b .c d"
    assert act(made, "fold.remove").folds == ()
    assert act(State("a\nb", 0, anchor=1), "fold.selection").folds == ()  # one line is none


def test_comments_of_several_lines() -> None:
    start = State("# a\n# b\nx\n# c\ny\n  # d\n  # e", 8, settings=Settings(comment="# "))
    assert shown(act(start, "fold.comments")) == "># a .# b |x # c y ># d .# e"


def test_lines_that_are_folded_away_are_passed_over() -> None:
    folded = act(at(0), "fold.close")
    down = act(folded, "cursor.down")
    assert shown(down) == ">a .b .c . .d |e f g"
    assert shown(act(down, "cursor.up")) == "|>a .b .c . .d e f g"
    last = act(at(6), "fold.close", "cursor.down")
    assert shown(last) == "a b c  d e |>f .g"  # nothing is below


def test_what_leads_into_a_fold_opens_it() -> None:
    assert shown(act(act(at(0), "fold.close"), "cursor.line-end", "cursor.right")) == "a |b c  d e f g"
    assert shown(act(act(at(0), "fold.close-all"), "cursor.document-end")) == ">a .b .c . .d e f |g"


def test_folds_stay_with_their_lines() -> None:
    folded = act(at(6), "fold.close")
    above = act(State(folded.text, 0, folds=folded.folds), "line.copy-down")
    assert shown(above) == "a |a b c  d e >f .g"
    assert shown(act(folded, "line.delete")) == "a b c  d e |g"


@given(st.lists(st.sampled_from(WITH_EFFECT), max_size=5), st.integers(0, 19))
def test_the_cursor_is_never_in_what_is_hidden(actions: list[str], cursor: int) -> None:
    state = act(State(TEXT, cursor), "fold.close-all")
    for name in actions:
        state = run(Do(name, tuple(told(name).items())), state, shipped.catalogue())
        assert hiding_fold(state) is None
        assert all(0 <= one.start < one.end <= len(state.text) for one in state.folds)
        assert all("\n" in state.text[one.start : one.end] for one in state.folds)
