"""Each chord that the file of an editor can have is taken by the editor itself: some drawn ones here, and all where there is time
for it."""

import random
import sys

import pytest

from ombix.core.keys.notation import parse, write
from ombix.editors.abilities import DescribedTarget
from tests.helpers import REAL, ROOT, dialect, others_in_all, seed, shipped

sys.path.insert(0, str(ROOT / "tools"))
import try_chords

NOT_TOLD = {
    "nano": {"Ctrl+S"},
    "dte": {"Ctrl+S"},
    "mcedit": {"F2"},
    "kakoune": {":"},
    "ex": {":", "Escape"},
    "joe": {","},
}
"""Keys that save, which cannot be told where they do something else; and joe ends at a comma that is bound by itself."""


def not_taken(name: str, count: int) -> list[str]:
    """What chords an editor does not take, of so many that are drawn."""
    one, catalogue = dialect(name), shipped.catalogue()
    outcome, chords = try_chords.action_for(one, catalogue), try_chords.chords_of(one)
    assert len(chords) > 100
    found = []
    for trigger in random.Random(seed()).sample(chords, min(count, len(chords))):
        proof = try_chords.pressed(one, trigger, outcome, catalogue)
        if isinstance(proof, str) or proof.result != "agrees":
            found.append(f"{write(trigger)}: {proof}")
    return [one for one in found if one.partition(": ")[0] not in NOT_TOLD.get(name, ())]


@pytest.mark.long
@pytest.mark.parametrize("name", others_in_all(REAL, "kakoune", "nano", "geany"))
def test_drawn_chords_are_taken(name: str) -> None:
    assert not_taken(name, 6 if dialect(name).terminal.direct else 25) == []


@pytest.mark.every_pair
@pytest.mark.parametrize("name", [name for name in REAL if not dialect(name).terminal.direct])
def test_every_chord_is_taken(name: str) -> None:
    assert not_taken(name, sys.maxsize) == []


@pytest.mark.parametrize("name", ["mcedit", "dte", "micro", "nano"])
def test_what_an_editor_does_not_take_cannot_be_written(name: str) -> None:
    """Found by pressing all of them."""
    deaf = {
        "mcedit": ["Alt+Insert", "Alt+Delete", "Ctrl+Shift+Delete", "Ctrl+Alt+Home", "Ctrl+Alt+Shift+ArrowUp", "Ctrl+H", "Escape"],
        "dte": ["Tab", "Enter"],
        "micro": ["Alt+Escape"],
        "nano": ["Alt+Shift+O"],
    }  # fmt: skip
    target = DescribedTarget(dialect(name))
    section = dialect(name).edited_sections[0]
    assert [keys for keys in deaf[name] if target.can_bind(parse(keys), section)] == []
    assert target.can_bind(parse("F7"), section)
