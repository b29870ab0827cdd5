"""What actions do to a text: | is the cursor, [ and ] the ends of the selection. Worked examples are in tests/effects."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from ombix.core.keymap.outcomes import Do
from ombix.text.effects.buffer import Settings
from ombix.text.stage.action_effects import run as run_effect
from ombix.text.stage.stage_state import State
from tests.helpers import WITH_EFFECT, shipped, told
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
    st.text("ab_ \t\n(}", max_size=30) | st.text("aB19_ \t\n.,(){}<>/'\"\\&%=-éß日İ\u2028\x00", max_size=20),
    st.integers(0, 30), st.none() | st.integers(0, 30),
)  # fmt: skip


@given(st.sampled_from(WITH_EFFECT), _PAGES, st.booleans())
def test_the_cursor_and_the_anchor_stay_in_the_text(action: str, start: State, auto_indent: bool) -> None:
    result = run(action, start, Settings(auto_indent=auto_indent), **told(action))
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
