"""The table of comparisons that ships says what comparing says, and has all that ports under usual settings ask for."""

import json
import random
from itertools import permutations
from pathlib import Path

import pytest

from ombix.editors import command_effects, known_comparisons
from ombix.editors.everyday_models import everyday_models
from ombix.editors.known_comparisons import as_everyday_row
from ombix.text.effects.everyday_comparison import everyday_difference
from ombix.text.effects.execution import CommandRun
from ombix.text.effects.program_comparison import Comparison, compare
from ombix.work.carry import carry_questions
from ombix.workspace.open_workspace import OpenWorkspace
from tests.helpers import known, seed


def test_the_table_is_what_comparing_says(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    """For some of the pairs of editors, others with each seed."""
    asked: dict[str, tuple[CommandRun, CommandRun]] = {}

    def noted(one: CommandRun, other: CommandRun) -> Comparison:
        if one != other:
            asked[known_comparisons.key_of(one, other)] = (one, other)
        return known_comparisons.compared(one, other)

    monkeypatch.setattr(command_effects, "compared", noted)
    for source, target in random.Random(seed()).sample(list(permutations(known(), 2)), 12):
        carry_questions.make_ports(
            OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state")), target, source=source
        )
    table = known_comparisons._table(known_comparisons.FILE)
    assert asked
    assert [key for key in asked if key not in table] == [], f"{seed()}; make it anew with tools/make_verdicts.py"
    few = random.Random(seed()).sample(sorted(asked), min(60, len(asked)))
    fresh = {key: json.loads(json.dumps(known_comparisons.as_row(compare(*asked[key])))) for key in few}
    assert [key for key in few if fresh[key] != table[key][: len(fresh[key])]] == [], seed()
    different = [key for key in few if not fresh[key][0]][:12]
    assert different
    again = {
        key: json.loads(json.dumps(as_everyday_row(everyday_difference(*asked[key], everyday_models()))))
        for key in different
    }
    assert [key for key in different if again[key] != table[key][-1]] == [], seed()


def test_what_comes_out_of_the_table_is_what_went_in(monkeypatch: pytest.MonkeyPatch) -> None:
    one, other = CommandRun((command_effects.program("go left"),)), CommandRun((command_effects.program("go right"),))
    found = compare(one, other)
    monkeypatch.setattr(
        known_comparisons,
        "_table",
        lambda file: {known_comparisons.key_of(one, other): known_comparisons.as_row(found)},
    )
    assert known_comparisons.compared(one, other) == found
    assert known_comparisons.compared(one, one) == Comparison(True)
    assert known_comparisons.compared(other, one) == compare(other, one)


def test_what_is_set_tells_comparisons_apart() -> None:
    one = CommandRun((command_effects.program("indent"),))
    manner = one.manner._replace(settings=command_effects.Settings(tab_width=3))
    assert known_comparisons.key_of(one, one) != known_comparisons.key_of(one, one._replace(manner=manner))
    assert known_comparisons.key_of(one, one) != known_comparisons.key_of(one, one._replace(unsure=("selected",)))
