"""Pictures of an editor that are the same but for the keys in them, drawn by hand."""

from typing import NamedTuple

import pytest

from ombix.evidence.editor_run import TILES_IN_A_ROW, Picture
from ombix.evidence.picture_comparison import is_nearly, is_row_with_other_keys, is_window_with_other_keys

NOTHING: set[int] = set()


class Seen(NamedTuple):
    before: Picture
    after: Picture


def screen(*rows: str) -> Picture:
    """A terminal of 24 rows with these as the last ones, and its cursor."""
    lines = [""] * (24 - len(rows)) + list(rows)
    return (*((char, "default", "default", False) for line in lines for char in line.ljust(80)), (0, 0))


def window(*shapes: tuple[int, int, int, int, int], rows: int = 20) -> Picture:
    """A window of squares with boxes in it: the first row and column, the last ones, and what the box is filled with; and a
    last element."""
    squares = [[0] * TILES_IN_A_ROW for _ in range(rows)]
    for top, left, bottom, right, filling in shapes:
        for row in range(top, bottom + 1):
            for column in range(left, right + 1):
                squares[row][column] = filling * 10_000 + row * 100 + column
    return (*(square for line in squares for square in line), 0)


@pytest.mark.parametrize(
    ("before", "after", "same"),
    [
        # The words are the same, the keys before them are not.
        (("", ""), ("^C Cancel  M-\\ Pipe Text  ^Y Linter", "^C Cancel M-\\ Pipe Text Sh-M-E Linter"), True),
        (("", ""), ("^C Cancel  M-\\ Pipe Text  ^Y Linter", "^C Cancel M-\\ Pipe Text Sh-M-E Speller"), False),
        # Too few words to tell.
        (("", ""), ("^C Cancel", "F2 Cancel"), False),
        # What differed before has only moved.
        (("^G Help", "F1 Help"), ("^G Help", "F1 Help"), True),
        (("^G Help", "F1 Help"), ("^X Exit", "F9 Exit"), False),
    ],
)
def test_rows_of_help(before: tuple[str, str], after: tuple[str, str], same: bool) -> None:
    pairs = [Seen(screen("", "", one), screen(other, "", "")) for one, other in zip(before, after, strict=True)]
    assert is_row_with_other_keys(*pairs, NOTHING) is same


def test_a_text_that_is_scrolled_otherwise_is_not_the_same() -> None:
    """Its rows differ in their numbers only; and nothing in them is a key."""
    rows = [[f"line {number} of (some) text, and more" for number in range(start, start + 20)] for start in (10, 11)]
    own, other = (Seen(screen(), screen(*lines)) for lines in rows)
    assert not is_row_with_other_keys(own, other, NOTHING)
    told = [Seen(screen(), screen(f"[ line {number}/61 (49%), col 13/39, char 200 ]")) for number in (30, 31)]
    assert not is_row_with_other_keys(*told, NOTHING)


def test_a_narrow_column_of_numbers_is_no_menu() -> None:
    empty = window()
    own, other = (Seen(empty, window((1, 4, 18, 4, 1), (1, 5, 18, 5, number))) for number in (2, 3))
    assert not is_window_with_other_keys(own, other, NOTHING)


def test_a_cursor_somewhere_else_is_not_the_same() -> None:
    row = "Read File  ^W Where Is"
    one, other = screen(f"^R {row}"), screen(f"F5 {row}")
    assert is_row_with_other_keys(Seen(screen(), one), Seen(screen(), other), NOTHING)
    assert not is_row_with_other_keys(Seen(screen(), (*one[:-1], (3, 3))), Seen(screen(), other), NOTHING)


def test_a_page_of_help() -> None:
    """A page with 20 keys in its 1,600 characters is the same page; one with other words is not."""
    words = ["goes one word to the left, and over blanks, and stops at the first line of the text"[:76]] * 20
    mine, theirs = ([f"^{key} {line}" for line in words] for key in "AB")
    own, other = (Seen(screen(), screen(*lines)) for lines in (mine, theirs))
    assert is_nearly(own, other, NOTHING)
    turned = Seen(screen(), screen(*(line[::-1] for line in theirs)))
    assert not is_nearly(own, turned, NOTHING)
    assert not is_nearly(Seen(screen(), screen("^A one")), Seen(screen(), screen("^B one")), NOTHING)


def test_menus_differ_to_the_right() -> None:
    empty = window()
    narrow, wide = ((3, 5, 15, 14, 1), (3, 15, 15, 18, 2)), ((3, 5, 15, 14, 1), (3, 15, 15, 22, 3))
    assert is_window_with_other_keys(Seen(empty, window(*narrow)), Seen(empty, window(*wide)), NOTHING)
    other_words = ((3, 5, 15, 14, 4), (3, 15, 15, 22, 3))
    assert not is_window_with_other_keys(Seen(empty, window(*narrow)), Seen(empty, window(*other_words)), NOTHING)
    lower = ((4, 5, 16, 14, 1), (4, 15, 16, 22, 3))
    assert not is_window_with_other_keys(Seen(empty, window(*narrow)), Seen(empty, window(*lower)), NOTHING)
    assert not is_window_with_other_keys(Seen(empty, empty), Seen(empty, window(*wide)), NOTHING)


def test_another_underlined_letter_in_a_large_bar() -> None:
    empty, bar = window(), (12, 0, 18, 20, 1)
    other = Seen(empty, window(bar))
    assert is_window_with_other_keys(Seen(empty, window(bar, (17, 2, 17, 3, 5))), other, NOTHING)
    assert is_window_with_other_keys(Seen(empty, window(bar, (0, 0, 0, 9, 5))), other, NOTHING)  # the menu's letters
    assert not is_window_with_other_keys(Seen(empty, window(bar, (17, 2, 17, 9, 5))), other, NOTHING)
    small = (12, 0, 13, 9, 1)
    assert not is_window_with_other_keys(
        Seen(empty, window(small, (13, 2, 13, 2, 5))), Seen(empty, window(small)), NOTHING
    )
