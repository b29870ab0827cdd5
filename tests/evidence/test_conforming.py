"""The programs of commands against what the editors did: recorded cases, and a fresh sample pressed in each run."""

import gzip
import json
import random
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import pytest
from msgspec.structs import replace

from ombix.evidence.effect_conformance import (
    Case,
    Commands,
    Discrepancy,
    cases,
    changed_programs,
    commands_of,
    expected,
    fitting,
    run_many,
    smaller,
    telling_cases,
)
from ombix.evidence.probes import MARKER
from ombix.evidence.sandbox import best_sandbox
from ombix.text.effects.buffer import PLAIN
from tests.helpers import EXAMPLES, SECTIONS, dialect, seed, shipped

FOLDER = Path(__file__).parent / "cases"
LATER = (
    ("dte", "text"), ("mcedit", "editor"), ("geany", "window"), ("mousepad", "window"), ("kate", "window"),
)  # fmt: skip
"""Of these there are fewer cases."""
LATER_MARKED = [pytest.param(*one, marks=pytest.mark.every_pair) if one in LATER else one for one in SECTIONS]
MOST_DIFFERING = 0.006
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
    wrong = [case for case, found in rows if expected(case, known).is_sure and expected(case, known).text != found]
    assert [case for case in wrong if len(case.commands) == 1] == []
    most = MOST_DIFFERING * (2 if (editor, section) in LATER else 1)
    assert len(wrong) <= most * len(rows), wrong[:5]
    tried = Counter(case.commands[-1] for case, _found in rows)
    least = 60 if (editor, section) in LATER else 120
    assert [name for name in known.programs if known.unsure[name] != "always" and tried[name] < least] == []


@pytest.mark.parametrize(("editor", "section"), LATER_MARKED)
def test_fresh_cases_are_pressed(editor: str, section: str) -> None:
    known = commands(editor, section)
    some = [one for one in cases(known, 5000, seed(), alone=True) if expected(one, known).is_sure]
    some = random.Random(seed()).sample(some, 50)
    found = run_many(some, known, best_sandbox(), 4)
    wrong = [one for one in found if one is not None]
    assert not wrong, (seed(), wrong)


def example_cases(known: Commands) -> Iterator[tuple[Case, bool]]:
    """The examples of the actions that a section's commands stand for, from places that the editor can be in, each with whether
    the command is to do there what the action does."""
    for name in known.programs:
        row = known.dialect.vocabulary.row_of(name, known.section)
        for one in EXAMPLES.get(row.action, ()) if row is not None else ():
            if one.begin.anchor is not None or one.kept or one.arguments or one.settings != PLAIN:
                continue
            end = one.end
            tail = "" if one.begin.text.endswith("\n") else "\n"  # an editor may add it
            case = Case(known.section, one.begin.text + tail, one.begin.cursor, (name,))
            if fitting(case, known) and (reached := expected(case, known)).is_sure:
                wanted = end.text[: end.cursor] + MARKER + end.text[end.cursor :] + tail
                yield case, end.anchor is None and reached.text == wanted


@pytest.mark.parametrize(("editor", "section"), LATER_MARKED)
def test_examples_of_actions_are_pressed(editor: str, section: str) -> None:
    """The worked examples in the editors: each command does in their states what its program says, which is often the
    action's own outcome."""
    known = commands(editor, section)
    some = dict(example_cases(known))
    found = run_many(list(some), known, best_sandbox(), 4)
    assert [one for one in found if one is not None] == []
    assert len(some) >= 3
    assert sum(some.values()) >= 2


@pytest.mark.long(first=True)
@pytest.mark.parametrize(
    "line",
    ["set cutfromcursor", "set smarthome", "set afterends", "set autoindent", "set tabsize 3", "set tabstospaces"],
)
def test_settings_in_a_file_are_what_the_editor_does(line: str) -> None:
    known, plain = commands("nano", "main", line), commands("nano", "main")
    some, telling = [], []
    for one in cases(known, 2000, seed(), alone=True):
        if (own := expected(one, known)).is_sure:
            some.append(one)
            telling += [one] * (own != expected(one, plain))
        if len(telling) == 10 and len(some) >= 100:
            break
    some = random.Random(seed()).sample(some, 15) + telling
    assert telling
    wrong = [one for one in run_many(some, known, best_sandbox(), 4) if one is not None]
    assert not wrong, (seed(), wrong)


@pytest.mark.long
def test_a_wrong_program_is_found_by_the_recorded_cases() -> None:
    """Programs are changed one word at a time: each that does something else in one of thousands of cases is noticed."""
    draw = random.Random(5)
    tried = 0
    missed = []
    for editor, section in SECTIONS:
        most = 12 if (editor, section) in LATER else 50
        known = commands(editor, section)
        rows = recorded(editor, section)
        every = list(changed_programs(known))
        for name, other in draw.sample(every, min(most, len(every))):
            tried += 1
            concerned = [(case, found) for case, found in rows if name in case.commands]
            if not any(expected(case, known).text == found != expected(case, other).text for case, found in concerned):
                missed += [(editor, name, other.programs[name])] * bool(telling_cases(known, other, name, 1))
    assert tried >= 260
    assert missed == []


@pytest.mark.parametrize(
    ("line", "wrong"),
    [
        ("set cutfromcursor", {"cut_from_cursor": False}), ("set smarthome", {"smart_home": False}),
        ("set afterends", {"after_ends": False}), ("set autoindent", {"auto_indent": False}),
        ("set tabstospaces", {"soft_tabs": False}), ("set tabsize 3", {"tab_width": 8}),
    ],
)  # fmt: skip
def test_a_wrong_setting_is_found_by_fresh_cases(line: str, wrong: dict[str, object]) -> None:
    known = commands("nano", "main", line)
    other = Commands(
        **{**{f: getattr(known, f) for f in known.__struct_fields__}, "settings": replace(known.settings, **wrong)}
    )
    every = [one for one in cases(known, 2000, 4, alone=True) if expected(one, known) != expected(one, other)]
    telling = random.Random(4).sample(every, min(12, len(every)))
    assert telling
    found = run_many(telling, other, best_sandbox(), 4)
    assert [one for one in found if isinstance(one, Discrepancy)]


def test_what_differs_is_made_smaller() -> None:
    case = Case("main", "ab\ncd\n", 4, ("left", "right"), "paste")
    found = list(smaller(case))
    assert Case("main", "ab\ncd\n", 4, ("right",), "paste") in found
    assert Case("main", "cd\n", 1, ("left", "right"), "paste") in found
    assert Case("main", "ab\nd\n", 3, ("left", "right"), "paste") in found
    assert case._replace(tail="type") in found
    assert all(0 <= one.cursor <= len(one.text) for one in found)
