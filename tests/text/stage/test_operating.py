"""Operators on the stage: over movements, objects and lines, with counts, registers and cursors; and the last change again.

What is expected is worked out by hand from IEEE Std 1003.1, vi; | is the cursor, ^ a further one.
"""

import pytest

from ombix.core.keymap.bindings import Keymap
from ombix.core.keymap.deciding import Policy, decide_all
from ombix.core.keymap.outcomes import Do
from ombix.core.keys.notation import parse
from ombix.text.effects.operators import KINDS, OPERATORS
from ombix.text.stage.machine import Machine, start_state
from ombix.text.stage.macro_player import StageKeymap
from ombix.text.stage.stage_state import State
from tests.helpers import layer_of, shipped
from tests.text.stage.test_machine import CATALOGUE, SPACE
from tests.text.stage.test_remembering import picture, state


def counted(action: str, count: int = 1, **told: str) -> Do:
    pairs = {**told, **({"count": str(count)} if count > 1 else {})}
    return Do(action, tuple(sorted(pairs.items())))


def machine(start: State, mode: str = "plain", readonly: str = "no") -> Machine:
    facts = start_state(SPACE, f"mode is {mode} and readonly is {readonly}", [])
    return Machine(StageKeymap({}, {}, Policy(), SPACE, CATALOGUE), start, facts)


def done(start: State, *actions: Do, mode: str = "plain") -> Machine:
    one = machine(start, mode)
    for action in actions:
        one.perform(action)
    return one


D, Y, C, IN, U = (f"edit.operator-{name}" for name in ("delete", "copy", "change", "indent", "case"))


@pytest.mark.parametrize(
    ("before", "operator", "count", "movement", "times", "after", "kept"),
    [
        ("|one two three", D, 1, "cursor.next-word", 1, "|two three", "one "),
        ("|one two three", D, 2, "cursor.next-word", 1, "|three", "one two "),
        ("|one two three four", D, 2, "cursor.next-word", 2, "|", "one two three four"),
        ("one |two", D, 1, "cursor.line-start", 1, "|two", "one "),
        ("|one two", D, 1, "cursor.word-end", 1, "| two", "one"),
        ("f|(a, b)c", D, 1, "cursor.matching-bracket", 1, "f|c", "(a, b)"),
        ("a\n|b\nc\nd\n", D, 1, "cursor.down", 1, "a\n|d\n", "b\nc\n"),
        ("a\nb\n|c\nd\n", D, 2, "cursor.up", 1, "|d\n", "a\nb\nc\n"),
        ("a\n|b\nc\n", D, 1, D, 1, "a\n|c\n", "b\n"),
        ("a\n|b\nc\nd\n", D, 2, D, 1, "a\n|d\n", "b\nc\n"),
        ("|one two", Y, 1, "cursor.next-word", 1, "|one two", "one "),
        ("a\n|b\nc\n", Y, 1, Y, 1, "a\n|b\nc\n", "b\n"),
        ("|one two", U, 1, "cursor.word-end", 1, "|ONE two", ""),
        ("f(a|, b)", D, 1, "select.inside-brackets", 1, "f(|)", "a, b"),
        ("f(a|, b)", C, 1, "select.around-brackets", 1, "f|", "(a, b)"),
        ("a\n|b\nc\n", C, 1, C, 1, "a\n|\nc\n", "b\n"),
        ("a one| b\n", IN, 1, "cursor.line-end", 1, "\ta one| b\n", "a one b\n"),
    ],
)  # fmt: skip
def test_an_operator_over_a_movement(
    before: str, operator: str, count: int, movement: str, times: int, after: str, kept: str
) -> None:
    one = done(state(before), counted(operator, count), counted(movement, times))
    assert picture(one.state) == after
    assert one.state.clipboard == kept


def test_an_operator_at_each_cursor() -> None:
    one = done(state("|one two\n^six ten\n"), Do(D), Do("cursor.next-word"))
    assert picture(one.state) == "|two\n^ten\n"


@pytest.mark.parametrize("then", ["edit.paste", "go.line", "bookmark.toggle", "files.save", "cursor.left"])
def test_what_is_no_movement_or_leads_nowhere_ends_the_waiting(then: str) -> None:
    one = machine(state("|one two"))
    assert one.perform(Do(D))
    assert not one.perform(Do(then))
    assert picture(one.state) == "|one two"
    assert one.state.prompt is None
    one.perform(Do("cursor.next-word"))
    assert picture(one.state) == "one |two"


def test_another_operator_takes_the_place_of_the_one_that_waits() -> None:
    assert picture(done(state("|one two"), Do(D), Do(U), Do("cursor.word-end")).state) == "|ONE two"


def test_a_register_takes_what_an_operator_deletes_and_the_clipboard_stays() -> None:
    use = counted("edit.use-register", slot="a")
    one = done(state("|one two"), Do("edit.copy-line"), use, Do(D), Do("cursor.next-word"))
    assert one.state.registers == (("a", "one "),)
    assert one.state.clipboard == "one two"
    for action in (Do("cursor.line-end"), use, Do("edit.paste")):
        one.perform(action)
    assert one.state.text == "twoone "
    one.perform(Do("edit.paste"))  # a register is used once
    assert one.state.text != "twoone one "


def test_a_text_that_cannot_be_changed_stays() -> None:
    one = machine(state("|one two"), readonly="yes")
    one.perform(Do(D))
    assert not one.perform(Do("cursor.next-word"))
    assert one.state.text == "one two"


def test_typing_follows_a_change_and_both_are_done_again() -> None:
    one = machine(state("|one two\nsix ten\n"), "normal")
    one.perform(Do(C))
    one.perform(Do("cursor.word-end"))
    assert one.facts["mode"] == "insert"
    one.press(parse("x y"))
    assert picture(one.state) == "xy| two\nsix ten\n"
    one.perform(Do("mode.normal"))
    one.perform(Do("cursor.down"))
    one.perform(Do("cursor.line-start"))
    assert one.perform(Do("edit.repeat"))
    assert picture(one.state) == "xy two\nxy| ten\n"
    assert one.facts["mode"] == "normal"
    one.perform(Do("history.undo"))
    one.perform(Do("history.undo"))
    assert one.state.text == "xy two\nsix ten\n"


def test_the_last_change_is_done_again() -> None:
    one = machine(state("|abcdef"))
    assert not one.perform(Do("edit.repeat"))  # there was none
    one.perform(Do("edit.delete-right"))
    one.perform(Do("cursor.right"))
    one.perform(counted("edit.repeat", 2))
    assert picture(one.state) == "b|ef"
    one.press(parse("x y"))
    one.perform(Do("cursor.line-end"))
    one.perform(Do("edit.repeat"))
    assert picture(one.state) == "bxyefxy|"


def test_every_kind_and_operator_of_the_catalogue_is_known() -> None:
    actions = CATALOGUE.actions.values()
    assert {one.operator for one in actions} - {""} <= set(OPERATORS)
    assert {one.over for one in actions} - {""} <= set(KINDS)
    assert sum(bool(one.operator) for one in actions) == 6
    assert shipped.catalogue().actions["cursor.down"].moves_over == "lines"


def test_a_count_is_pressed_before_a_command() -> None:
    keymap = """\
format = 1
name = "k"
[bind.edit]
operator-delete = { press = "d", where = "mode is normal" }
delete-right = { press = "x", where = "mode is normal" }
[bind.cursor]
next-word = { press = "w", where = "mode is normal" }
line-start = { press = "0", where = "mode is normal" }
[bind.history]
undo = { press = "u", where = "mode is normal" }
"""
    rows = Keymap([layer_of(keymap)]).in_force(shipped.platform("linux")).bindings
    tables = decide_all(rows, SPACE, CATALOGUE, Policy())
    facts = start_state(SPACE, "mode is normal", [])
    one = Machine(StageKeymap(tables, {}, Policy(), SPACE, CATALOGUE), state("|abcdefghijklmn op qr st"), facts)
    one.press(parse("1 0 x"))
    assert picture(one.state) == "|klmn op qr st"
    one.press(parse("u"))  # one change
    assert picture(one.state) == "|abcdefghijklmn op qr st"
    one.press(parse("2 d 2 w"))
    assert picture(one.state) == "|"
    one.press(parse("u w 0"))  # 0 by itself is a command
    assert one.state.cursor == 0
    typed = machine(state("|a"))
    typed.press(parse("3 x"))
    assert picture(typed.state) == "3x|a"
