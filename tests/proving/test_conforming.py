"""The programs of commands against what the editors did: recorded cases, and a fresh sample pressed in each run."""

import gzip
import json
import random
from pathlib import Path

import pytest

from ombix.effects.language import program
from ombix.proving.conforming import Case, Commands, cases, commands_of, expected, run_many, smaller
from ombix.proving.sandbox import best_sandbox
from tests.helpers import SECTIONS, dialect, shipped

FOLDER = Path(__file__).parent / "cases"
MOST_DIFFERING = 0.012
"""Of the recorded cases, of those with several commands in a row: what is left behind for the next is not all described."""


def commands(editor: str, section: str, *lines: str) -> Commands:
    return commands_of(dialect(editor), section, shipped.catalogue(), lines)


def recorded(editor: str, section: str) -> list[tuple[Case, str]]:
    document = json.loads(gzip.decompress((FOLDER / f"{editor}-{section}.json.gz").read_bytes()))
    assert document["version"] == dialect(editor).description.version
    return [
        (Case(section, text, cursor, tuple(names), tail), found)
        for text, cursor, names, tail, found in document["cases"]
    ]


@pytest.mark.parametrize(("editor", "section"), SECTIONS)
def test_the_programs_do_what_the_editor_did(editor: str, section: str) -> None:
    known = commands(editor, section)
    rows = recorded(editor, section)
    assert len(rows) >= 35 * len(known.programs)
    wrong = [case for case, found in rows if expected(case, known).is_sure and expected(case, known).text != found]
    assert [case for case in wrong if len(case.commands) == 1] == []
    assert len(wrong) <= MOST_DIFFERING * len(rows), wrong[:5]
    tried = {case.commands[-1] for case, _found in rows}
    sure = {name for name in known.programs if known.unsure[name] != "always"}
    assert sure <= tried


@pytest.mark.parametrize(("editor", "section"), SECTIONS)
def test_fresh_cases_are_pressed(editor: str, section: str) -> None:
    known = commands(editor, section)
    seed = random.SystemRandom().randrange(10**9)
    some = [one for one in cases(known, 5000, seed, alone=True) if expected(one, known).is_sure]
    some = random.Random(seed).sample(some, 50)
    found = run_many(some, known, best_sandbox(), 4)
    wrong = [one for one in found if one is not None]
    assert not wrong, (seed, wrong)


@pytest.mark.parametrize(
    "line", ["set cutfromcursor", "set smarthome", "set afterends", "set autoindent", "set tabsize 3"]
)
def test_settings_in_a_file_are_what_the_editor_does(line: str) -> None:
    known = commands("nano", "main", line)
    seed = random.SystemRandom().randrange(10**9)
    some = [one for one in cases(known, 2000, seed, alone=True) if expected(one, known).is_sure]
    telling = [one for one in some if expected(one, known) != expected(one, commands("nano", "main"))]
    some = random.Random(seed).sample(some, 15) + telling[:10]
    assert telling
    wrong = [one for one in run_many(some, known, best_sandbox(), 4) if one is not None]
    assert not wrong, (seed, wrong)


CHANGES = [
    ("left", "right"), ("start", "end"), ("line-start", "line-end"), ("stay", "edge"), ("letters", "runs"), ("names", "letters"),
    ("cut", "delete"), ("more", ""), ("extend", "go"), ("selection", "line"), ("kill", "remove"), ("go", "stand"),
    ("line-end", "end"), ("drop; ", ""), ("not ", ""), ("break-and-indentation", "break"), ("copy", "cut"), ("below", "above"),
    ("text-start", "line-start"), ("down", "up"), ("breaks", ""), ("within", ""), ("behind", "before"), ("stop", "drop"),
]  # fmt: skip


def test_a_wrong_program_is_found_by_the_recorded_cases() -> None:
    """Programs are changed one word at a time; all but a few of those that do something else in one of thousands
    of cases are noticed."""
    draw = random.Random(5)
    tried = missed = 0
    for editor, section in SECTIONS:
        known = commands(editor, section)
        rows = recorded(editor, section)
        changes = [
            (name, one.text.replace(old, new, 1)) for name, one in known.programs.items() for old, new in CHANGES
            if old in one.text and known.unsure[name] != "always"
        ]  # fmt: skip
        for name, text in draw.sample(changes, min(40, len(changes))):
            try:
                changed = program(text)
            except Exception:
                continue
            concerned = [row for row in rows if name in row[0].commands]
            others = {**known.programs, name: changed}
            other = Commands(
                **{**{field: getattr(known, field) for field in known.__struct_fields__}, "programs": others}
            )
            mine = [(case, found) for case, found in concerned if expected(case, known).text == found]
            differs = any(expected(case, other).text != found for case, found in mine)
            tried += 1
            missed += not differs and _is_another(name, known, other)
    assert tried >= 150
    assert missed <= tried // 20


def _is_another(name: str, one: Commands, other: Commands) -> bool:
    """Whether a changed program does something else in one of many cases."""
    return any(
        expected(case, one).text != expected(case, other).text
        for case in cases(one, 4000, 77) if name in case.commands and expected(case, one).is_sure
    )  # fmt: skip


def test_what_differs_is_made_smaller() -> None:
    case = Case("main", "ab\ncd\n", 4, ("left", "right"), "paste")
    found = list(smaller(case))
    assert Case("main", "ab\ncd\n", 4, ("right",), "paste") in found
    assert Case("main", "cd\n", 1, ("left", "right"), "paste") in found
    assert Case("main", "ab\nd\n", 3, ("left", "right"), "paste") in found
    assert case._replace(tail="type") in found
    assert all(0 <= one.cursor <= len(one.text) for one in found)
