"""Operators, counts and movements: what they are known to do, held against nvi and Kakoune, pressed."""

import random
from collections.abc import Iterator

import pytest

from ombix.editors.command_effects import settings_in
from ombix.editors.modal_grammar import Grammar
from ombix.evidence import effect_conformance
from ombix.evidence.effect_conformance import Case, Commands, Discrepancy
from ombix.evidence.sandbox import Sandbox
from ombix.text.effects.buffer import Buffer
from ombix.text.effects.program_language import EffectProgram, program
from tests.helpers import dialect, shipped

_LINES = (
    "", "a", "one two", "  in", "\tin b", "x.y (z)", "trail  ", "a_b c1", "((a) b)", "..!", "# c", "long line, and its end",
)  # fmt: skip


def grammar() -> Grammar:
    found = dialect("ex").grammar
    assert found is not None
    return found


def combinations() -> Iterator[str]:
    """Each operator over each movement, without a count and with some before either, where all is known."""
    one = grammar()
    for operator in one.syntax.operators:
        for movement in one.syntax.movements:
            for shape in ("{0}{1}", "2{0}{1}", "{0}3{1}", "5{0}{1}"):
                row = one.row_of(shape.format(operator, movement))
                if row is not None and "always" not in row.unsure:
                    yield shape.format(operator, movement)


COMBINATIONS = list(combinations())


def commands(name: str, section: str, programs: dict[str, EffectProgram], unsure: dict[str, str]) -> Commands:
    one = dialect(name)
    keys, config = effect_conformance._keys(one, section, list(programs), set(), shipped.catalogue())
    assert keys.keys() == programs.keys()
    return Commands(one, section, programs, unsure, keys, config, settings_in(one, ()))


def cases(section: str, rows: list[tuple[str, ...]], known: Commands, seed: int) -> list[Case]:
    """For each row of commands a random text and place, in which all of them is sure."""
    draw = random.Random(seed)
    found = []
    for row in rows:
        for _ in range(200):
            text = "\n".join(draw.choice(_LINES) for _ in range(draw.randint(2, 5))) + "\n"
            case = Case(section, text, draw.randrange(len(text)), row)
            if effect_conformance.fitting(case, known) and effect_conformance.expected(case, known).is_sure:
                found.append(case)
                break
    return found


def test_at_least_a_hundred_and_fifty_are_known() -> None:
    assert len(COMBINATIONS) >= 150
    assert len(set(COMBINATIONS)) == len(COMBINATIONS)


@pytest.mark.long
def test_operators_over_movements_do_what_nvi_does() -> None:
    one = grammar()
    for start in range(0, len(COMBINATIONS), 40):
        some = COMBINATIONS[start : start + 40]
        rows = {name: row for name in some if (row := one.row_of(name)) is not None}
        programs = {name: program(row.effect) for name, row in rows.items()}
        known = commands("ex", "command", programs, {name: row.unsure for name, row in rows.items()})
        many = cases("command", [(name,) for name in some], known, start)
        assert len(many) == len(some)
        found = effect_conformance.run_many(many, known, Sandbox((), ""), 6)
        assert [each for each in found if each is not None] == []


def test_what_kakoune_selects_and_does_is_what_it_does() -> None:
    """There the movement comes first, and selects what the operator is for."""
    every = effect_conformance.commands_of(dialect("kakoune"), "normal", shipped.catalogue())
    movements = ["w", "b", "e", "h", "l", "j", "k", "x", "W", "B", "E", "L", "H", "J", "K", "<a-l>", "<a-h>", "%"]
    operators = ["d", "y", ";", "<a-;>", "p", "P"]
    rows = [(one, other) for one in movements for other in operators if {one, other} <= every.programs.keys()]
    many = cases("normal", rows, every, 3)
    assert len(many) >= 50
    found = effect_conformance.run_many(many, every, Sandbox((), ""), 6)
    assert [one for one in found if isinstance(one, Discrepancy | str)] == []


def test_a_wrong_kind_or_operator_is_noticed() -> None:
    one = grammar()
    wrong = {
        name: program(text.replace("exclusive", "inclusive"))
        for name in ("dw", "dh", "d$", "db", "yl", "dl", "d0")
        if (row := one.row_of(name)) is not None and (text := row.effect).find("exclusive") > 0
    }
    assert len(wrong) >= 5
    known = commands("ex", "command", wrong, dict.fromkeys(wrong, "blank-line or at-line-start"))
    many = cases("command", [(name,) for name in wrong] * 3, known, 5)
    found = effect_conformance.run_many(many, known, Sandbox((), ""), 6)
    assert sum(isinstance(each, Discrepancy) for each in found) >= 4


@pytest.mark.parametrize(
    ("effect", "before", "after", "kept"),
    [
        # Worked out by hand from POSIX.1, vi.
        ("over exclusive delete { go line-end }", "ab|cd\nef\n", "ab|\nef\n", "cd"),
        ("over lines delete { go down }", "ab\nc|d\nef\ngh\n", "ab\ng|h\n", "cd\nef\n"),
        ("over lines copy { go up }", "ab\nc|d\n", "a|b\ncd\n", "ab\ncd\n"),
        ("over inclusive delete { go right }", "a|bcd\n", "a|d\n", "bc"),
        ("over lines indent { go down }", "a\n|b\nc\n", "a\n\t|b\n\tc\n", "b\nc\n"),
        ("over words delete { go next-start runs }", "a |b\nc\n", "a |\nc\n", "b"),
        ("over exclusive delete { stop }", "a|b\n", "a|b\n", ""),
    ],
)
def test_what_is_operated_on(effect: str, before: str, after: str, kept: str) -> None:
    buffer = Buffer(before.replace("|", ""), before.index("|"))
    program(effect).run(buffer)
    assert f"{buffer.text[: buffer.cursor]}|{buffer.text[buffer.cursor :]}" == after
    assert buffer.clipboard == kept
