"""Breaking one thing in a description, fifty times: pressing keys, or comparing decisions, finds every one."""

import random

import pytest

from ombix.core.errors import Place
from ombix.core.keymap.bindings import Binding, Layer, LayerName
from ombix.core.keymap.comparing import compare
from ombix.core.keymap.deciding import Policy, decide_all
from ombix.core.keymap.outcomes import Do, Only
from ombix.core.keys.notation import ALT, CTRL, Chord, parse, write
from ombix.editors.file_writing import write_file
from ombix.evidence.probes import probes_for
from ombix.text.effects.buffer import Settings
from tests.evidence.test_proving import CATALOGUE, claim, means, places, pressed
from tests.helpers import REAL, WITH_EFFECT, dialect, editors_space, known, told

ROWS, KEYS, POLICIES = 5, 3, 2
SETTINGS = Settings(typing_replaces_selection=True)


def section_of(name: str) -> str:
    """The section in which text is typed as it is in an editor without modes."""
    return places(name)[-1]


IN_FILES = {"geany": "cursor.line-end", "kate": "cursor.line-end", "mousepad": "edit.delete-right"}
"""An action whose command the file of an editor names, where it does not name the usual one."""


def config(name: str, keys: str, action: str) -> str:
    """A file that binds keys to what the editor has for an action."""
    one, section = dialect(name), section_of(name)
    found = means(name, action, section)
    assert found is not None
    outcome = Do(action) if one.vocabulary.command_for(Do(action), section) else Only(name, found.written)
    binding = Binding(parse(keys), outcome, Place("x"), LayerName("x", "x"), one.description.sections[section])
    return write_file(one, Layer(LayerName("x", "x", "adopted"), [binding]), editors_space(), CATALOGUE)


def exact_actions(name: str) -> list[str]:
    """Actions with an effect that the editor has exactly, and that one key shows."""
    return [
        action
        for action in WITH_EFFECT
        if not told(action)
        and (found := means(name, action, section_of(name))) is not None
        and not found.differs
        and action.startswith(("cursor.", "edit.delete", "edit.insert", "edit.newline", "line."))
        and action != "cursor.matching-bracket"  # what it does away from a bracket is not said, and editors differ
    ]


def is_told_apart(one: str, other: str) -> bool:
    """Whether a probe of the second shows that the first was run."""
    return any(
        probe.expected(other, SETTINGS, CATALOGUE) != probe.expected(one, SETTINGS, CATALOGUE)
        for probe in probes_for(other, True, "", CATALOGUE)
        if not probe.before and not probe.after and not probe.is_at_line_end
    )


@pytest.mark.long
@pytest.mark.parametrize("name", REAL)
def test_a_wrong_action_in_a_row_of_the_command_table_is_found(name: str) -> None:
    chance = random.Random(name)
    found = 0
    for real in chance.sample(exact_actions(name), ROWS):
        said = chance.choice(
            [one for one in WITH_EFFECT if one.startswith("cursor.") and not told(one) and is_told_apart(real, one)]
        )
        (proof,) = pressed(name, config(name, "F5", real), [claim("F5", said)], section_of(name))
        assert proof.result == "differs", (real, said, proof)
        found += 1
    assert found == ROWS


@pytest.mark.parametrize("name", [name for name in REAL if not dialect(name).description.file.assigns])
def test_a_wrong_modifier_in_the_key_table_is_found(name: str) -> None:
    one, chance = dialect(name), random.Random(name)
    chords = [chord for chord in one.spelling.chords() if chord.modifiers in (CTRL, ALT) and chord.key in "aefnpty"]
    found = 0
    for chord in chance.sample(chords, KEYS):
        other = Chord(chord.modifiers ^ CTRL ^ ALT, chord.key)
        action = IN_FILES.get(name, "cursor.line-start")
        text = config(name, write((other,)), action)  # the table would write one for the other
        (proof,) = pressed(name, text, [claim(write((chord,)), action)], section_of(name))
        default = next((row for row in one.default_layer.bindings if row.trigger == (chord,)), None)
        # Where a command has one key, the one that it is given takes its default one away.
        does_it_by_default = default is not None and default.outcome == Do(action) and not one.description.file.assigns
        assert proof.result == ("agrees" if does_it_by_default else "differs"), (write((chord,)), proof)
        found += not does_it_by_default
    assert found >= KEYS - 1


@pytest.mark.parametrize("name", known())
def test_a_wrong_policy_is_found(name: str) -> None:
    here, true = editors_space(), dialect(name).policy
    rows = (("F5", "cursor.left", "pane is text"), ("F5", "cursor.right", "pane is text"),
            ("F6", "cursor.up", "pane is text"), ("F6 x", "cursor.down", "pane is text"),
            ("F7", "cursor.left", "pane is text and readonly"), ("F7", "cursor.right", "pane is text"),
            ("F8", "cursor.left", "popup is suggestions"), ("F8", "cursor.right", "pane is text"))  # fmt: skip
    bindings = [
        Binding(parse(keys), Do(action), Place("x"), LayerName("x", "x"), where) for keys, action, where in rows
    ]
    right = decide_all(bindings, here, CATALOGUE, true)
    wrong = [
        Policy("first" if true.wins == "last" else "last", true.prefix),
        Policy(true.wins, "waits" if true.prefix == "fires" else "fires"),
    ]
    assert len(wrong) == POLICIES
    for policy in wrong:
        broken = decide_all(bindings, here, CATALOGUE, policy)
        assert compare(right, broken, here, here.possible) != []


def test_fifty_things_are_broken() -> None:
    assert len(REAL) * (ROWS + KEYS + POLICIES) >= 50
