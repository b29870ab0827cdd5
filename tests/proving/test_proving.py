"""Real editors, by pressing keys in them. `make test` installs them."""

import os
import time
from collections import Counter
from itertools import permutations
from pathlib import Path

import pytest

from ombix.core.deciding import decide_all
from ombix.core.errors import OutsideError, Place
from ombix.core.keymap import Binding, Keymap, Layer, LayerName
from ombix.core.keys import parse
from ombix.core.outcomes import Do, Only, Play
from ombix.core.porting import TargetCommand
from ombix.core.terminals import as_arriving
from ombix.data.shipped import DATA
from ombix.dialects.abilities import DescribedTarget
from ombix.dialects.porting import PortedFile, port_keymap
from ombix.dialects.reading import read_file
from ombix.dialects.writing import write_file
from ombix.effects.buffer import Settings
from ombix.proving.driver import Start, press, require
from ombix.proving.pressing import Bench, Claim, Proof, prove
from ombix.proving.probes import MARKER, TEXT, probes_for
from ombix.proving.sandbox import best_sandbox
from ombix.store import keymap_reading
from tests.helpers import REAL, WITH_EFFECT, around, dialect, shipped
from tests.helpers import editors_space as space

CATALOGUE = shipped.catalogue()
LINUX = shipped.platform("linux")
XTERM = shipped.terminal("xterm")


def pressed(name: str, config: str, wanted: list[Claim], section: str = "") -> list[Proof]:
    """What pressing shows in a section, without one in the default one."""
    one, here = dialect(name), space()
    layer = read_file(one, config, "config").layer
    decided = decide_all(
        as_arriving(Keymap([one.default_layer, layer]).in_force(LINUX).bindings, XTERM), here, CATALOGUE, one.policy
    )
    return prove(wanted, Bench(one, config, decided, XTERM, here, CATALOGUE, section))


def claim(keys: str, action: str) -> Claim:
    return Claim(parse(keys), Binding(parse(keys), Do(action), Place("x"), LayerName("x", "x"), "pane is text"))


def places(editor: str) -> list[str]:
    """The sections in which an editor edits text."""
    one = dialect(editor)
    program = one.description.program
    assert program is not None
    return list(program.modes) or [one.description.file.default_section]


PAIRS = [*permutations(REAL, 2), ("heddle", "micro"), ("oxbow", "kakoune"), ("tarn", "nano")]


@pytest.mark.parametrize(("source", "target"), PAIRS)
def test_after_a_port_of_all_defaults_no_exact_binding_differs(source: str, target: str) -> None:
    origin = dialect(source)
    keymap = Keymap([origin.default_layer])
    file = port_keymap(keymap, keymap.in_force(LINUX).bindings, origin, dialect(target), around(space()))
    exact = [entry for entry in file.entries if entry.verdict == "exact" and entry.trigger]
    results: Counter[str] = Counter()
    for section in places(target):
        wanted = [Claim(entry.trigger, entry.source) for entry in exact if entry.trigger and section in entry.sections]
        proofs = pressed(target, file.text, wanted, section)
        assert [proof for proof in proofs if proof.result == "differs"] == []
        results.update(proof.result for proof in proofs)
    assert results["agrees"] >= FEWEST[source], results


FEWEST = {"ex": 0, "joe": 2, "kakoune": 0, "micro": 4, "nano": 4, "heddle": 4, "oxbow": 4, "tarn": 4}
"""Exact bindings of each source that have to agree when they are pressed; a source with modes has few that anybody can."""


@pytest.mark.parametrize(("name", "section"), [(name, section) for name in REAL for section in places(name)])
def test_every_command_that_can_be_written_for_an_action_with_an_effect_has_that_effect(
    name: str, section: str
) -> None:
    """The command table itself, row by row: what is not noted as different does not differ."""
    one, here = dialect(name), space()
    keys = ["F5", "F6", "F8", "F9", "F11", "F12", "Alt+T", "Alt+Y", "Alt+J", "Alt+K", "Alt+O"]
    rows = {action: found for action in WITH_EFFECT if (found := means(name, action, section)) is not None}
    assert len(rows) > 12
    results: Counter[str] = Counter()
    unchecked: list[tuple[str, str]] = []
    for start in range(0, len(rows), len(keys)):
        batch = list(zip(keys, list(rows)[start : start + len(keys)], strict=False))
        where = one.description.sections[section]
        bindings = [
            Binding(parse(key), Do(action) if one.vocabulary.command_for(Do(action), section) else Only(name, rows[action].written),
                    Place("x"), "x", where)
            for key, action in batch
        ]  # fmt: skip
        config = write_file(one, Layer(LayerName("x", "x", "adopted"), bindings), here, CATALOGUE)
        for (_, action), proof in zip(
            batch, pressed(name, config, [claim(*pair) for pair in batch], section), strict=True
        ):
            if not rows[action].differs:
                assert proof.result != "differs", (action, proof)
            results[proof.result] += 1
            unchecked += [(action, proof.reason)] if proof.result == "not checked" else []
    assert results["agrees"] > 5, (results, unchecked)
    assert results["not checked"] <= 4, unchecked


def means(name: str, action: str, section: str) -> TargetCommand | None:
    """What the port writes for an action, one command or several."""
    return DescribedTarget(dialect(name)).command_for(Do(action), section)


@pytest.mark.parametrize("name", REAL)
def test_a_key_that_does_something_else_differs_and_both_texts_are_shown(name: str) -> None:
    config = {
        "micro": '{"F5": "EndOfLine"}', "nano": "bind F5 end main\n", "joe": ":include joerc\n\n:main\neol\t.k5\n",
        "kakoune": "map global insert <F5> <end>\n", "ex": "map! #5 \x16\x1bA\n",
    }[name]  # fmt: skip
    section = places(name)[-1]
    (proof,) = pressed(name, config, [claim("F5", "cursor.line-start")], section)
    assert proof.result == "differs"
    assert proof.expected == TEXT.replace("one two_three", f"{MARKER}one two_three")
    assert proof.found == TEXT.replace("three four", f"three four{MARKER}")


@pytest.mark.parametrize(
    ("keys", "action", "why"),
    [
        ("F5", "files.open", "its effect is not only on text"),
        ("Meta+K", "cursor.left", "no code for this modifier"),
        ("Shift Shift", "cursor.left", "pressed alone"),
    ],
)
def test_what_cannot_be_checked_says_why(keys: str, action: str, why: str) -> None:
    (proof,) = pressed("nano", "", [claim(keys, action)])
    assert proof.result == "not checked"
    assert why in proof.reason


def test_without_a_key_that_saves_nothing_can_be_checked() -> None:
    (proof,) = pressed("nano", "unbind ^S main\n", [claim("Home", "cursor.line-start")])
    assert proof.result == "not checked"
    assert "no key saves" in proof.reason


def test_an_editor_that_stops_at_its_start_with_a_question_is_no_result() -> None:
    (proof,) = pressed("micro", '{"F5": "lua:nowhere.nothing"}', [claim("Home", "cursor.text-start-or-line-start")])
    assert proof.result == "not checked"
    assert "stopped at its start" in proof.reason


def _children() -> set[str]:
    """The names of all processes below this one."""
    found = {}
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            try:
                name, rest = (entry / "stat").read_text().split("(", 1)[1].rsplit(")", 1)
            except OSError:
                continue
            found[int(entry.name)] = (name, int(rest.split()[1]))
    below, names = {os.getpid()}, set()
    for _ in found:
        for pid, (name, parent) in found.items():
            if parent in below and pid not in below:
                below.add(pid)
                names.add(name)
    return names


def test_a_press_ends_in_bounded_time_and_leaves_no_process_behind(tmp_path: Path) -> None:
    program = dialect("nano").description.program
    assert program is not None
    before = time.monotonic()
    # The key opens a prompt, so that the text cannot be saved.
    result = press(program, Start("nanorc", "", "text\n"), [b"\x17"], b"\x13", best_sandbox())
    assert time.monotonic() - before < 12
    assert result.text is None
    assert "not saved" in result.reason
    assert not {"nano", "micro"} & _children()


def test_an_editor_leaves_nothing_in_the_folders_that_all_share() -> None:
    def shared() -> set[Path]:
        folders = [Path("/tmp"), Path("/run")]
        return {path for folder in folders for path in folder.glob("*kak*/*")}

    before = shared()
    (proof,) = pressed("kakoune", "", [claim("Home", "cursor.line-start")], "insert")
    assert proof.result == "agrees"
    assert shared() <= before


def test_an_editor_that_is_not_there_is_an_outside_fault(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    program = dialect("nano").description.program
    assert program is not None
    monkeypatch.setenv("PATH", str(tmp_path))
    with pytest.raises(OutsideError, match="nano is not installed"):
        require(program)


@pytest.mark.parametrize("action", WITH_EFFECT)
def test_every_effect_has_a_probe_in_which_it_can_be_seen(action: str) -> None:
    """A probe that gives the same text whether or not the key is pressed proves nothing."""
    for replaces, by in ((True, ""), (False, "edit.discard")):
        telling = 0
        for probe in probes_for(action, replaces, by, CATALOGUE):
            settings = Settings(typing_replaces_selection=replaces)
            telling += probe.expected(action, settings, CATALOGUE) != probe.expected((), settings, CATALOGUE)
        assert telling


@pytest.mark.parametrize("name", REAL)
def test_the_crews_keymap_is_taken_by_every_real_editor(name: str) -> None:
    """A file may be read back as it was meant and still make the editor stop at its start."""
    file, keymap = crew(name)
    exact = [entry for entry in file.entries if entry.verdict == "exact" and entry.trigger]
    section = places(name)[-1]
    wanted = [Claim(entry.trigger, entry.source) for entry in exact if entry.trigger and section in entry.sections]
    macros = [entry for entry in file.entries if isinstance(entry.source.outcome, Play) and section in entry.sections]
    wanted += [Claim(one.trigger, one.source, keymap.macros["wrap-crossing"].steps) for one in macros if one.trigger]
    proofs = pressed(name, file.text, wanted, section)
    assert [proof for proof in proofs if proof.result == "differs" and "macro wrap" not in proof.action] == []
    assert [proof for proof in proofs if proof.reason.startswith("the editor")] == []
    assert len([proof for proof in proofs if proof.result == "agrees"]) >= 2
    # nano and joe have the cursor where the macro needs it; in the others a character is missing or too many.
    (macro,) = [proof.result for proof in proofs if "macro wrap" in proof.action] or ["cannot be written"]
    assert macro == {"nano": "agrees", "joe": "agrees", "micro": "cannot be written"}.get(name, macro)


def crew(target: str) -> tuple[PortedFile, Keymap]:
    """The demo's keymap, ported."""
    catalogue, facts = shipped.catalogue(), shipped.facts()
    keymap = Keymap(keymap_reading.load(DATA / "demo" / "crew.keys.toml", catalogue, facts))
    here = keymap.space(facts.extended(dialect(target).facts, []))
    return (
        port_keymap(keymap, keymap.in_force(LINUX).bindings, None, dialect(target), around(here)), keymap
    )  # fmt: skip
