"""Further cursors, bookmarks, marks and questions, each by hand: | is the cursor, ^ a further one, [ the start of a selection."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ombix.core.keymap.outcomes import Do
from ombix.core.keys.notation import parse
from ombix.text.stage.action_effects import run as run_effect
from ombix.text.stage.stage_state import Cursor, State
from tests.helpers import WITH_EFFECT, shipped, told
from tests.text.stage.test_machine import editor


def run(do: Do, before: State) -> State:
    """A state after an action."""
    return run_effect(do, before, shipped.catalogue())


def state(picture: str) -> State:
    """A state from a picture with one | and any number of ^; a [ before the | is where its selection began."""
    plain, cursor, anchor, others = "", 0, None, []
    for char in picture:
        if char == "|":
            cursor = len(plain)
        elif char == "^":
            others.append(Cursor(len(plain)))
        elif char == "[":
            anchor = len(plain)
        else:
            plain += char
    return State(plain, cursor, anchor, others=tuple(others))


def picture(result: State) -> str:
    marks = [(result.cursor, "|"), *((one.cursor, "^") for one in result.others)]
    if result.has_selection:
        marks.append((result.selection[0], "["))
    text = result.text
    for at, mark in sorted(marks, reverse=True):
        text = text[:at] + mark + text[at:]
    return text


@pytest.mark.parametrize(
    ("action", "before", "after"),
    [
        ("cursors.add-below", "ab|c\ndef\ngh", "ab|c\nde^f\ngh"),
        ("cursors.add-below", "ab|c\nde^f\ngh", "ab|c\nde^f\ngh^"),
        ("cursors.add-below", "abc\nde|f", "abc\nde|f"),
        ("cursors.add-above", "abc\nde|f", "ab^c\nde|f"),
        ("cursors.add-to-selected-lines", "a[b\ncd\ne|f", "ab|\ncd^\nef^"),
        ("cursors.remove-last", "a|b^c^d", "a|b^cd"),
        ("cursors.remove-all", "a|b^c^d", "a|bcd"),
        ("edit.delete-left", "a|b\nc^d", "|b\n^d"),
        ("cursor.line-end", "a|b\nc^d", "ab|\ncd^"),
        ("cursor.right", "a|^b", "a b|".replace(" ", "")),  # cursors that meet become one
        ("edit.insert-tab", "|a\n^b", "\t|a\n\t^b"),
    ],
)
def test_several_cursors(action: str, before: str, after: str) -> None:
    assert picture(run(Do(action), state(before))) == after


def test_the_next_match_of_what_is_selected() -> None:
    found = run(Do("cursors.add-next-match"), state("[ab| cab ab"))
    assert found.others == (Cursor(6, 4),)
    assert run(Do("cursors.add-next-match"), found).others == (Cursor(6, 4), Cursor(9, 7))
    assert run(Do("cursors.add-next-match"), state("a|b")).others == ()


def test_typing_goes_in_at_every_cursor() -> None:
    one = editor(("F2", Do("cursors.add-below")), text="ab\ncd\n")
    one.press(parse("F2 x"))
    assert one.state.text == "xab\nxcd\n"


def test_bookmarks_are_gone_to_in_turn() -> None:
    marked = State("a\nb\nc\n", 0)
    for at in (0, 4):
        marked = run(Do("bookmark.toggle"), State(marked.text, at, bookmarks=marked.bookmarks))
    assert marked.bookmarks == (0, 4)
    places = []
    for _ in range(3):
        marked = run(Do("bookmark.next"), marked)
        places.append(marked.cursor)
    assert places == [0, 4, 0]
    assert run(Do("bookmark.previous"), State("a\nb\nc\n", 2, bookmarks=(0, 4))).cursor == 0
    assert run(Do("bookmark.toggle"), State("a\nb\nc\n", 4, bookmarks=(0, 4))).bookmarks == (0,)


def test_a_mark_is_jumped_to_by_its_name() -> None:
    marked = run(Do("bookmark.set", (("slot", "a"),)), State("one two", 4))
    marked = run(Do("bookmark.set", (("slot", "b"),)), State("one two", 7, marks=marked.marks))
    assert run(Do("bookmark.jump", (("slot", "a"),)), marked).cursor == 4
    assert run(Do("bookmark.jump", (("slot", "c"),)), marked).cursor == 7


def test_a_question_takes_what_is_typed_until_it_is_answered() -> None:
    asked = "pane is search"
    keys = (("F2", Do("search.find")), ("Enter", Do("prompt.accept"), asked), ("Escape", Do("prompt.cancel"), asked),
            ("F3", Do("search.next")), ("F4", Do("search.previous")), ("Backspace", Do("edit.delete-left"), asked))  # fmt: skip
    one = editor(*keys, text="tide, ferry, tide\n")
    one.press(parse("F2 t i d d Backspace e"))
    assert one.state.text == "tide, ferry, tide\n"
    assert one.facts["pane"] == "search"
    assert one.state.prompt is not None
    assert one.state.prompt.typed == "tide"
    one.press(parse("Enter"))
    assert (one.facts["pane"], one.state.prompt) == ("text", None)
    assert one.state.selection == (0, 4)
    one.press(parse("F3"))
    assert one.state.selection == (13, 17)
    one.press(parse("F3"))
    assert one.state.selection == (0, 4)  # round the end
    one.press(parse("F4"))
    assert one.state.selection == (13, 17)
    one.press(parse("F2 x Escape"))
    assert (one.facts["pane"], one.state.text) == ("text", "tide, ferry, tide\n")


@pytest.mark.parametrize(("typed", "cursor"), [("2", 3), ("2:2", 4), ("9", 9), ("0", 0), ("x", 5), ("3,1", 6)])
def test_going_to_a_line(typed: str, cursor: int) -> None:
    asked = run(Do("go.line"), State("ab\ncd\nef\n", 5))
    assert asked.prompt is not None
    answered = run(Do("prompt.accept"), State("ab\ncd\nef\n", 5, prompt=type(asked.prompt)("go.line", typed)))
    assert answered.cursor == cursor


_STATES = st.builds(
    lambda text, cursor, others: State(text, min(cursor, len(text)), others=tuple(Cursor(min(one, len(text))) for one in others)),
    st.text("ab \n(", max_size=20), st.integers(0, 20), st.lists(st.integers(0, 20), max_size=3),
)  # fmt: skip


@given(st.sampled_from(WITH_EFFECT), _STATES)
def test_every_effect_keeps_all_cursors_in_the_text(action: str, start: State) -> None:
    result = run(Do(action, tuple(told(action).items())), start)
    for one in (Cursor(result.cursor, result.anchor), *result.others):
        assert 0 <= one.cursor <= len(result.text)
        assert one.anchor is None or 0 <= one.anchor <= len(result.text)
