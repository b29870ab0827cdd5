"""Programs with counts, words that are selected on the way, and what commands leave for those that follow."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ombix.core.errors import InputError
from ombix.text.effects.buffer import PLAIN, Buffer, Settings
from ombix.text.effects.execution import CommandRun, EditorConventions
from ombix.text.effects.program_language import program
from ombix.text.effects.selected_words import brackets, next_word, next_word_end, previous_word


def after(effect: str, text: str, settings: Settings = PLAIN) -> str:
    """The text that a program leads to from |, with the cursor as |."""
    buffer = Buffer(text.replace("|", ""), text.index("|"), settings=settings)
    program(effect).run(buffer)
    return f"{buffer.text[: buffer.cursor]}|{buffer.text[buffer.cursor :]}"


@pytest.mark.parametrize(
    ("effect", "before", "then"),
    [
        ("times 3 { if at-last-sign { stop }; go right }", "|ab\n", "a|b\n"),  # as often as it can be
        ("together 3 { if not has-line-below { stop }; go down }", "|a\nb\n", "|a\nb\n"),  # or not at all
        ("together 1 { if not has-line-below { stop }; go down }", "|a\nb\n", "a\n|b\n"),
        ("times 2 { if at-start { stop }; go left }; go line-end", "|ab", "|ab"),  # what fails at once ends all
        ("times 2 { if at-start { stop }; go left }; go line-end", "a|b", "ab|"),
        ("insert indentation", "ab|c", "ab  |c"),
        ("indent", "|ab", "    |ab"),
    ],
)
def test_counts_and_blanks_for_tabs(effect: str, before: str, then: str) -> None:
    assert after(effect, before, Settings(tab_width=4, soft_tabs=True)) == then


@pytest.mark.parametrize(
    "text", ["times { go left }", "times 0 { go left }", "together x { go left }", "times 2 go left"]
)
def test_a_count_that_is_none_is_an_error(text: str) -> None:
    with pytest.raises(InputError):
        program(text)


def test_what_a_program_is_about_is_told_by_its_words() -> None:
    assert "words" in program("delete to next-start names").topics
    assert "tabs" in program('insert "\\t"').topics
    assert "rows" in program("go down").topics
    assert program("go left").topics == {"all"}


# By hand: the words of a line with a sign, blanks and a line end behind it.
LINE = "ab  cd.. e\nf\n"


@pytest.mark.parametrize(
    ("find", "at", "found"),
    [
        (next_word, 0, (0, 3)), (next_word, 3, (4, 5)), (next_word, 5, (6, 8)), (next_word, 9, (11, 11)),
        (next_word, 12, None), (next_word_end, 0, (0, 1)), (next_word_end, 1, (2, 5)), (next_word_end, 2, (2, 5)),
        (previous_word, 0, None), (previous_word, 4, (3, 0)), (previous_word, 9, (8, 6)), (previous_word, 11, (9, 9)),
    ],
)  # fmt: skip
def test_words_with_their_blanks(find, at: int, found: tuple[int, int] | None) -> None:  # type: ignore[no-untyped-def]
    assert find(LINE, at) == found


def test_brackets_of_four_kinds_in_both_directions() -> None:
    text = "a (b [c] <d>) e"
    assert brackets(text, 0) == (2, 12)
    assert brackets(text, 4) == (5, 7)
    assert brackets(text, 7) == (7, 5)
    assert brackets(text, 9) == (9, 11)
    assert brackets(text, 13) is None
    assert brackets("(a", 0) is None


@given(st.text("ab_. \n", min_size=1, max_size=20), st.data())
def test_a_word_lies_in_the_text_and_goes_the_right_way(text: str, data: st.DataObject) -> None:
    at = data.draw(st.integers(0, len(text) - 1))
    for find in (next_word, next_word_end):
        if found := find(text, at):
            assert at <= found[0] <= found[1] < len(text)
    if found := previous_word(text, at):
        assert 0 <= found[1] <= found[0] + 1 <= at + 1


def test_what_is_run_in_another_section_has_its_manner() -> None:
    settle = EditorConventions(fit=program("settle"), ends=True)
    plain = EditorConventions()
    row = (program("go line-end"), program('insert "x"'), program("go left line"))
    buffer = Buffer("ab\n", 0)
    assert CommandRun(row, settle, manners=(plain, plain, settle)).run(buffer)
    assert (buffer.text, buffer.cursor) == ("abx\n", 2)


def test_a_row_that_ends_in_another_section_is_not_sure() -> None:
    settle = EditorConventions(ends=True)
    other = EditorConventions(ends=True, selects="")
    row = (program("stay"), program("if at-start { stop }"), program("stay"))
    assert not CommandRun(row, settle, manners=(other, other, settle)).run(Buffer("a", 0))
    assert CommandRun(row, settle, manners=(other, other, settle)).run(Buffer("a", 1))
    assert CommandRun(row, settle).run(Buffer("a", 0))


def test_the_cell_that_is_kept_to() -> None:
    text = "abcd\na\nabcd\n"
    assert after("keep-goal; go line-after", "abc|d\na\nabcd\n").index("|") == 5
    buffer = Buffer(text, 3)
    for effect in ("keep-goal; go line-after", "go down"):
        program(effect).run(buffer)
    assert buffer.cursor == text.rindex("d")
    buffer = Buffer(text, 3)
    for effect in ("goal start", "go down"):
        program(effect).run(buffer)
    assert buffer.cursor == 5
