"""What actions do to a text, each by hand: | is the cursor, [ and ] the ends of the selection."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from ombix.core.outcomes import Do
from ombix.effects.buffer import Settings
from ombix.stage.effects import run as run_effect
from ombix.stage.state import State
from tests.helpers import WITH_EFFECT, shipped
from tests.pictures import read


def run(action: str, state: State, settings: Settings | None = None, **arguments: str) -> State:
    """An action run on a state, in an editor that is set so."""
    do = Do(action, tuple(sorted(arguments.items())))
    return run_effect(do, replace(state, settings=settings) if settings is not None else state, shipped.catalogue())


def page(text: str, clipboard: str = "") -> State:
    return State(*read(text), clipboard)


def picture(result: State) -> str:
    text = result.text[: result.cursor] + "|" + result.text[result.cursor :]
    if result.anchor is None or result.anchor == result.cursor:
        return text
    if result.anchor < result.cursor:
        return text[: result.anchor] + "[" + text[result.anchor :]
    return text[: result.anchor + 1] + "]" + text[result.anchor + 1 :]


CASES = [
    ("cursor.left", "a\n|b", "a|\nb"),
    ("cursor.left", "|ab", "|ab"),
    ("cursor.left", "a[bc|d", "a|bcd"),
    ("cursor.right", "a|\nb", "a\n|b"),
    ("cursor.right", "a|bc]d", "abc|d"),
    ("cursor.right", "ab|", "ab|"),
    ("cursor.up", "abc\nde|f", "ab|c\ndef"),
    ("cursor.up", "a\ndef|", "a|\ndef"),
    ("cursor.down", "abc|\nd\n", "abc\nd|\n"),
    ("cursor.down", "12345678|\n\tx", "12345678\n\t|x"),
    ("cursor.line-start", "a\n  b|c", "a\n|  bc"),
    ("cursor.line-end", "a\nb|c\nd", "a\nbc|\nd"),
    ("cursor.text-start", "  |  ab", "    |ab"),
    ("cursor.text-start-or-line-start", "  ab|", "  |ab"),
    ("cursor.text-start-or-line-start", "  |ab", "|  ab"),
    ("cursor.word-right", "|one two", "one| two"),
    ("cursor.word-right", "one| two_2 x", "one two_2| x"),
    ("cursor.word-right", "one|\n  two", "one\n|  two"),
    ("cursor.word-left", "one two|", "one |two"),
    ("cursor.word-left", "one |two", "|one two"),
    ("cursor.next-word", "|one_two three", "one_|two three"),
    ("cursor.next-word", "on|e\n\n(two)", "one\n\n(|two)"),
    ("cursor.previous-word", "one_two|", "one_|two"),
    ("cursor.previous-word", "one\n\n|two", "|one\n\ntwo"),
    ("cursor.document-start", "a\nb|", "|a\nb"),
    ("cursor.document-end", "|a\nb", "a\nb|"),
    ("cursor.previous-blank-line", "a\n\nb\nc|", "a\n|\nb\nc"),
    ("cursor.next-blank-line", "a|\nb\n\nc", "a\nb\n|\nc"),
    ("cursor.block-start", "a\nb\n\nc|", "|a\nb\n\nc"),
    ("cursor.next-block", "a|\nb\n\n\nc", "a\nb\n\n\n|c"),
    ("cursor.matching-bracket", "f|(a, (b))", "f(a, (b)|)"),
    ("cursor.matching-bracket", "{a|}", "|{a}"),
    ("cursor.matching-bracket", "a|b", "a|b"),
    ("select.left", "ab|c", "a|b]c"),
    ("select.left", "a|b]c", "|ab]c"),
    ("select.right", "a|bc", "a[b|c"),
    ("select.up", "abc\nd|ef", "a|bc\nd]ef"),
    ("select.down", "a|bc\ndef", "a[bc\nd|ef"),
    ("select.word-right", "|one two", "[one| two"),
    ("select.word-left", "one two|", "one |two]"),
    ("select.line-start", "abc|", "|abc]"),
    ("select.line-end", "|abc\nd", "[abc|\nd"),
    ("select.text-start", "  abc|", "  |abc]"),
    ("select.document-start", "a\nb|", "|a\nb]"),
    ("select.document-end", "|a\nb", "[a\nb|"),
    ("select.all", "a|b\nc", "[ab\nc|"),
    ("select.line", "a\nb|c\nd", "a\n[bc\n|d"),
    ("select.clear", "a[bc|d", "abc|d"),
    ("edit.newline", "ab|cd", "ab\n|cd"),
    ("edit.newline", "a[bc|d", "a\n|d"),
    ("edit.insert-tab", "a|b", "a\t|b"),
    ("edit.insert-space", "a|b", "a |b"),
    ("edit.delete-left", "ab|c", "a|c"),
    ("edit.delete-left", "a\n|b", "a|b"),
    ("edit.delete-left", "a[bc|d", "a|d"),
    ("edit.delete-right", "a|bc", "a|c"),
    ("edit.delete-word-left", "one two|", "one |"),
    ("edit.delete-word-right", "|one two", "| two"),
    ("edit.delete-to-next-word", "|one two", "|two"),
    ("edit.delete-to-next-word", "one |two\nx", "one |\nx"),
    ("edit.delete-to-next-word", "one|\n  x", "one|x"),
    ("edit.delete-to-previous-word", "one two|", "one |"),
    ("edit.delete-to-previous-word", "one\n\n|two", "one|two"),
    ("edit.delete-to-previous-word", "one\n |two", "one\n|two"),
    ("edit.cut", "a\nb|c\nd", "a\n|d"),
    ("edit.cut", "a[bc|d", "a|d"),
    ("edit.cut-line", "a|b\nc", "|c"),
    ("edit.cut-to-end", "ab|c\nd", "ab|"),
    ("edit.discard", "ab|c\nd", "|d"),
    ("edit.discard", "a[b|c", "a|c"),
    ("line.delete", "a\nb|c", "a\n|"),
    ("line.copy-down", "a\nb|c\nd", "a\nbc\nbc|\nd"),
    ("line.copy-down", "a[bc|d", "abcbc|d"),
    ("line.move-up", "a\nb|c\nd", "b|c\na\nd"),
    ("line.move-up", "a|b\nc", "a|b\nc"),
    ("line.move-down", "a|b\nc\nd", "c\na|b\nd"),
    ("line.move-down", "a[b\nc|d\ne", "e\na[b\nc|d"),
    ("line.indent", "a|b\nc", "\ta|b\nc"),
    ("line.indent", "a[b\nc|d\ne", "\ta[b\n\tc|d\ne"),
    ("line.outdent", "\ta|b", "a|b"),
    ("line.outdent", "  a|b", "a|b"),
    ("line.indent-selection", "a|b", "a|b"),
    ("line.outdent-selection", "\ta[b|", "a[b|"),
    ("line.indent-line", "a|b", "\ta|b"),
    ("line.outdent-line", "\ta[b|", "\ta[b|"),
    ("comment.toggle", "a|b\nc", "# a|b\nc"),
    ("comment.toggle", "# a|b\nc", "a|b\nc"),
    ("comment.toggle", "[# a\n# b|", "[a\nb|"),
    ("comment.toggle", "[# a\nb|", "# [# a\n# b|"),
]


@pytest.mark.parametrize(("action", "before", "after"), CASES)
def test_effect(action: str, before: str, after: str) -> None:
    assert picture(run(action, page(before))) == after


def test_at_least_thirty_five_actions_have_an_exact_effect_and_are_in_the_catalogue() -> None:
    assert len(WITH_EFFECT) >= 35
    assert set(WITH_EFFECT) <= set(shipped.catalogue().actions)


@pytest.mark.parametrize(
    ("action", "before", "clipboard"),
    [
        ("edit.cut", "a\nb|c\nd", "bc\n"), ("edit.cut", "a[bc|d", "bc"), ("edit.copy", "a|b\nc", "ab\n"),
        ("edit.copy", "a[b|c", "b"), ("edit.copy-selection", "a|b", "old"), ("edit.copy-line", "a|b", "ab"),
        ("edit.discard", "a|b", "old"), ("edit.cut-to-end", "a|b\nc", "b\nc"),
    ],
)  # fmt: skip
def test_clipboard(action: str, before: str, clipboard: str) -> None:
    assert run(action, page(before, "old")).clipboard == clipboard


def test_pasting_puts_the_clipboard_in_place_of_the_selection() -> None:
    assert picture(run("edit.paste", page("a[b|c", "xyz"))) == "axyz|c"


def test_the_mark_makes_movements_extend_the_selection() -> None:
    marked = run("select.toggle-mark", page("a|bcd"))
    moved = run("cursor.right", run("cursor.right", marked))
    assert picture(moved) == "a[bc|d"
    assert picture(run("cursor.left", run("select.toggle-mark", moved))) == "ab|cd"


def test_settings() -> None:
    assert picture(run("edit.newline", page("  ab|"), Settings(auto_indent=True))) == "  ab\n  |"
    assert picture(run("edit.newline", page(" |  ab"), Settings(auto_indent=True))) == " \n |  ab"
    assert picture(run("cursor.up", page("a|b"), Settings(stops_at_edges=True))) == "a|b"
    assert picture(run("cursor.up", page("a|b"))) == "|ab"
    assert picture(run("cursor.down", page("1234|\n\tx"), Settings(tab_width=4))) == "1234\n\t|x"
    assert picture(run("line.indent", page("|a"), Settings(indentation="  "))) == "  |a"
    assert picture(run("comment.toggle", page("a|"), Settings(comment="#"))) == "#a|"


_PAGES = st.builds(
    lambda text, cursor, anchor: State(text, min(cursor, len(text)), None if anchor is None else min(anchor, len(text))),
    st.text("ab_ \t\n(}", max_size=30), st.integers(0, 30), st.none() | st.integers(0, 30),
)  # fmt: skip


@given(st.sampled_from(WITH_EFFECT), _PAGES, st.booleans())
def test_the_cursor_and_the_anchor_stay_in_the_text(action: str, start: State, auto_indent: bool) -> None:
    result = run(action, start, Settings(auto_indent=auto_indent))
    assert 0 <= result.cursor <= len(result.text)
    assert result.anchor is None or 0 <= result.anchor <= len(result.text)
    if action.startswith(("cursor.", "select.")):
        assert result.text == start.text


@given(_PAGES)
def test_moving_lines_up_and_down_again_changes_nothing(start: State) -> None:
    moved = run("line.move-up", start)
    if moved != start:
        assert run("line.move-down", moved) == start


def test_an_action_without_an_effect_is_a_key_error() -> None:
    with pytest.raises(KeyError):
        run("files.save", page("|"))


def test_moves_up_and_down_in_a_row_keep_to_their_column() -> None:
    start = page("alpha\nbe|ta gamma\nx\ndelta epsilon\n")
    start = run("cursor.line-end", start)
    down = run("cursor.down", run("cursor.down", start))
    assert picture(down) == "alpha\nbeta gamma\nx\ndelta epsi|lon\n"
    selected = run("select.up", run("select.up", down))
    assert picture(selected) == "alpha\nbeta gamma|\nx\ndelta epsi]lon\n"
    once = run("cursor.down", start)
    for between in ("cursor.left", "cursor.right", "edit.insert-space"):  # another action ends the row
        after = run("cursor.down", run(between, once))
        assert after.cursor - after.text.rindex("\n", 0, after.cursor) - 1 < 3
