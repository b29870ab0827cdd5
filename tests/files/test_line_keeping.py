"""A changed text keeps the line ends of the one that it was."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ombix.files.line_keeping import with_lines_of

_LINES = st.lists(st.tuples(st.sampled_from(["", "a", "b", "c d"]), st.sampled_from(["\n", "\r\n"])), max_size=7)
_OPEN = st.sampled_from(["", "last"])


@pytest.mark.parametrize(
    ("original", "text", "wanted"),
    [
        ("a\r\nb\r\n", "a\nx\nb\n", "a\r\nx\r\nb\r\n"),
        ("a\nb\r\nc\n", "a\nB\nc\n", "a\nB\r\nc\n"),
        ("a\r\nb", "a\nb\n", "a\r\nb"),  # an open last line stays so
        ("a\r\nb", "a\nb", "a\r\nb"),
        ("a\r\nb\r\n", "a\nb", "a\r\nb"),
        ("", "a\nb", "a\nb"),
        ("a\r\n", "", ""),
    ],
)
def test_worked_examples(original: str, text: str, wanted: str) -> None:
    assert with_lines_of(text, original) == wanted


@given(_LINES, _OPEN)
def test_a_text_that_is_the_same_by_its_lines_stays_byte_for_byte(lines: list[tuple[str, str]], last: str) -> None:
    original = "".join(map("".join, lines)) + last
    assert with_lines_of(original.replace("\r\n", "\n"), original) == original


@given(_LINES, _OPEN, _LINES, _OPEN)
def test_the_lines_are_those_of_the_new_text(
    old: list[tuple[str, str]], old_last: str, new: list[tuple[str, str]], new_last: str
) -> None:
    original = "".join(map("".join, old)) + old_last
    text = "".join(f"{line}\n" for line, _end in new) + new_last
    kept = with_lines_of(text, original)
    assert kept.replace("\r\n", "\n") == text
    if old and all(end == "\r\n" for _line, end in old):
        assert kept.count("\r\n") == text.count("\n")
    if old and all(end == "\n" for _line, end in old):
        assert "\r" not in kept
