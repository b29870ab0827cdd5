"""Registers, texts that were kept before, rectangles, and keys that are recorded: worked out by hand."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ombix.core.conditions import Space
from ombix.core.keymap.bindings import Keymap
from ombix.core.keymap.deciding import Policy, decide_all
from ombix.core.keymap.outcomes import Do
from ombix.core.keys.notation import parse
from ombix.text.stage.action_effects import run
from ombix.text.stage.machine import Machine, start_state
from ombix.text.stage.macro_player import StageKeymap
from ombix.text.stage.stage_state import Cursor, State
from tests.helpers import layer_of, shipped
from tests.text.stage.test_remembering import picture, state

KEYS = """\
format = 1
name = "k"
[bind.macro]
record = "F2"
stop = "F3 F3"
play = "F4"
register = { press = "F5", with = { slot = "r" } }
play-register = { press = "F6", with = { slot = "r" } }
times = { press = "F7", with = { number = "3" } }
each-line = "F8"
to-end = "F9"
again = "F10"
[bind.cursor]
right = "ArrowRight"
down = "ArrowDown"
line-end = "End"
line-start = "Home"
[bind.edit]
delete-right = "Delete"
cut-line = "Alt+X"
paste = "Alt+P"
[bind.keys]
again = "F12"
[bind.prompt]
accept = { press = "Enter", where = "pane is question" }
"""
SPACE = Space(shipped.facts())
TABLES = decide_all(
    Keymap([layer_of(KEYS)]).in_force(shipped.platform("linux")).bindings, SPACE, shipped.catalogue(), Policy()
)


def editor(text: str, cursor: int = 0, anchor: int | None = None) -> Machine:
    keymap = StageKeymap(TABLES, {}, Policy(), SPACE, shipped.catalogue())
    return Machine(keymap, State(text, cursor, anchor), start_state(SPACE, "mode is plain", []))


def act(state: State, *actions: Do | str) -> State:
    for one in actions:
        state = run(one if isinstance(one, Do) else Do(one), state, shipped.catalogue())
    return state


def slot(action: str, name: str) -> Do:
    return Do(action, (("slot", name),))


# --- registers, and what was kept


def test_registers_hold_texts_by_name() -> None:
    first = act(state("[one| two"), slot("edit.copy-to-register", "a"))
    assert (first.registers, first.clipboard) == ((("a", "one"),), "")
    second = act(State("one two", 7, 4, registers=first.registers), slot("edit.cut-to-register", "b"))
    assert (second.text, second.registers) == ("one ", (("a", "one"), ("b", "two")))
    pasted = act(second, slot("edit.paste-register", "a"), slot("edit.paste-register", "none"))
    assert picture(pasted) == "one one|"


def test_a_register_of_several_cursors_has_a_line_for_each() -> None:
    start = State("ab cd", 2, 0, others=(Cursor(5, 3),))
    cut = act(start, slot("edit.cut-to-register", "a"))
    assert cut.registers == (("a", "ab\ncd"),)
    assert (cut.text, cut.cursor, cut.others) == (" ", 0, (Cursor(1),))


def test_what_was_kept_before_is_put_in_by_its_number() -> None:
    one = editor("a\nb\nc\n")
    one.press(parse("Alt+X Alt+X"))
    assert one.state.kept == ("b\n", "a\n")
    one.perform(Do("edit.paste-earlier"))
    assert one.facts["pane"] == "question"
    one.press(parse("2 Enter"))
    assert one.state.text == "a\nc\n"
    assert one.facts["pane"] == "text"


@pytest.mark.parametrize("typed", ["0", "9", "x", ""])
def test_a_number_that_there_is_not_puts_nothing_in(typed: str) -> None:
    one = editor("a\nb\n")
    one.press(parse("Alt+X"))
    one.perform(Do("edit.paste-earlier"))
    one.press(parse(f"{typed} Enter"))
    assert one.state.text == "b\n"


def test_the_copy_before_takes_the_place_of_what_was_pasted() -> None:
    one = editor("a\nb\nc\n")
    one.press(parse("Alt+X Alt+X Alt+P"))
    assert one.state.text == "b\nc\n"
    assert one.perform(Do("edit.paste-previous"))
    assert one.state.text == "a\nc\n"
    assert not one.perform(Do("edit.paste-previous"))  # there are no more
    one.press(parse("ArrowRight"))
    assert not one.perform(Do("edit.paste-previous"))  # something else was done
    assert one.state.text == "a\nc\n"


def test_lines_are_pasted_below_each_other() -> None:
    start = State("abc\nd\nefg", 1, clipboard="X\nYY\nZ\n")
    assert act(start, "edit.paste-column").text == "aXbc\ndYY\neZfg"
    assert act(State("ab", 2, clipboard="X\nY"), "edit.paste-column").text == "abX\n  Y"


# --- cursors and rectangles


@pytest.mark.parametrize(
    ("actions", "before", "after"),
    [
        ("cursors.add-previous-match", "ab ab [ab|", "ab ab^ [ab|"),
        ("cursors.add-all-matches", "ab [ab| ab", "ab^ [ab| ab^"),
        ("cursors.add-all-matches", "aaa[aa|a", "aa^a[aa|a"),
        ("cursors.at-line-starts", "a[b\ncd\n|e", "|ab\n^cd\ne"),
        ("cursors.at-line-ends", "a[b\ncd\ne|f", "ab|\ncd^\nef^"),
        ("cursors.next", "a|b^c^d", "a^b|c^d"),
        ("cursors.previous", "a|b^c^d", "a^b^c|d"),
        ("cursors.number", "|a\n^b\n^c", "1|a\n2^b\n3^c"),
        ("cursors.align", "a|b\ncde^f\n^g", "a  |b\ncde^f\n   ^g"),
        ("cursors.align", "a|b^c", "a|b^c"),
        ("select.column-down select.column-right", "a|bc\ndef", "ab^c\nd[e|f"),
        ("select.column-down select.column-down", "a|bc\nd", "ab^c\nd|".replace("ab^c", "a^bc")),
        ("select.column-right select.column-right select.column-right", "a|b\n", "a[b|\n"),
        ("select.column-left select.column-up", "a|b\n", "[a|b\n".replace("[a|", "|[a")),
    ],
)  # fmt: skip
def test_cursors(actions: str, before: str, after: str) -> None:
    found = act(state(before), *actions.split())
    if after.startswith("|["):
        assert (found.cursor, found.anchor) == (0, 1)
    else:
        assert picture(found) == after


def test_what_cursors_have_selected_goes_round() -> None:
    start = State("a bb ccc", 1, 0, others=(Cursor(4, 2), Cursor(8, 5)))
    turned = act(start, "cursors.rotate")
    assert turned.text == "ccc a bb"
    assert act(turned, "cursors.rotate", "cursors.rotate").text == start.text


def test_a_selection_becomes_a_rectangle_and_back() -> None:
    start = State("abcd\nefgh\nijkl", 13, 1)
    column = act(start, "select.column")
    assert [(one.anchor, one.cursor) for one in (Cursor(column.cursor, column.anchor), *column.others)] == [
        (11, 13), (6, 8), (1, 3),
    ]  # fmt: skip
    back = act(column, "select.column")
    assert (back.anchor, back.cursor, back.others) == (1, 13, ())
    typed = act(column, "edit.delete-left")
    assert typed.text == "ad\neh\nil"


def test_one_match_is_left_out() -> None:
    found = act(state("[ab| ab ab"), "cursors.add-next-match", "cursors.skip-match")
    assert found.others == (Cursor(8, 6),)


# --- keys that are recorded


@given(
    st.lists(st.sampled_from(["a", "b", "ArrowRight", "End", "Home", "ArrowDown", "Delete"]), min_size=1, max_size=6)
)
@settings(deadline=None)
def test_recorded_and_played_is_done_twice(keys: list[str]) -> None:
    pressed = parse(" ".join(keys))
    recorded, plain = editor("one\ntwo\nsix\n"), editor("one\ntwo\nsix\n")
    recorded.press((*parse("F2"), *pressed, *parse("F3 F3 F4")))
    plain.press((*pressed, *pressed))
    assert (recorded.state.text, recorded.state.cursor) == (plain.state.text, plain.state.cursor)


def test_keys_of_a_register_and_the_last_ones() -> None:
    one = editor("abcdef")
    one.press(parse("F5 x F3 F3 F2 y F3 F3 F4 F6"))
    assert one.state.text == "xyyxabcdef"
    one.press(parse("F10"))  # the register was the last
    assert one.state.text == "xyyxxabcdef"
    one.press(parse("F12"))
    assert one.state.text == "xyyxxxabcdef"


def test_keys_are_played_so_many_times_in_each_line_and_to_the_end() -> None:
    one = editor("a\nb\nc\nd\ne")
    one.press(parse("F2 ! ArrowDown Home F2 F7"))
    assert one.state.text == "!a\n!b\n!c\n!d\ne"
    lines = editor("a\nb\nc\nd")
    lines.press(parse("F2 ! F2"))
    lines.state = State(lines.state.text, 6, 3)
    lines.press(parse("F8"))
    assert lines.state.text == "!a\n!b\n!c\nd"
    end = editor("a\nb\nc")
    end.press(parse("F2 ! End ArrowDown Home F2 F9"))
    assert end.state.text == "!a\n!b\n!c"


def test_nothing_recorded_is_played_as_nothing() -> None:
    one = editor("a")
    one.press(parse("F4 F6 F7 F8 F9 F10"))
    assert one.state.text == "a"
    one.press(parse("F2 x F4 F3 F3"))  # what is being recorded does not play itself
    assert one.state.text == "xa"
