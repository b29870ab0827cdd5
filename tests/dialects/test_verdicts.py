"""The table of comparisons that ships says what comparing says, and has all that ports under usual settings ask for."""

import json
import random
from itertools import permutations
from pathlib import Path

import pytest

from ombix.dialects import effects, verdicts
from ombix.effects.comparing import Comparison, compare
from ombix.effects.sides import Side
from ombix.session.session import Session
from tests.helpers import known, seed


def test_the_table_is_what_comparing_says(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    """For some of the pairs of editors, others with each seed."""
    asked: dict[str, tuple[Side, Side]] = {}

    def noted(one: Side, other: Side) -> Comparison:
        if one != other:
            asked[verdicts.key_of(one, other)] = (one, other)
        return verdicts.compared(one, other)

    monkeypatch.setattr(effects, "compared", noted)
    for source, target in random.Random(seed()).sample(list(permutations(known(), 2)), 12):
        Session(folder=str(tmp_path), state=str(tmp_path / "state")).make_ports(target, source=source)
    table = verdicts._table(verdicts.FILE)
    assert asked
    assert [key for key in asked if key not in table] == [], f"{seed()}; make it anew with tools/make_verdicts.py"
    few = random.Random(seed()).sample(sorted(asked), min(60, len(asked)))
    fresh = {key: json.loads(json.dumps(verdicts.as_row(compare(*asked[key])))) for key in few}
    assert [key for key in few if fresh[key] != table[key]] == [], seed()


def test_what_comes_out_of_the_table_is_what_went_in(monkeypatch: pytest.MonkeyPatch) -> None:
    one, other = Side((effects.program("go left"),)), Side((effects.program("go right"),))
    found = compare(one, other)
    monkeypatch.setattr(verdicts, "_table", lambda file: {verdicts.key_of(one, other): verdicts.as_row(found)})
    assert verdicts.compared(one, other) == found
    assert verdicts.compared(one, one) == Comparison(True)
    assert verdicts.compared(other, one) == compare(other, one)


def test_what_is_set_tells_comparisons_apart() -> None:
    one = Side((effects.program("indent"),))
    manner = one.manner._replace(settings=effects.Settings(tab_width=3))
    assert verdicts.key_of(one, one) != verdicts.key_of(one, one._replace(manner=manner))
    assert verdicts.key_of(one, one) != verdicts.key_of(one, one._replace(unsure=("selected",)))
