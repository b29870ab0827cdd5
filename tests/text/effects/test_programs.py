"""Programs of effects, each by hand: | is the cursor, [ and ] the other end of what is selected."""

import random

import pytest

from ombix.core.catalogue.actions import Action
from ombix.core.errors import InputError
from ombix.editors.command_effects import manner_of
from ombix.text.effects.buffer import Buffer, Settings
from ombix.text.effects.compared_states import picture
from ombix.text.effects.program_language import EffectProgram, program
from tests.helpers import SECTIONS, dialect, shipped, told
from tests.pictures import read


def page(text: str, kept: str = "") -> Buffer:
    return Buffer(*read(text), kept)


def shown(buffer: Buffer) -> str:
    return picture(buffer.text, buffer.cursor, buffer.anchor).replace("⏎", "\n").replace("→", "\t")


@pytest.mark.parametrize(
    ("text", "before", "after"),
    [
        ("go left", "a\n|b", "a|\nb"),
        ("go left line", "a\n|b", "a\n|b"),
        ("go up stay", "a|b\nc", "a|b\nc"),
        ("go down edge", "a\nb|c", "a\nbc|"),
        ("go next-start letters", "|a_b c", "a_|b c"),
        ("go next-start names", "|a_b c", "a_b |c"),
        ("go next-start runs", "|a.b", "a|.b"),
        ("go previous-start runs", "a.. |b", "a|.. b"),
        ("go next-end names", "|  a_b c", "  a_b| c"),
        ("go run-left", "a..|b", "a.|.b"),
        ("go run-right", "a|\n\n b", "a\n\n |b"),
        ("go matching-beside", "(a)|", "|(a)"),
        ("go matching-ahead", "a| (b) c", "a (b|) c"),
        ("extend right; extend right", "|abc", "[ab|c"),
        ("mark; go right", "a|bc", "a[b|c"),
        ("if selected { delete selection } else { delete to left }", "a[b|c", "a|c"),
        ("if selected { delete selection } else { delete to left }", "ab|c", "a|c"),
        ("if not selected and first-line { go end } else if selected { drop } else { go start }", "a\n|b", "|a\nb"),
        ("cut line; type kept; type kept", "a|b\nc", "ab\nab\n|c"),
        ("cut line; adds-up yes; cut line more; type kept", "|a\nb\nc", "a\nb\n|c"),
        ("stop; go end", "|ab", "|ab"),
        ('type "x\\ty"', "a[b|c", "ax\ty|c"),
        ('insert "x"', "a|b", "ax|b"),
        ("swap-down", "|a\nb\nc", "b\n|a\nc"),
        ("swap-up breaks", "a\nb|", "b|\na\n"),
        ("duplicate line-text", "a|b\nc", "ab\nab|\nc"),
        ("indent", "a|b\nc", "\ta|b\nc"),
        ("outdent", "   a|b", "a|b"),
        ("outdent-signs", "   a|b", "  a|b"),
        ("settle", "ab|\nc", "a|b\nc"),
        ("step-on extend right", "a|bcd", "a[bc|d"),
        ("step-on extend left", "ab|cd", "a|bc]d"),
        ("kill to right; kill to right; fill kept", "a|bcd", "abc|d"),
        ("kill to left; kill to left; fill kept", "abc|d", "abc|d"),
        ("comment-line", "  a|b", "  # a|b"),
    ],
)
def test_what_a_program_does(text: str, before: str, after: str) -> None:
    buffer = page(before)
    program(text).run(buffer)
    assert shown(buffer) == after


def test_moves_up_and_down_keep_to_their_cell_until_something_else_is_done() -> None:
    buffer = page("abcd|\n\nabcd\n")
    for text in ("go down", "go down"):
        program(text).run(buffer)
    assert shown(buffer) == "abcd\n\nabcd|\n"
    for text in ("go up", "go line-start", "go down"):
        program(text).run(buffer)
    assert shown(buffer) == "abcd\n\n|abcd\n"


def test_settings_decide_what_is_typed_and_taken_away() -> None:
    spaces = Settings(indentation="    ", tab_width=4, auto_indent=True)
    buffer = Buffer("  ab", 4, settings=spaces)
    program("type break-and-indentation").run(buffer)
    assert buffer.text == "  ab\n  "
    program("type indentation").run(buffer)
    assert buffer.text == "  ab\n      "


@pytest.mark.parametrize(
    ("text", "what"),
    [
        ("fly left", "no step fly"), ("go nowhere", "not complete"), ("if flying { go left }", "no test flying"),
        ("if selected", "{ is missing"), ("if selected { go left", "} is missing"), ("go left }", "closes nothing"),
        ("go", "not complete"), ('type "a', "no program"), ("if { drop }", "a test is missing"),
        ("go character", "not complete"), ("go column x", "not complete"), ("rewrite word red", "not complete"),
        ("order all", "not complete"), ("exchange boats", "not complete"), ("surround word", "not complete"),
        ("unwrap x", "not complete"), ("type-named", "not complete"),
    ],
)  # fmt: skip
def test_what_is_no_program_is_refused(text: str, what: str) -> None:
    with pytest.raises(InputError) as caught:
        EffectProgram(text)
    assert what in caught.value.what


def _told(action: Action, effect: str) -> str:
    return action.told(told(action.name), effect or action.effect)


@pytest.mark.parametrize(("name", "section"), SECTIONS)
def test_the_programs_of_an_editor_keep_cursor_and_selection_in_the_text(name: str, section: str) -> None:
    draw = random.Random(name)
    actions, editor = shipped.catalogue().actions, dialect(name)
    vocabulary, manner = editor.vocabulary, manner_of(editor, section)
    rows = [row for row in vocabulary.commands.values() if section in vocabulary.sections_of(row)]
    texts = [row.effect if not row.action else _told(actions[row.action], row.effect) for row in rows]
    programs = [program(text) for text in texts if text]
    assert len(programs) >= 5
    for _ in range(3000):
        text = "".join(draw.choice("ab \t\n.()") for _ in range(draw.randint(1, 12))) + "\n"
        buffer = Buffer(text, draw.randint(0, len(text) - 1), None, "k")
        for one in draw.choices(programs, k=3):
            manner.run(one, buffer)
            places = (buffer.cursor, *buffer.selection)
            assert all(0 <= place <= len(buffer.text) for place in places), (one, text)
