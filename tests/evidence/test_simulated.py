"""The stand-ins, by pressing keys on the stage: every port to them, and thirty things broken on purpose."""

import random
import tomllib
from itertools import product

import pytest
from msgspec.structs import replace

from ombix.core.conditions import Space
from ombix.core.errors import Place
from ombix.core.keymap.bindings import Binding, Keymap, Layer, LayerName
from ombix.core.keymap.deciding import Policy
from ombix.core.keymap.outcomes import Do, Nothing, Outcome
from ombix.core.keys.notation import parse
from ombix.core.porting.verdicts import PortEntry
from ombix.data.shipped import DATA, Shipped
from ombix.editors.description_loading import Dialects
from ombix.editors.dialect import Dialect
from ombix.editors.editor_porting import port_keymap
from ombix.editors.file_reading import read_file
from ombix.editors.vocabulary import Vocabulary
from ombix.evidence.key_proof import Proof
from ombix.evidence.stage_proof import StagedEditor, prove_on_stage
from ombix.files import keymap_reading
from tests.helpers import STAND_INS, WITH_EFFECT, a_third, around, dialect, editors_space, known, shipped

CATALOGUE = shipped.catalogue()
LINUX = shipped.platform("linux")
WINDOW = shipped.terminal("window")
PAIRS = [(source, target) for source, target in product(known(), STAND_INS) if source != target]


def space_of(*names: str) -> Space:
    return Space(shipped.facts().extended([fact for name in names for fact in dialect(name).facts], []))


def pressed(
    keymap: Keymap, source: Dialect | None, target: Dialect, on: Dialect, platform: str = "linux"
) -> list[tuple[PortEntry, Proof]]:
    """Port by one description, and press on a stage that obeys another one."""
    # What an editor excludes holds in that editor only.
    here = around(editors_space(), platform, WINDOW)
    file = port_keymap(keymap, keymap.in_force(here.platform).bindings, source, target, here)
    stage = StagedEditor(on, [read_file(on, file.text, "file").layer], here)
    return prove_on_stage(file.entries, stage)


@pytest.mark.parametrize(("source", "target"), a_third(PAIRS))
def test_after_a_port_of_all_defaults_every_key_does_what_its_verdict_says(source: str, target: str) -> None:
    origin = dialect(source)
    for platform in shipped.platform_names() if source in STAND_INS else ["linux"]:
        proofs = pressed(Keymap([origin.default_layer]), origin, dialect(target), dialect(target), platform)
        assert [proof for _entry, proof in proofs if proof.result == "differs"] == []
        assert len([proof for _entry, proof in proofs if proof.result == "agrees"]) >= 10


@pytest.mark.parametrize("target", STAND_INS)
def test_the_crews_keymap(target: str) -> None:
    keymap = Keymap(keymap_reading.load(DATA / "demo" / "crew.keys.toml", CATALOGUE, shipped.facts()))
    one = dialect(target)
    proofs = pressed(keymap, None, one, one)
    assert [proof for _entry, proof in proofs if proof.result != "agrees"] == []
    assert len(proofs) >= 30


def own(*rows: tuple[str, Outcome, str]) -> Keymap:
    return Keymap(
        [
            Layer(
                LayerName("k", "k"),
                [
                    Binding(parse(keys), outcome, Place("k"), LayerName("k", "k"), where)
                    for keys, outcome, where in rows
                ],
            )
        ]
    )


def broken(name: str) -> Dialect:
    """A stand-in read anew, to be broken without harm to the others."""
    return Dialects(Shipped(lambda path: tomllib.loads(path.read_text("utf-8")))).load(name)


ROWS, KEYS, POLICIES = 5, 3, 2


@pytest.mark.parametrize("name", STAND_INS)
def test_a_wrong_action_in_a_row_of_the_command_table_is_found(name: str) -> None:
    chance, true = random.Random(name), dialect(name)
    exact = [
        row.action
        for row in true.vocabulary.commands.values()
        if row.action in WITH_EFFECT and not row.action.startswith("select")
    ]
    section = true.description.sections[true.description.file.default_section]
    where = section if section != "always" else "pane is text"
    found = 0
    for _ in range(ROWS):
        real, said = chance.sample(exact, 2)
        wrong = broken(name)
        places = {real: said, said: real}  # the two have changed places in the table
        rows = {
            row_name: replace(row, action=places.get(row.action, row.action))
            for row_name, row in true.vocabulary.commands.items()
        }
        wrong.__dict__["vocabulary"] = Vocabulary(wrong.description, rows, {}, lambda: broken(name).spelling)
        proofs = pressed(own(("F5", Do(real), where)), None, wrong, true)
        found += [proof.result for _entry, proof in proofs] == ["differs"]
    assert found == ROWS


@pytest.mark.parametrize("name", STAND_INS)
def test_a_wrong_modifier_in_the_key_table_is_found(name: str) -> None:
    chance, true = random.Random(name), dialect(name)
    wrong = broken(name)
    words = wrong.description.keys.modifiers
    words["Ctrl"], words["Alt"] = words["Alt"], words["Ctrl"]
    default = {binding.trigger for binding in true.default_layer.bindings}
    section = true.description.sections[true.description.file.default_section]
    where = section if section != "always" else "pane is text"
    letters = [
        one for one in "abcdefghijklmnop" if parse(f"Ctrl+{one}") not in default and parse(f"Mod+{one}") not in default
    ]
    for letter in chance.sample(letters, KEYS):
        ((_entry, proof),) = pressed(own((f"Ctrl+{letter}", Do("edit.cut"), where)), None, wrong, true)
        assert proof.result == "differs"


@pytest.mark.parametrize("name", STAND_INS)
@pytest.mark.parametrize("part", ["wins", "prefix"])
def test_a_wrong_policy_is_found(name: str, part: str) -> None:
    """Of two bindings on the same keys, and of keys and their beginning, the policy chooses one."""
    true, wrong = dialect(name), broken(name)
    wins, prefix = true.policy.wins, true.policy.prefix
    wrong.policy = Policy("first" if wins == "last" else "last", prefix) if part == "wins" else Policy(wins, "fires")
    done = []
    for one in (true, wrong):
        staged = StagedEditor(one, [_ambiguous(one)], around(space_of(name), terminal=WINDOW))
        editor = staged.machine("a\n", 0, "not readonly")
        editor.press(parse("F11" if part == "wins" else "F6 x"))
        done.append([str(each.outcome) for each in editor.happened if each.outcome is not None])
    assert done[0] != done[1]


def _ambiguous(one: Dialect) -> Layer:
    rows = [("F11", "edit.cut", "pane is text and not readonly"), ("F11", "edit.copy", "pane is text"),
            ("F6", "cursor.up", "pane is text"), ("F6 x", "cursor.down", "pane is text")]  # fmt: skip
    if one.policy.wins == "innermost":
        rows[0] = ("F11", "edit.cut", "pane is text")
        rows[1] = ("F11", "tools.focus-outline", "not readonly")
    return Layer(
        LayerName("k", "k", "adopted"),
        [Binding(parse(keys), Do(action), Place("k"), LayerName("k", "k"), where) for keys, action, where in rows],
    )


def test_thirty_things_are_broken() -> None:
    assert len(STAND_INS) * (ROWS + KEYS + POLICIES) == 30


def test_what_was_taken_away_does_nothing_on_the_stage() -> None:
    heddle = dialect("heddle")
    proofs = pressed(own(("Ctrl+T", Nothing(), "pane is text")), None, heddle, heddle)
    assert [proof.result for _entry, proof in proofs] == ["agrees"]
    here = space_of("heddle")
    untouched = StagedEditor(heddle, [], around(here, terminal=WINDOW))
    editor = untouched.machine("a\n")
    editor.press(parse("Ctrl+T"))
    assert editor.state.text == "a\na\n"


def test_a_file_changed_by_hand_differs() -> None:
    heddle, here = dialect("heddle"), around(space_of("heddle"), terminal=WINDOW)
    keymap = own(("F5", Do("line.copy-down"), "pane is text"))
    file = port_keymap(keymap, keymap.in_force(LINUX).bindings, None, heddle, here)
    changed = read_file(heddle, file.text.replace("repeat-row", "drop-row"), "file").layer
    ((_entry, proof),) = prove_on_stage(file.entries, StagedEditor(heddle, [changed], here))
    assert (proof.result, proof.expected, proof.found) == ("differs", "line.copy-down", "line.delete")


def test_no_state_is_made_up() -> None:
    stage = StagedEditor(dialect("heddle"), [], around(space_of("heddle"), terminal=WINDOW))
    with pytest.raises(ValueError, match="mode is insert"):
        stage.machine("", 0, "mode is insert")
