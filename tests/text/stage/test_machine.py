"""The stage: what keys do one by one, by hand for each policy, and what actions do to the state."""

import pytest

from ombix.core.conditions import Space
from ombix.core.errors import Place
from ombix.core.keymap.bindings import Binding, LayerName
from ombix.core.keymap.deciding import Policy, decide_all
from ombix.core.keymap.outcomes import Do, Macro, Nothing, Only, Outcome, Play, Press, Step, Type
from ombix.core.keys.notation import parse, write
from ombix.text.stage.machine import Machine, start_state
from ombix.text.stage.macro_player import StageKeymap
from ombix.text.stage.stage_state import State
from tests.helpers import shipped

CATALOGUE = shipped.catalogue()
SPACE = Space(shipped.facts())
PLACE, K = Place("k"), LayerName("k", "k")
WAITS, TIMED, FIRES = Policy(), Policy(prefix="timed", wait_ms=600), Policy(prefix="fires")
PLAIN = ["mode is not plain"]


def editor(
    *rows: tuple[str, Outcome] | tuple[str, Outcome, str], text: str = "alpha beta\ngamma\n", policy: Policy = WAITS,
    where: str = "always", never: list[str] | None = None, macros: dict[str, tuple[Step, ...]] | None = None,
) -> Machine:  # fmt: skip
    bindings = [Binding(parse(row[0]), row[1], PLACE, K, row[2] if len(row) > 2 else "always") for row in rows]
    tables = decide_all(bindings, SPACE, CATALOGUE, policy)
    known = {name: Macro(name, name, steps, PLACE) for name, steps in (macros or {}).items()}
    facts = start_state(SPACE, where, PLAIN if never is None else never)
    return Machine(StageKeymap(tables, known, policy, SPACE, CATALOGUE), State(text, 0), facts)


def seen(one: Machine) -> list[tuple[str, str, str]]:
    return [(each.kind, write(each.keys), str(each.outcome or each.text)) for each in one.happened]


def test_a_bound_key_runs_and_another_one_types() -> None:
    one = editor(("Ctrl+E", Do("cursor.line-end")))
    one.press(parse("Ctrl+E x Shift+Y Space F5"))
    assert one.state == State("alpha betaxY \ngamma\n", 13)
    assert [each[0] for each in seen(one)] == ["runs", "types", "types", "types", "nothing"]


SEQUENCES = (("Ctrl+K", Do("line.delete")), ("Ctrl+K t", Do("line.copy-down")))


def test_a_beginning_waits_for_the_rest() -> None:
    one = editor(*SEQUENCES)
    one.press(parse("Ctrl+K"))
    assert seen(one) == [("waits", "Ctrl+K", "")]
    assert write(one.waits_for_more) == "Ctrl+K"
    one.pause(10_000)  # this policy knows no time
    one.press(parse("t"))
    assert seen(one)[-1] == ("runs", "Ctrl+K t", "line.copy-down")
    assert one.state.text == "alpha beta\nalpha beta\ngamma\n"


def test_a_key_that_does_not_go_on_lets_the_shorter_one_run_and_starts_anew() -> None:
    one = editor(*SEQUENCES)
    one.press(parse("Ctrl+K x"))
    assert seen(one)[1:] == [("runs", "Ctrl+K", "line.delete"), ("types", "x", "x")]
    assert one.state.text == "xgamma\n"


def test_a_sequence_that_nothing_ends_is_dropped_with_the_key_that_broke_it() -> None:
    one = editor(("Ctrl+K t", Do("line.copy-down")))
    one.press(parse("Ctrl+K x y"))
    assert seen(one)[1:] == [("nothing", "Ctrl+K x", ""), ("types", "y", "y")]


def test_time_ends_the_waiting() -> None:
    one = editor(*SEQUENCES, policy=TIMED)
    one.press(parse("Ctrl+K"))
    one.pause(599)
    assert write(one.waits_for_more) == "Ctrl+K"
    one.pause(600)
    assert seen(one)[-1] == ("runs", "Ctrl+K", "line.delete")
    one.press(parse("Ctrl+K t"))
    assert seen(one)[-1][2] == "line.copy-down"
    lonely = editor(("Ctrl+K t", Do("line.copy-down")), policy=TIMED)
    lonely.press(parse("Ctrl+K"))
    lonely.pause(600)
    assert seen(lonely)[-1] == ("nothing", "Ctrl+K", "")


def test_what_fires_at_once_hides_the_longer_one() -> None:
    one = editor(*SEQUENCES, policy=FIRES)
    one.press(parse("Ctrl+K t"))
    assert seen(one) == [("runs", "Ctrl+K", "line.delete"), ("types", "t", "t")]


def test_letters_that_could_begin_a_sequence_are_typed_when_it_does_not_come() -> None:
    one = editor(("j k", Do("mode.normal")), where="mode is insert", never=[], policy=TIMED)
    one.press(parse("j x"))
    assert seen(one)[-1] == ("types", "j x", "jx")
    one.press(parse("j k"))
    assert one.facts["mode"] == "normal"
    one.press(parse("x"))
    assert one.happened[-1].why == "not into the text: the pane is text, the mode is normal"


def test_keys_taken_away_neither_wait_nor_type() -> None:
    one = editor(("Ctrl+K", Do("line.delete")), ("Ctrl+K t", Nothing()), ("x", Nothing()))
    one.press(parse("Ctrl+K x"))
    assert seen(one) == [("runs", "Ctrl+K", "line.delete"), ("nothing", "x", "nothing")]


def test_one_key_does_opposite_things_by_state() -> None:
    one = editor(
        ("F8", Do("program.start"), "program is stopped"), ("F8", Do("program.stop"), "program is running"),
        ("F9", Do("program.pause"), "program is running"),
    )  # fmt: skip
    states = []
    for key in ("F8", "F9", "F9", "F8"):
        one.press(parse(key))
        states.append(one.facts["program"])
    assert states == ["running", "paused", "paused", "paused"]
    assert [each[2] for each in seen(one)] == ["program.start", "program.pause", "", ""]


@pytest.mark.parametrize(
    ("where", "action", "fact", "value"),
    [
        ("pane is text", "files.browse", "pane", "files"),
        ("pane is files", "panes.text", "pane", "text"),
        ("pane is search", "prompt.cancel", "pane", "text"),
        ("popup is suggestions", "edit.accept-suggestion", "popup", "none"),
        ("pane is text", "edit.suggest", "popup", "suggestions"),
        ("mode is normal", "mode.select", "mode", "select"),
        ("pane is text", "select.line", "selection", "one"),
        ("pane is text", "macro.record", "recording", "yes"),
        ("program is stopped", "program.start", "program", "running"),
    ],
)
def test_actions_lead_from_state_to_state(where: str, action: str, fact: str, value: str) -> None:
    one = editor(("F5", Do(action)), where=where, never=[])
    before = dict(one.facts)
    one.press(parse("F5"))
    assert one.facts[fact] == value
    assert {name for name in before if before[name] != one.facts[name]} == {fact}


def test_what_cannot_be_changed_is_not_changed_but_the_cursor_moves() -> None:
    one = editor(("F5", Do("line.delete")), ("F6", Do("cursor.line-end")), where="readonly")
    one.press(parse("F5 x F6"))
    assert one.state == State("alpha beta\ngamma\n", 10)
    assert one.happened[1].why == "the text cannot be changed"


def test_undo_and_redo_go_step_by_step() -> None:
    one = editor(("F1", Do("history.undo")), ("F2", Do("history.redo")), ("F3", Do("line.delete")))
    one.press(parse("a F3"))
    assert one.state.text == "gamma\n"
    one.press(parse("F1 F1 F1"))
    assert one.state.text == "alpha beta\ngamma\n"
    one.press(parse("F2"))
    assert one.state.text == "aalpha beta\ngamma\n"
    one.press(parse("b F2"))  # a change ends what can be done again
    assert one.state.text == "abalpha beta\ngamma\n"


def test_a_recorded_macro_is_played() -> None:
    one = editor(("F9", Do("macro.record")), ("F10", Do("macro.play")), ("F3", Do("cursor.line-end")))
    one.press(parse("F9 F3 ! F9"))
    assert one.facts["recording"] == "no"
    one.press(parse("F10"))
    assert one.state.text == "alpha beta!!\ngamma\n"


def test_the_steps_of_a_macro() -> None:
    steps: tuple[Step, ...] = (
        Do("cursor.line-start"), Type("crossing("), Do("cursor.line-end"), Type(")"), Press(parse("F3")), Play("again"),
    )  # fmt: skip
    macros: dict[str, tuple[Step, ...]] = {"wrap": steps, "again": (Type("?"), Only("micro", "x"))}
    one = editor(("F5", Play("wrap")), ("F3", Do("cursor.down")), macros=macros)
    one.press(parse("F5"))
    assert one.state.text == "crossing(alpha beta)\ngamma?\n"
    assert one.happened[-1].why == "a command of micro, which the stage does not run"


def test_macros_that_go_round_in_a_circle_end() -> None:
    circle: dict[str, tuple[Step, ...]] = {"a": (Play("b"), Play("b")), "b": (Type("x"), Play("a"), Play("a"))}
    one = editor(("F5", Play("a")), ("F6", Play("keys")), ("F7", Play("nowhere")),
                 macros={**circle, "keys": (Press(parse("F6")),)})  # fmt: skip
    one.press(parse("F5"))
    assert [each.why for each in one.happened] == ["nothing was done: a plays b plays a, a circle"]
    assert one.state.text == "alpha beta\ngamma\n"
    one.press(parse("F6"))
    assert one.happened[-1].why == "it goes round in a circle"
    one.press(parse("F7"))
    assert one.happened[-1].why == "there is no such macro"


def test_the_start_is_the_plainest_state_of_a_condition() -> None:
    state = start_state(SPACE, "selection is not none and language is python", PLAIN)
    assert {name: state[name] for name in ("pane", "mode", "selection", "language", "popup", "program")} == {
        "pane": "text", "mode": "plain", "selection": "one", "language": "python", "popup": "none", "program": "stopped",
    }  # fmt: skip
    with pytest.raises(ValueError, match="mode is insert"):
        start_state(SPACE, "mode is insert", PLAIN)


def test_one_key_shows_a_pane_and_puts_it_away() -> None:
    shown = ("F9", Do("tools.show-files"), "not files-shown")
    hidden = ("F9", Do("tools.hide-files"), "files-shown")
    one = editor(shown, hidden)
    states = []
    for _ in range(3):
        one.press(parse("F9"))
        states.append((one.facts["pane"], one.facts["files-shown"]))
    assert states == [("files", "yes"), ("text", "no"), ("files", "yes")]


def test_what_switches_changes_its_fact_and_what_is_hidden_keeps_the_keys_where_they_are() -> None:
    one = editor(("F11", Do("view.full-screen")), ("F8", Do("tools.hide-terminal")), where="pane is outline")
    one.press(parse("F11"))
    assert one.facts["full-screen"] == "yes"
    one.press(parse("F11 F8"))
    assert (one.facts["full-screen"], one.facts["pane"]) == ("no", "outline")


def test_cursors_are_a_fact() -> None:
    one = editor(("F4", Do("cursors.add-below")), ("F5", Do("cursors.remove-all")))
    one.press(parse("F4"))
    assert one.facts["cursors"] == "many"
    one.press(parse("F5"))
    assert one.facts["cursors"] == "one"


def test_an_action_that_is_told_a_character_does_it() -> None:
    one = editor(("F6", Do("cursor.to-character", (("character", "b"),))), ("F7", Do("cursor.to-character")))
    one.press(parse("F6"))
    assert one.state.cursor == 6
    one.press(parse("F7"))  # asks, which is not done here
    assert (one.state.cursor, one.happened[-1].why.endswith("it shows nothing here")) == (6, True)
