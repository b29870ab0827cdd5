"""Values of TOML changed member by member; and edits that are taken back by their inverse, to the byte."""

import sys
import tomllib
from random import Random

import pytest

from ombix.core.keymap.changes import (
    Bind,
    Change,
    Move,
    Narrow,
    Remove,
    RemoveAccept,
    RemoveTakeAway,
    RemoveUnbind,
    TakeAway,
    Unbind,
)
from ombix.core.keys.notation import Trigger, parse
from ombix.files import toml_values
from ombix.files.editing import apply
from tests.helpers import ROOT

sys.path.insert(0, str(ROOT / "tools"))
from try_edits import _ACTIONS, Hand

ARRAYS = [
    '[ "x", # c\n  "y"\n]', '[ "x", # c\n  "y", # d\n]', '[ "x", "y" ]', "['x', 'y',]", "[\n  'x',\n  'y',\n]",
    "[\n  'x',\n  'y' # end\n]", "['x']", '[\n {press="a, ]"},\n # c\n { press = \'b\', where = "m" },\n]',
]  # fmt: skip


@pytest.mark.parametrize("text", ARRAYS)
def test_one_more_member_and_one_less_gives_the_same_bytes(text: str) -> None:
    more = toml_values.with_one_more(text, "'NEW'")
    before = tomllib.loads(f"a = {text}")["a"]
    assert tomllib.loads(f"a = {more}")["a"] == [*before, "NEW"]
    assert toml_values.without_part(more, len(before)) == text


@pytest.mark.parametrize("text", ARRAYS)
def test_a_member_taken_out_leaves_the_others_and_all_comments(text: str) -> None:
    before = tomllib.loads(f"a = {text}")["a"]
    for index in range(len(before)):
        left = toml_values.without_part(text, index)
        assert tomllib.loads(f"a = {left}")["a"] == before[:index] + before[index + 1 :]
        assert left.count("#") == text.count("#")


def test_fields_of_an_inline_table() -> None:
    text = "{press='x',   where = \"a, b}\" }"
    assert toml_values.field(text, "where") == (1, '"a, b}"')
    assert toml_values.with_field(text, "press", '"y"') == '{press="y",   where = "a, b}" }'
    assert toml_values.without_field(toml_values.with_field(text, "why", '"z"'), "why") == text
    assert toml_values.without_field(text, "nothing") == text


@pytest.mark.long
@pytest.mark.parametrize("seed", range(8))
def test_an_edit_and_its_inverse_give_the_same_bytes_on_files_written_by_hand(seed: int) -> None:
    chance = Random(seed)
    new = parse("Ctrl+F11")
    done = dict.fromkeys(["bind", "also", "move", "narrow", "unbind", "take"], 0)
    for _ in range(250):
        text = Hand(chance).keymap().decode("utf-8-sig")
        table = tomllib.loads(text.replace("\r\n", "\n"))
        kind = chance.choice(list(done))
        pair = _edit(kind, chance, table.get("bind", {}), new)
        if pair is None:
            continue
        edit, inverse = pair
        after = apply(text, [edit]).text
        assert apply(after, [inverse]).text == text, (edit, text)
        old, now = text.split("\n"), after.split("\n")
        changed = [line for line in now if line not in old]
        assert len(changed) <= 5, (edit, changed)
        done[kind] += 1
    assert min(done.values()) > 5


@pytest.mark.parametrize("end", ["\n", "\r\n"])
def test_acceptances_in_several_places_stay_there_in_a_file_without_a_last_line_end(end: str) -> None:
    lines = [
        "[[accept]]",
        'rule = "slip"',
        'why = "x"',
        "[where]",
        'busy = "readonly"',
        '[["accept"]] # 2',
        *_HABIT,
    ]
    text, keys = end.join(lines), parse("Ctrl+F11")
    edited = apply(text, [Bind("cursors.split-lines", keys)]).text
    assert edited == end.join([text, "", "[bind.cursors]", 'split-lines = "Ctrl+F11"'])
    assert apply(edited, [Remove("cursors.split-lines", keys)]).text == text
    assert apply(text, [RemoveAccept("habit")]).text == end.join(lines[:5])


_HABIT = ('rule = "habit"', 'why = "y"')


def _edit(kind: str, chance: Random, bound: dict[str, object], new: Trigger) -> tuple[Change, Change] | None:
    rows = list(_rows(bound))
    free = chance.choice(
        [name for name in _ACTIONS if name not in {row[0] for row in rows} and name not in _names(bound)]
    )
    if kind == "bind":
        where = chance.choice(["", "readonly"])
        return Bind(free, new, where), Remove(free, new, where or "always")
    if kind == "unbind":
        return Unbind(new), RemoveUnbind(new)
    if kind == "take":
        return TakeAway(free), RemoveTakeAway(free)
    if not rows:
        return None
    name, keys, where = chance.choice(rows)
    if kind == "also":
        return Bind(name, new, adds=True), Remove(name, new)
    if kind == "move":
        return Move(name, parse(keys), where, new), Move(name, new, where, parse(keys))
    there = "modified and readonly"
    return Narrow(name, parse(keys), where, there), Narrow(name, parse(keys), there, where)


def _names(bound: dict[str, object]) -> set[str]:
    return {f"{domain}.{verb}" for domain, verbs in bound.items() if isinstance(verbs, dict) for verb in verbs}


def _rows(bound: dict[str, object]) -> list[tuple[str, str, str]]:
    found = []
    for domain, verbs in bound.items():
        for verb, value in verbs.items() if isinstance(verbs, dict) else ():
            for row in value if isinstance(value, list) else [value]:
                if isinstance(row, str):
                    found.append((f"{domain}.{verb}", row, "always"))
                elif isinstance(row, dict):
                    found.append((f"{domain}.{verb}", row["press"], row.get("where", "always")))
    return found
