"""What differs between two texts, worked out by hand and held against what must always be so."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ombix.core.text_changes import ChangedLines, TextChanges, as_lines, changes_between

_TEXTS = st.lists(st.text("ab \t", max_size=4), max_size=8).map("\n".join)


@pytest.mark.parametrize(
    ("before", "after", "wanted"),
    [
        ("a\nb\n", "a\nb\n", TextChanges((), 0, 0, 0, 0)),
        ("", "x", TextChanges((ChangedLines(0, 1, 0, 1),), 1, 1, 0, 0)),
        ("a\nc", "a\nb\nc", TextChanges((ChangedLines(1, 1, 1, 2),), 1, 0, 1, 0)),
        ("a\nb\nc", "a\nc", TextChanges((ChangedLines(1, 2, 1, 1),), 1, 0, 0, 1)),
        ("one two three", "ONE two THREE", TextChanges((ChangedLines(0, 1, 0, 1),), 2, 1, 0, 0)),
        ("q\nx\nr\ny", "q!\nx\nr!\ny", TextChanges((ChangedLines(0, 1, 0, 1), ChangedLines(2, 3, 2, 3)), 2, 2, 0, 0)),
        ("k\nab\nz", "k\ncd\nef\nz", TextChanges((ChangedLines(1, 2, 1, 3),), 1, 1, 1, 0)),
    ],
)  # fmt: skip
def test_worked_examples(before: str, after: str, wanted: TextChanges) -> None:
    assert changes_between(before, after) == wanted


@given(_TEXTS, _TEXTS)
def test_the_groups_make_the_one_text_of_the_other(before: str, after: str) -> None:
    found = changes_between(before, after)
    lines, new = before.split("\n"), after.split("\n")
    for one in reversed(found.groups):
        lines[one.start : one.end] = new[one.new_start : one.new_end]
    assert "\n".join(lines) == after
    assert bool(found.groups) == bool(found.places) == (before != after)
    back = changes_between(after, before)
    assert (found.changed + found.removed, found.changed + found.added) == (
        sum(one.end - one.start for one in found.groups), sum(one.new_end - one.new_start for one in found.groups),
    )  # fmt: skip
    assert len(back.groups) == 0 if before == after else len(back.groups) > 0


@given(_TEXTS, _TEXTS, st.integers(2, 9))
def test_lines_are_shown_with_their_numbers(before: str, after: str, most: int) -> None:
    whole, short = as_lines(before, after, 10**6), as_lines(before, after, most)
    old, new = before.split("\n"), after.split("\n")
    for line in whole:
        sign, number, text = line[0], line[2 : line.index(":")], line[line.index(":") + 2 :]
        assert (old if sign == "-" else new)[int(number) - 1] == text
    if len(whole) <= most:
        assert short == whole
    else:
        assert short[: most - 1] == whole[: most - 1]
        assert short[-1] == f"… and {len(whole) - most + 1} more lines"


def test_long_texts_are_compared_in_bounded_time() -> None:
    lines = [f"crossing {number % 7}" for number in range(20_000)]
    found = changes_between("\n".join(lines), "\n".join([*lines[:10_000], "fog", *lines[10_000:]]))
    assert (found.added, found.removed, found.changed) == (1, 0, 0)
    assert changes_between("a" * 9000, "b" + "a" * 5000 + "c" * 4000 + "d").places == 1
