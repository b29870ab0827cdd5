"""When two programs are equal, and in which states they are not, said in words that a check by hand bears out."""

import pytest

from ombix.text.effects.buffer import Settings
from ombix.text.effects.execution import CommandRun, EditorConventions
from ombix.text.effects.program_comparison import compare
from ombix.text.effects.program_language import program


def side(*texts: str, manner: EditorConventions = EditorConventions(), unsure: str = "") -> CommandRun:  # noqa: B008 (it is frozen)
    return CommandRun(tuple(map(program, texts)), manner, (unsure,) * len(texts) if unsure else ())


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ("go left", "go left"),
        ("go line-start", "if at-line-start { go here } else { go line-start }"),
        ("delete line", "if empty-line { delete line } else { delete line }"),
        ("cut line", "copy line; delete line"),
        ("if selected { drop } else { drop }", "drop"),
    ],
)
def test_equal_programs(one: str, other: str) -> None:
    assert compare(side(one), side(other)).is_equal


def test_two_steps_are_as_good_as_one() -> None:
    assert compare(side("go line-start", "go left"), side("go line-start; go left")).is_equal


@pytest.mark.parametrize(
    ("one", "other", "when", "what"),
    [
        ("delete line", "if selected { delete selection } else { delete line }", "something is selected", "the text"),
        ("go up stay", "go up edge", "first line", "the cursor"),
        ("cut line", "delete line", "", "something else is kept"),
        ("go line-start", "drop", "not at the start of a line", "the cursor"),
        ("if not kept { stop }; type kept", "type kept", "nothing was kept", "the text"),
    ],
)
def test_where_programs_differ_is_said(one: str, other: str, when: str, what: str) -> None:
    found = compare(side(one), side(other))
    assert not found.is_equal
    assert when in found.when
    assert what in found.what
    assert " becomes " in found.sentence
    assert ", not " in found.sentence


def test_the_example_is_small_and_true() -> None:
    found = compare(side("go up stay"), side("go up edge"))
    assert found.start is not None
    assert found.one is not None
    assert found.other is not None
    assert len(found.start.text) <= 2
    assert found.one.cursor == found.start.cursor
    assert found.other.cursor == 0


def test_text_that_is_thrown_away_is_noticed() -> None:
    assert compare(side("cut line"), side("delete line")).loses
    assert compare(side("go right"), side("delete to right")).loses
    assert not compare(side("delete line"), side("cut line")).loses
    assert not compare(side("go left"), side("go right")).loses


def test_settings_are_a_part_of_what_is_compared() -> None:
    tabs, spaces = EditorConventions(Settings(indentation="\t")), EditorConventions(Settings(indentation="  "))
    assert compare(side("type indentation", manner=tabs), side("type indentation", manner=tabs)).is_equal
    assert not compare(side("type indentation", manner=tabs), side("type indentation", manner=spaces)).is_equal


def test_what_is_not_sure_is_never_equal() -> None:
    found = compare(side("go left"), side("go left", unsure="always"))
    assert not found.is_equal
    assert "known" in found.sentence
    found = compare(side("go left"), side("go left", unsure="selected"))
    assert not found.is_equal
    assert "something is selected" in found.sentence


def test_a_cursor_on_the_last_character_is_not_one_behind_it() -> None:
    """States in which an editor cannot be are left out; what its cursor comes to is compared as it is."""
    on_characters = EditorConventions(ends_lines=True, on_characters=True, selects="")
    settled = side("go line-end; settle", manner=on_characters)
    assert not compare(side("go line-end"), settled).is_equal
    assert compare(side("go line-end; settle"), settled).is_equal
    assert compare(side("go line-start"), side("go line-start", manner=on_characters)).is_equal


def test_what_typing_does_with_a_selection_is_a_part_of_it() -> None:
    """A selection that is typed over in one editor, and typed beside in another, is not the same."""
    replaces, leaves = EditorConventions(), EditorConventions(Settings(typing_replaces_selection=False))
    found = compare(side("extend right", manner=replaces), side("extend right", manner=leaves))
    assert not found.is_equal
    assert "what is typed next" in found.what
    assert "typing leaves it" in found.sentence
    assert compare(side("go right; drop", manner=replaces), side("go right; drop", manner=leaves)).is_equal
