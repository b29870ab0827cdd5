"""What commands do beside a text: facts that change, changes that are taken back; and how a difference in them is said."""

import pytest

from ombix.core.catalogue.actions import Catalogue
from ombix.data.shipped import Shipped
from ombix.editors.command_effects import EffectJudge
from ombix.editors.description_loading import Dialects
from ombix.text.effects.buffer import Buffer
from ombix.text.effects.execution import CommandRun, EditorConventions
from ombix.text.effects.program_comparison import compare
from ombix.text.effects.program_language import program

SHIPPED = Shipped()
CATALOGUE: Catalogue = SHIPPED.catalogue()


def side(*texts: str, unsure: str = "") -> CommandRun:
    return CommandRun(
        tuple(map(program, texts)), EditorConventions(), ("",) * (len(texts) - 1) + (unsure,) if unsure else ()
    )


def ran(*texts: str, text: str = "one two\nthree\n", cursor: int = 4) -> Buffer:
    buffer = Buffer(text, cursor)
    side(*texts).run(buffer)
    return buffer


def test_facts_are_noted_in_order_and_the_last_value_counts() -> None:
    after = ran("does files.save", "now pane search; does view.bars", "now pane text")
    assert after.facts == ("files.save", "view.bars", "pane is text")


def test_behind_the_end_nothing_is_run() -> None:
    after = ran("does app.quit; ends", "delete line")
    assert after.text == "one two\nthree\n"
    assert after.facts == ("app.quit",)


def test_a_text_is_changed_until_it_is_saved() -> None:
    asks = "if changed { now pane question } else { does app.quit; ends }"
    assert ran(asks).facts == ("app.quit",)
    assert ran("delete line", asks).facts == ("pane is question",)
    assert ran("delete line", "does files.save; now modified no", asks).facts[-1] == "app.quit"


@pytest.mark.parametrize(
    ("one", "other", "said"),
    [
        ("does files.save", "does files.save", ""),
        ("does files.save", "does files.save-as", "files.save-as is done; in the source, files.save is done"),
        ("does x", "stay", "nothing is done; in the source, x is done"),
        (
            "if changed { now pane question } else { does app.quit }", "if changed { stop }; does app.quit",
            "when the text has changes that are not saved, nothing is done; in the source, pane is question",
        ),
    ],
)  # fmt: skip
def test_what_is_done_is_compared_and_said(one: str, other: str, said: str) -> None:
    assert compare(side(one), side(other)).sentence == said


def test_a_text_and_a_fact_are_compared_together() -> None:
    found = compare(side("delete line; does files.save"), side("delete line"))
    assert not found.is_equal
    assert compare(side("delete line", "does a"), side("delete line; does a")).is_equal


@pytest.mark.parametrize(
    ("steps", "cursor", "selected"),
    [
        (("delete line", "take-back before"), 4, None),
        (("delete line", "take-back first"), 0, None),
        (("delete line", "take-back restored"), 8, (0, 8)),
        (("go line-end; delete line", "take-back moment"), 7, (0, 8)),
        (("delete to right", "go end", "take-back before"), 4, None),
    ],
)
def test_a_change_is_taken_back(steps: tuple[str, ...], cursor: int, selected: tuple[int, int] | None) -> None:
    after = ran(*steps)
    assert after.text == "one two\nthree\n"
    assert (after.cursor, after.selection if after.has_selection else None) == (cursor, selected)


def test_with_nothing_to_take_back_the_action_is_done() -> None:
    assert ran("go end", "take-back before").facts == ("history.undo",)


def test_taking_back_is_sure_only_behind_one_change() -> None:
    once = side("delete line", "take-back before", unsure="not one-change")
    twice = side("delete line", "delete line", "take-back before", unsure="not one-change")
    assert once.run(Buffer("a\nb\nc\n"))
    assert not twice.run(Buffer("a\nb\nc\n"))
    replaced = side('type "x"', "take-back before", unsure="not one-deletion")
    assert not replaced.run(Buffer("a\nb\n"))


@pytest.mark.parametrize(
    ("name", "section", "written", "facts"),
    [
        ("nano", "main", "savefile", ("files.save", "modified is no")),
        ("ex", "command", ":w\r:q\r", ("files.save", "modified is no", "app.quit")),
        ("ex", "command", "i", ("mode is insert",)),
        ("ex", "command", ":e ", ("pane is command",)),
        ("micro", "buffer", "Save,Quit", ("files.save", "modified is no", "app.quit")),
        ("kakoune", "insert", "<a-semicolon>:w<ret>", ("files.save", "modified is no")),
    ],
)
def test_the_facts_of_commands(name: str, section: str, written: str, facts: tuple[str, ...]) -> None:
    judge = EffectJudge(None, Dialects(SHIPPED).load(name), CATALOGUE)
    found = judge._command_side(judge._target, section, written)
    assert found is not None
    buffer = Buffer("a\n")
    buffer.saved = None
    assert found.run(buffer)
    assert buffer.facts == facts


def test_an_action_about_a_text_without_a_program_is_not_known() -> None:
    assert CATALOGUE.actions["cursor.page-down"].facts == ""
    assert CATALOGUE.actions["search.find"].facts == "does search.find; now pane search"
    assert CATALOGUE.actions["mode.insert"].facts == "now mode insert"
