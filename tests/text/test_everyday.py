"""Everyday states, and how commands compare in them."""

import pytest

from ombix.core.porting.everyday import EverydayDifference
from ombix.editors.everyday_models import FOLDER, everyday_models, model_in
from ombix.text.effects.buffer import Settings
from ombix.text.effects.compared_states import StartState
from ombix.text.effects.everyday_comparison import everyday_difference, interval, kind_of
from ombix.text.effects.everyday_states import drawn_states, purpose_of
from ombix.text.effects.everyday_words import condition_of
from ombix.text.effects.execution import CommandRun, EditorConventions
from ombix.text.effects.program_comparison import Seen
from ombix.text.effects.program_language import program

KEEPS_SELECTION = EditorConventions(Settings(typing_replaces_selection=False), selects="mark")


def side(text: str, manner: EditorConventions | None = None) -> CommandRun:
    return CommandRun((program(text),), manner or EditorConventions())


def different(one: str, other: str, manner: EditorConventions | None = None) -> EverydayDifference:
    found = everyday_difference(side(one), side(other, manner), everyday_models())
    assert found is not None
    return found


def test_three_models_ship_and_their_probabilities_are_some() -> None:
    assert [model.title for model in everyday_models()] == ["code", "configuration", "prose"]
    for file in FOLDER.glob("*.toml"):
        model = model_in(file)
        assert abs(sum(model.next.values()) - 1) < 1e-9, file
        assert abs(model.kept.nothing + model.kept.lines + model.kept.words - 1) < 1e-9, file
        places = model.cursor
        assert places.line_end + places.first_word + places.line_start < 1, file
        assert set(model.selected) == {"clipboard", "line", "paste", "edit", "move", "select"}
        assert all(text.endswith("\n") and len(text.splitlines()) > 5 for text in model.texts)


def test_states_are_drawn_as_the_model_says_and_the_same_again() -> None:
    model = everyday_models()[0]
    states = drawn_states(model, "clipboard", 4000, 7)
    assert [*states] == [*drawn_states(model, "clipboard", 4000, 7)]
    assert [*states] != [*drawn_states(model, "clipboard", 4000, 8)]
    assert all(0 <= each.start.cursor <= len(each.start.text) for each in states)
    selected = sum(each.start.anchor is not None for each in states) / 4000
    assert abs(selected - model.selected["clipboard"]) < 0.03  # five standard errors
    letters = sum(each.then == "letter" for each in states) / 4000
    assert abs(letters - model.next["letter"]) < 0.04
    nothing = sum(not each.start.kept for each in states) / 4000
    assert abs(nothing - model.kept.nothing) < 0.016


@pytest.mark.parametrize(
    ("text", "purpose"),
    [
        ("if selected { cut selection } else { cut line }", "clipboard"), ("if selected { copy selection }", "clipboard"),
        ("cut line", "line"), ("type kept", "paste"), ("go left", "move"), ("select line", "select"), ("swap-up", "line"),
        ("if selected { delete selection } else { delete to left }", "edit"),
    ],
)  # fmt: skip
def test_what_a_key_is_for_is_seen_in_its_program(text: str, purpose: str) -> None:
    assert purpose_of(side(text)) == purpose


def test_the_interval_is_wilsons() -> None:
    # Ten of a hundred: 0.0552 to 0.1744, as worked out by hand from his formula with z = 1.96.
    low, high = interval(10, 100)
    assert (round(low, 4), round(high, 4)) == (0.0552, 0.1744)
    assert interval(0, 100)[0] == 0 and round(interval(0, 100)[1], 4) == 0.0370


def test_what_is_the_same_has_no_difference() -> None:
    assert everyday_difference(side("go left"), side("go left; stay"), everyday_models()) is None


def test_pasting_over_a_selection_shows_as_often_as_something_is_selected() -> None:
    pastes = "if typing-replaces { type kept } else { insert kept }"
    found = different(pastes, pastes, KEEPS_SELECTION)
    assert found.kind == "another text" and not found.is_careful
    assert found.said == "With text selected, {editor} does not replace what is selected."
    assert 0.1 < found.low < found.share < found.high < 0.2
    assert found.model == "configuration"  # where most is selected for it


def test_what_is_left_selected_is_lost_to_the_next_letter() -> None:
    found = different("stay", "select line")
    assert found.kind == "text lost" and found.is_careful
    assert "the next letter replaces it" in found.said
    assert found.share_of("text lost") == pytest.approx(0.6, abs=0.15)  # as often as a letter or a paste comes next


def test_deleting_more_loses_text_and_deleting_what_was_selected_does_not() -> None:
    assert different("delete to left", "delete line").is_careful
    one, other = "delete line", "if selected { delete selection } else { delete line }"
    found = different(one, other)
    assert found.said == "With text selected, {editor} deletes only what is selected."
    assert found.share_of("text lost") == 0


def test_the_clipboard_and_the_cursor_are_kinds_of_their_own() -> None:
    assert different("stay", "copy line").kind == "clipboard"
    assert different("stay", "copy line").said == "{editor} also copies the text."
    found = different("drop; go line-start", "drop; go line-end")
    assert (found.kind, found.said) == (
        "cursor",
        "Mostly the cursor ends up at the end of the line.",
    )


def test_what_differs_in_blanks_alone_is_called_that() -> None:
    found = different('insert "\\t"', 'insert "    "')
    assert (found.kind, found.said) == ("blanks", "{editor} puts in blanks, not a tab.")
    assert not found.is_careful


def test_what_is_not_sure_is_counted_as_not_known() -> None:
    other = CommandRun((program("go left"),), unsure=("last-line",))
    found = everyday_difference(side("go left"), other, everyday_models())
    assert found is not None
    assert not found.said and 0.02 < found.unknown < 0.15


def test_an_example_is_a_few_lines_with_the_cursor_in_them() -> None:
    example = different("drop; go line-start", "drop; go line-end").example
    assert example is not None
    assert all(sum("|" in line for line in lines) == 1 and len(lines) <= 6 for lines in example)


def test_the_count_holds_for_other_states_too() -> None:
    """What was counted in 500 states of a model is within the interval what is counted in 2,000 others."""
    pairs = [
        ("delete to left", "delete to right"), ("drop; go line-start", "drop; go right"), ("cut line", "delete line"),
        ("type kept", "insert kept"), ("go up", "go line-start"), ("swap-up", "swap-down"), ("indent", "stay"),
    ]  # fmt: skip
    inside = 0
    for one, other in pairs:
        for model in everyday_models():
            found = everyday_difference(side(one), side(other), [model])
            again = everyday_difference(side(one), side(other), [model], 2000, 99)
            assert found is not None and again is not None
            inside += found.low <= again.high and again.low <= found.high
    assert inside == 3 * len(pairs)


def test_kinds_go_from_worst_to_least() -> None:
    start = StartState("ab cd\n", 2, None, "k")
    same = Seen("ab cd\n", 2, None, "k")
    assert kind_of(start, same, same._replace(text="ab c\n")) == "text lost"
    assert kind_of(start, same, same._replace(text="ab c\n", kept="d")) == "another text"
    assert kind_of(start, same, same._replace(text="abcd\n")) == "blanks"
    assert kind_of(start, same, same._replace(kept="x", cursor=0)) == "clipboard"
    assert kind_of(start, same, same._replace(cursor=0)) == "cursor"
    assert kind_of(start, same, same._replace(selected=(0, 2))) == "selection"


def test_a_condition_is_named_where_it_says_what_is_meant() -> None:
    plain = [StartState("one two\nthree\n", at, None, "k") for at in range(1, 7)]
    ends = [StartState("one two\nthree\nfour\n", at, None, "k") for at in (7, 13)]
    assert condition_of(ends, plain) == "at the end of a line"
    assert condition_of(plain, []) == ""
    some = [start for number, start in enumerate(plain) if number % 2]
    assert condition_of(some, [start for start in plain if start not in some]) in (
        "sometimes",
        "inside a word or before a blank",
    )
