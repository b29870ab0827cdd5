"""Real editors, by pressing keys in them. `make test` installs them."""

import os
import random
from itertools import permutations
from pathlib import Path

import pytest
from msgspec.structs import replace

from ombix.core.errors import InputError, OutsideError, Place
from ombix.core.keymap.bindings import Binding, Keymap, LayerName
from ombix.core.keymap.deciding import decide_all
from ombix.core.keymap.outcomes import Do, Play
from ombix.core.keys.notation import parse
from ombix.core.porting import TargetCommand
from ombix.core.pressing.terminals import as_arriving
from ombix.data.shipped import DATA
from ombix.editors.abilities import DescribedTarget
from ombix.editors.command_effects import EffectJudge
from ombix.editors.editor_porting import PortedFile, port_keymap
from ombix.editors.file_reading import read_file
from ombix.evidence.editor_host import EditorHost, press, require
from ombix.evidence.editor_run import Start
from ombix.evidence.key_proof import Claim, EditorSetup, Proof, check_start, prove
from ombix.evidence.probes import MARKER, TEXT, probes_for
from ombix.evidence.sandbox import best_sandbox
from ombix.files import keymap_reading
from ombix.text.effects.buffer import Settings
from ombix.work.carry import carry_questions
from ombix.work.carry.apply import ApplyOptions
from ombix.work.carry.prove import press_all
from ombix.workspace.open_workspace import OpenWorkspace
from tests.helpers import REAL, WITH_EFFECT, around, dialect, others_in_all, seed, shipped, told
from tests.helpers import editors_space as space

CATALOGUE = shipped.catalogue()
LINUX = shipped.platform("linux")
XTERM = shipped.terminal("xterm")


def pressed(name: str, config: str, wanted: list[Claim], section: str = "") -> list[Proof]:
    """What pressing shows in a section, without one in the default one."""
    one, here = dialect(name), space()
    layer = read_file(one, config, "config").layer
    decided = decide_all(
        as_arriving(Keymap([one.default_layer, layer]).in_force(LINUX).bindings, one.terminal),
        here,
        CATALOGUE,
        one.policy,
    )
    return prove(wanted, EditorSetup(one, config, decided, one.terminal, here, CATALOGUE, section))


def claim(keys: str, action: str) -> Claim:
    return Claim(parse(keys), Binding(parse(keys), Do(action), Place("x"), LayerName("x", "x"), "pane is text"))


def places(editor: str) -> list[str]:
    """The sections in which an editor edits text."""
    return dialect(editor).edited_sections


FIRST = ("micro", "nano", "joe", "ex", "kakoune")
# Each of them as a source and as a target.
USUAL = [*zip(FIRST, (*FIRST[1:], FIRST[0]), strict=True), *zip(FIRST, (*FIRST[2:], *FIRST[:2]), strict=True),
         ("heddle", "micro"), ("oxbow", "kakoune"), ("tarn", "nano")]  # fmt: skip
PAIRS = [
    *USUAL, *(pytest.param(*pair, marks=pytest.mark.every_pair) for pair in permutations(REAL, 2) if pair not in USUAL),
]  # fmt: skip


@pytest.mark.long
@pytest.mark.parametrize(("source", "target"), PAIRS)
def test_ported_defaults_do_at_a_dozen_places_what_their_verdicts_say(source: str, target: str, tmp_path: Path) -> None:
    """A few keys of each pair, others with each seed; all of them: tools/try_pairs.py."""
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    (made,) = carry_questions.make_ports(session, target, source=source, careful=True)
    actions = CATALOGUE.actions
    about_text = [
        entry for entry in made.file.entries
        if entry.trigger and isinstance(entry.source.outcome, Do) and actions[entry.source.outcome.action].effect
    ]  # fmt: skip
    few = random.Random(seed()).sample(about_text, min(6, len(about_text)))
    some = made._replace(file=replace(made.file, entries=tuple(few)))
    proved = press_all(some, made.file.text, "port", False, lambda count: lambda: None)
    # What is done to a text; whether keys reach their command is tried in test_reaching.
    assert [(one.proof, one.entry.how) for one in proved if one.proof.result == "differs" and one.proof.probes] == [], (
        seed()
    )
    assert not [one.proof for one in proved if "stopped at its start" in one.proof.reason]
    assert about_text


def means(name: str, action: str, section: str) -> TargetCommand | None:
    """What the port writes for an action, one command or several."""
    return DescribedTarget(dialect(name)).command_for(Do(action), section)


@pytest.mark.parametrize("name", REAL)
def test_a_key_that_does_something_else_differs_and_both_texts_are_shown(name: str) -> None:
    config = {
        "micro": '{"F5": "EndOfLine"}', "nano": "bind F5 end main\n", "joe": ":include joerc\n\n:main\neol\t.k5\n",
        "kakoune": "map global insert <F5> <end>\n", "ex": "map! #5 \x16\x1bA\n", "dte": "bind F5 'eol'\n",
        "mcedit": "[editor]\nEnd = f5; end\n", "geany": "[Bindings]\nbuild_run=\nedit_gotolineend=F5\n",
        "mousepad": '(gtk_accel_path "<Actions>/win.edit.delete-selection" "F5")\n',
        "kate": '<gui name="katepart" version="1"><ActionProperties scheme="ombix"><Action name="file_save" shortcut="Ctrl+S"/>'
        '<Action name="end_of_line" shortcut="F5"/></ActionProperties></gui>\n',
    }[name]  # fmt: skip
    section = places(name)[-1]
    (proof,) = pressed(name, config, [claim("F5", "cursor.line-start")], section)
    assert proof.result == "differs"
    assert proof.expected == TEXT.replace("one two_three", f"{MARKER}one two_three")
    at_end = TEXT.replace("three four", f"three four{MARKER}")
    # What mousepad's file names moves no cursor.
    assert proof.found == (TEXT.replace("three", f"{MARKER}hree") if name == "mousepad" else at_end)


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


def test_a_press_ends_and_leaves_no_process_behind(tmp_path: Path) -> None:
    program = dialect("nano").description.program
    assert program is not None
    # The key opens a prompt, so that the text cannot be saved.
    result = press(program, Start("nanorc", "", "text\n"), [b"\x17"], b"\x13", EditorHost(best_sandbox()))
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


@pytest.mark.parametrize("action", [one for one in WITH_EFFECT if not told(one)])
def test_every_effect_has_a_probe_in_which_it_can_be_seen(action: str) -> None:
    """A probe that gives the same text whether or not the key is pressed proves nothing."""
    for replaces, by in ((True, ""), (False, "edit.discard")):
        telling = 0
        for probe in probes_for(action, replaces, by, CATALOGUE):
            settings = Settings(typing_replaces_selection=replaces)
            telling += probe.expected(action, settings, CATALOGUE) != probe.expected((), settings, CATALOGUE)
        assert telling


@pytest.mark.every_pair
@pytest.mark.parametrize("name", sorted(set(REAL) - set(FIRST)))
def test_the_crews_keymap_reaches_its_commands_in_the_newer_editors(name: str) -> None:
    session = OpenWorkspace(folder=str(DATA / "demo"), state="")
    (made,) = carry_questions.make_ports(session, name)
    proved = press_all(made, made.file.text, "port", False, lambda count: lambda: None)
    results = [one.proof.result for one in proved]
    assert [one.proof for one in proved if one.proof.result == "differs" and one.entry.verdict == "exact"] == []
    assert results.count("agrees") >= 3
    assert [one.proof for one in proved if "the editor ended at its start" in one.proof.reason] == []


@pytest.mark.parametrize("name", FIRST)
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
    # In a vi-like editor hardly any key of an editor without modes does exactly the same.
    assert len([proof for proof in proofs if proof.result == "agrees"]) >= (0 if name in ("ex", "kakoune") else 1)
    # nano and joe have the cursor where the macro needs it; in the others a character is missing or too many.
    (macro,) = [proof.result for proof in proofs if "macro wrap" in proof.action] or ["cannot be written"]
    assert macro == {"nano": "agrees", "joe": "agrees", "micro": "cannot be written"}.get(name, macro)


def crew(target: str) -> tuple[PortedFile, Keymap]:
    """The demo's keymap, ported."""
    catalogue, facts = shipped.catalogue(), shipped.facts()
    keymap = Keymap(keymap_reading.load(DATA / "demo" / "crew.keys.toml", catalogue, facts))
    here = keymap.space(facts.extended(dialect(target).facts, []))
    return port_keymap(keymap, keymap.in_force(LINUX).bindings, None, dialect(target), around(here)), keymap


@pytest.mark.parametrize(
    ("name", "config"),
    [
        ("ex", "nonsense\n"), ("kakoune", "nonsense\n"), ("nano", "bind nosuch home main\n"), ("joe", ":main\n"),
        ("micro", '{"F5": "NoSuchCommand"}'),
    ],
)  # fmt: skip
def test_an_editor_that_does_not_take_its_file_fails_the_proof(name: str, config: str) -> None:
    one = dialect(name)
    with pytest.raises(OutsideError, match="does not take the file"):
        check_start(EditorSetup(one, config, {}, XTERM, space(), CATALOGUE))
    empty = {"joe": ":include joerc\n", "micro": "{}"}.get(name, "")
    check_start(EditorSetup(one, empty, {}, XTERM, space(), CATALOGUE))


FILES = {
    "micro": ("bindings.json", '{"Alt-j": "CursorDown,CursorDown", "Alt-k": "DeleteLine", "Alt-i": "InsertTab"}'),
    "nano": (".nanorc", 'set tabsize 3\nset tabstospaces\nbind M-J "{home}# {end}" main\nbind M-K tab main\n'),
    "joe": (".joerc", "-tab 4\n:include joerc\n\n:main\neol,rtn\t^[ j\ndellin\t^[ k\n"),
    "ex": (".exrc", "map J jj\nmap K J\nmap! \x16\x01 \x16\x1b0i\n"),
    "kakoune": ("kakrc", "map global goto n e\nmap global normal D xd\nmap global insert <c-e> <end>\n"),
    "dte": ("rc", "set tab-width 4\nbind M-j 'down; down'\nbind M-k 'delete-line'\nbind M-i eol\n"),
    "mcedit": ("mc.keymap", "[editor]\nDown = alt-j; down\nDeleteLine = alt-k\nEnd = alt-i; end\n"),
    "geany": ("keybindings.conf", "[Bindings]\nedit_deleteline=<Alt>k\nedit_gotolineend=<Alt>i\nmenu_undo=<Primary>d\n"),
    "mousepad": (
        "accels.scm", '(gtk_accel_path "<Actions>/win.edit.delete-selection" "<Alt>k")\n'
        '(gtk_accel_path "<Actions>/win.edit.select-all" "<Alt>i")\n',
    ),
    "kate": (
        "ombix", '<gui name="katepart" version="1"><ActionProperties scheme="ombix"><Action name="file_save" '
        'shortcut="Ctrl+S"/><Action name="end_of_line" shortcut="Alt+A"/><Action name="move_cursor_right" '
        'shortcut="Alt+K"/><Action name="edit_select_all" shortcut="Alt+B"/></ActionProperties></gui>\n',
    ),
}  # fmt: skip
"""Files of the real editors with a setting or an odd construct each, and what they are called."""


@pytest.mark.long
@pytest.mark.parametrize("source", others_in_all(REAL, "nano", "ex", "mousepad"))
def test_keys_are_pressed_in_the_source_as_well(source: str, tmp_path: Path) -> None:
    name, text = FILES[source]
    (tmp_path / name).write_text(text)
    (tmp_path / "settings.json").write_text('{ "tabstospaces": true, "tabsize": 2 }')
    target = "kakoune" if source == "ex" else "ex" if source == "kakoune" else "nano" if source == "micro" else "micro"
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    found = carry_questions.prove(session, target, source=str(tmp_path / name), press_in="both")
    assert found.against is not None
    assert [(one.keys, one.reason, one.expected, one.found) for one in found.keys if one.result == "differs"] == []
    assert [one.in_source for one in found.keys].count("agrees") >= 1
    assert found.exact_that_differ == found.adapted_that_differ_otherwise == 0


@pytest.mark.parametrize(
    ("target", "name", "text"),
    [
        ("nano", "kakrc", "map global normal i a\nmap global normal X xd\n"),
        ("kakoune", ".exrc", "map i a\nmap X dd\n"),
    ],
)
def test_a_key_that_shows_what_the_others_do_is_left_as_it_is(
    target: str, name: str, text: str, tmp_path: Path
) -> None:
    (tmp_path / name).write_text(text)
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    found = carry_questions.prove(session, target, source=str(tmp_path / name), press_in="both")
    results = {one.action: (one.result, one.in_source) for one in found.keys}
    assert results.pop("edit.cut-line") == ("agrees", "agrees")
    assert {result for result, _in_source in results.values()} <= {"not checked"}


def test_a_source_that_does_something_else_than_is_taken_for_granted_differs(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / ".nanorc").write_text("bind M-K end main\n")
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    (made,) = carry_questions.make_ports(session, "micro", source=str(tmp_path / ".nanorc"))
    monkeypatch.setattr(EffectJudge, "_effect", lambda self, dialect, part: ("go line-start", ""))
    (one,) = press_all(made, made.file.text, "port", False, lambda count: lambda: None, dialect("nano"))
    assert one.in_source is not None
    assert one.in_source.result == "differs"


def test_a_keymap_of_ones_own_has_no_source_to_be_pressed_in(tmp_path: Path) -> None:
    (tmp_path / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\n')
    (tmp_path / "k.keys.toml").write_text('format = 1\nname = "k"\n[bind.cursor]\nline-start = "F5"\n')
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    with pytest.raises(InputError, match="of no editor that could be pressed in"):
        carry_questions.prove(session, "nano", press_in="both")


def test_an_applied_file_is_pressed_under_the_settings_that_stand_beside_its_block(tmp_path: Path) -> None:
    (tmp_path / "k.keys.toml").write_text(
        'format = 1\nname = "k"\n[bind.cursor]\ndocument-start = "Alt+A"\n[bind.line]\nindent = "Alt+I"\ndelete = "Alt+K"\n'
    )
    (tmp_path / "ombix.toml").write_text(
        'format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n[editor.pier]\ndialect = "nano"\nfile = "rc"\n'
    )
    (tmp_path / "rc").write_text("set tabsize 3\nset tabstospaces\nbind F12 cut main\n")
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    (applied,) = carry_questions.apply(session, ApplyOptions(agreed=("all",))).editors
    assert applied.did == "written"
    proved = carry_questions.prove(session, "pier", file="rc")
    assert [(one.keys, one.reason) for one in proved.keys if one.result == "differs"] == []
    assert sum(one.result == "agrees" for one in proved.keys) >= 2
