"""Snippets on the stage, and a past that is a tree."""

from ombix.core.conditions import Space
from ombix.core.keymap.bindings import Keymap
from ombix.core.keymap.deciding import Policy, decide_all
from ombix.core.keys.notation import parse
from ombix.text.stage.machine import Machine, start_state
from ombix.text.stage.macro_player import StageKeymap
from ombix.text.stage.stage_state import State
from ombix.text.stage.text_history import UndoTree
from tests.helpers import layer_of, shipped

PLAIN = ["mode is not plain"]
KEYMAP = """\
format = 1
name = "k"

[bind.snippets]
expand = "F2"
leave = "F5"

[bind.cursor]
next-placeholder = "F3"
previous-placeholder = "F4"

[bind.history]
undo = "F6"
redo = "F7"
earlier = "F8"

[snippet.crossing]
words = ["xing", "ing"]
press = "F9"
body = "crossing(${1:from}, ${2|low,high|}) # ${1}$0"

[snippet.around]
press = "F10"
body = ["if ${1:open}:", "\\t${TM_SELECTED_TEXT:pass}"]

[snippet.upper]
press = "F11"
body = "${1:pier} ${1/(.*)/${1:/upcase}/}$0"

[snippet.python]
words = ["p"]
languages = ["python"]
body = "in $ENCLOSING_FUNCTION"
"""


def editor(text: str, cursor: int, condition: str = "always", anchor: int | None = None) -> Machine:
    keymap = Keymap([layer_of(KEYMAP)])
    space = Space(shipped.facts())
    tables = decide_all(keymap.in_force(shipped.platform("linux")).bindings, space, shipped.catalogue(), Policy())
    stage = StageKeymap(tables, {}, Policy(), space, shipped.catalogue(), keymap.snippets, shipped.languages())
    return Machine(stage, State(text, cursor, anchor), start_state(space, condition, PLAIN))


def shown(machine: Machine) -> str:
    state = machine.state
    start, end = state.selection
    if start == end:
        return f"{state.text[:start]}|{state.text[start:]}"
    return f"{state.text[:start]}[{state.text[start:end]}]{state.text[end:]}"


def test_stops_are_filled_in_one_after_the_other_and_alike() -> None:
    one = editor("  \n", 2)
    one.press(parse("F9"))
    assert shown(one) == "  crossing([from], low) # from\n"
    one.press(parse("s k e r r y"))
    assert shown(one) == "  crossing(skerry|, low) # skerry\n"
    one.press(parse("F3"))
    assert shown(one) == "  crossing(skerry, [low]) # skerry\n"
    one.press(parse("F4"))
    assert shown(one) == "  crossing([skerry], low) # skerry\n"
    one.press(parse("x F3 h F3"))
    assert shown(one) == "  crossing(x, h) # x|\n"
    one.press(parse("! F3 F4"))  # nothing is filled in any more
    assert shown(one) == "  crossing(x, h) # x!|\n"


def test_a_word_is_expanded() -> None:
    one = editor("a xing", 6)
    one.press(parse("F2"))  # the longest word that stands there
    assert shown(one) == "a crossing([from], low) # from"
    other = editor("waxing", 6)  # the end of another word is none
    other.press(parse("F2"))
    assert other.state.text == "waxing"
    one.press(parse("F6"))
    assert shown(one) == "a xing|"


def test_a_snippet_of_a_language_is_expanded_in_that_alone() -> None:
    text = "def open():\n    p"
    one = editor(text, len(text), "language is python")
    one.press(parse("F2"))
    assert one.state.text == "def open():\n    in open"
    one = editor(text, len(text), "language is lua")
    one.press(parse("F2"))
    assert one.state.text == text


def test_what_is_selected_goes_into_it_with_its_indentation() -> None:
    one = editor("  go\n", 4, "selection is one", 2)
    one.press(parse("F10"))
    assert shown(one) == "  if [open]:\n  \tgo\n"
    one = editor("", 0)
    one.press(parse("F10"))
    assert shown(one) == "if [open]:\n\tpass"


def test_a_stop_is_transformed_when_it_is_left() -> None:
    one = editor("", 0)
    one.press(parse("F11 q u a y"))
    assert one.state.text == "quay PIER"
    one.press(parse("F3"))
    assert shown(one) == "quay QUAY|"


def test_a_change_elsewhere_ends_the_filling() -> None:
    one = editor("", 0)
    one.press(parse("F9 F5 x F3"))
    assert shown(one) == "crossing(x|, low) # from"


def test_the_past_is_a_tree() -> None:
    one = editor("", 0)
    one.press(parse("a b F6 c"))
    assert one.state.text == "ac"
    one.press(parse("F6"))
    assert one.state.text == "a"
    one.press(parse("F7"))
    assert one.state.text == "ac"
    one.press(parse("F8"))  # on the other branch, nothing was lost
    assert one.state.text == "ab"
    one.press(parse("F8"))
    assert one.state.text == "a"
    one.press(parse("F7"))  # the branch where it came from last
    assert one.state.text == "ab"
    one.press(parse("F6 F6 F6"))
    assert one.state.text == ""


def test_an_undo_brings_all_back() -> None:
    past = UndoTree()
    before = State("ab", 1, clipboard="x", registers=(("a", "kept"),))
    after = State("b", 0, clipboard="a")
    assert not past and len(past) == 0
    past.changed(before, after)
    assert past and len(past) == 1
    assert past.undo(after) == before
    assert past.redo(before) == after
    assert past.undo(State("b", 1)) == before
    assert past.undo(before) == before  # there is nothing before the start
