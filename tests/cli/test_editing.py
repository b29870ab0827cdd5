"""Edits by meaning at the command line: moved, narrowed, one of several taken away, on the right layer, audited first."""

import sys
from pathlib import Path

import pexpect
import pytest
import tomli

from tests.helpers import ROOT, ombix, program

sys.path.insert(0, str(ROOT / "tools"))

import try_layer_edits

OWN = """\
format = 1
name = "own"
extends = ["house.keys.toml"]

[bind.line]
copy-down = ["Alt+C", "F5"]   # by day and by night

[bind.files]
save = "Mod+S"
"""
HOUSE = """\
format = 1
name = "house"

[bind.line]
delete = ["Alt+K", "F6"]
sort = "Alt+S"
"""


@pytest.fixture
def place(tmp_path: Path) -> Path:
    """A workspace with a keymap that stands on another one, and an editor."""
    folder = tmp_path / "place"
    folder.mkdir()
    (folder / "ombix.toml").write_text(
        'format = 1\nkeymap = "own.keys.toml"\nplatform = "linux"\n\n[editor.pier]\ndialect = "nano"\n'
    )
    (folder / "own.keys.toml").write_text(OWN)
    (folder / "house.keys.toml").write_text(HOUSE)
    return folder


def own(place: Path) -> str:
    return (place / "own.keys.toml").read_text()


def house(place: Path) -> str:
    return (place / "house.keys.toml").read_text()


def does(place: Path, keys: str) -> str:
    """What keys do, by the action's name; empty for nothing."""
    import json

    rows = json.loads(ombix(place, "what", keys, "--json").out)["decisions"]
    return rows[0]["does"] if rows else ""


def test_one_key_of_an_action_is_moved_and_the_rest_of_the_line_stays(place: Path) -> None:
    ran = ombix(place, "move", "line.copy-down", "F5", "F7")
    assert ran.status == 0
    assert own(place) == OWN.replace('"F5"', '"F7"')
    assert ombix(place, "move", "F7", "F5").status == 0
    assert own(place) == OWN


def test_what_a_lower_layer_binds_is_said_anew_with_its_other_keys(place: Path) -> None:
    assert ombix(place, "move", "line.delete", "F6", "F7").status == 0
    assert house(place) == HOUSE
    assert (does(place, "F7"), does(place, "Alt+K"), does(place, "F6")) == ("line.delete", "line.delete", "")
    assert ombix(place, "undo").status == 0
    assert ombix(place, "move", "line.sort", "F7").status == 0
    assert (does(place, "F7"), does(place, "Alt+S")) == ("line.sort", "")


def test_another_layer_is_changed_where_it_is_named(place: Path) -> None:
    assert ombix(place, "move", "line.delete", "F6", "F7", "--layer", "house").status == 0
    assert own(place) == OWN
    assert house(place) == HOUSE.replace('"F6"', '"F7"')
    assert ombix(place, "bind", "line.join", "F8", "--layer", "house.keys.toml").status == 0
    assert 'join = "F8"' in house(place)
    wrong = ombix(place, "bind", "line.join", "F8", "--layer", "hose")
    assert (wrong.status, "Did you mean house?" in wrong.err) == (2, True)


def test_an_adopted_layer_is_not_changed(place: Path) -> None:
    (place / "nanorc").write_text("bind F9 cut main\n")
    assert ombix(place, "adopt", "nanorc", "--editor", "pier").status == 0
    refused = ombix(place, "bind", "line.join", "F8", "--layer", "pier")
    assert (refused.status, "adopted" in refused.err) == (2, True)
    assert ombix(place, "move", "F9", "F10").status == 0
    assert does(place, "F9") in ("", "nothing")
    assert does(place, "F10").startswith("edit.cut")


def test_a_binding_is_narrowed_and_never_to_nothing(place: Path) -> None:
    assert ombix(place, "narrow", "line.copy-down", "F5", "--where", "modified").status == 0
    assert 'copy-down = ["Alt+C", { press = "F5", where = "modified" }]   # by day' in own(place)
    refused = ombix(place, "narrow", "line.copy-down", "F5", "--where", "not modified")
    assert (refused.status, "would never apply" in refused.err) == (2, True)
    assert ombix(place, "narrow", "line.copy-down", "F5", "--where", "not readonly").status == 0
    assert 'where = "modified and not readonly"' in own(place)
    assert ombix(place, "narrow", "line.copy-down", "F5", "--where", "always").status == 0
    assert own(place) == OWN


def test_one_of_several_keys_is_taken_away(place: Path) -> None:
    assert ombix(place, "unbind", "line.copy-down", "F5").status == 0
    assert own(place) == OWN.replace('["Alt+C", "F5"]', '"Alt+C"')
    said = ombix(place, "unbind", "line.copy-down", "Alt+C").out
    assert "No keys are left for “Copy the line down”" in said
    assert ombix(place, "unbind", "line.delete", "F6").status == 0
    assert (does(place, "F6"), does(place, "Alt+K")) == ("", "line.delete")


def test_a_command_of_one_editor_a_macro_and_a_family_are_edited_as_well(place: Path) -> None:
    assert ombix(place, "bind", "flipnewbuffer", "Alt+Z", "--editor", "pier").status == 0
    assert ombix(place, "move", "Alt+Z", "Alt+5").status == 0
    assert 'flipnewbuffer = "Alt+5"' in own(place)
    assert ombix(place, "unbind", "Alt+5").status == 0
    assert "flipnewbuffer" not in own(place)
    for _ in range(3):
        assert ombix(place, "undo").status == 0
    assert own(place) == OWN
    macro = '\n[macro.twice]\npress = "F11"\nsteps = [{ do = "line.copy-down" }, { do = "line.copy-down" }]\n'
    (place / "own.keys.toml").write_text(OWN + macro)
    assert ombix(place, "move", "F11", "F10").status == 0
    assert own(place) == OWN + macro.replace("F11", "F10")
    assert ombix(place, "bind", "bookmark.set", "F9 {n:1-3}").status == 0
    assert ombix(place, "move", "bookmark.set", "F8 {n:1-3}").status == 0
    assert does(place, "F8 2") == "bookmark.set(slot=2)"


def test_what_is_not_bound_is_said(place: Path) -> None:
    for call in (
        ("move", "F11", "F12"),
        ("narrow", "app.help", "--where", "modified"),
        ("unbind", "app.help", "F1"),
    ):
        refused = ombix(place, *call)
        assert (refused.status, "bound" in refused.err or "binds nothing" in refused.err) == (2, True), call
        assert own(place) == OWN
    for call in (("move", "", "F9"), ("unbind", ""), ("narrow", " ", "--where", "modified")):
        assert "what is meant?" in ombix(place, *call).err
        assert own(place) == OWN
    assert ombix(place, "move", "Ctlr+K", "F12").status == 2
    assert ombix(place, "move", "line.copy-down", "Hmoe").status == 2


def test_new_errors_are_refused_without_anyway_and_dry_runs_write_nothing(place: Path) -> None:
    refused = ombix(place, "move", "files.save", "F5")
    assert (refused.status, own(place)) == (1, OWN)
    assert "New: clash, error" in refused.out
    assert ombix(place, "move", "files.save", "F5", "--dry-run").status == 1
    assert ombix(place, "move", "files.save", "F12", "--dry-run").status == 0
    assert own(place) == OWN
    assert ombix(place, "move", "files.save", "F5", "--anyway").status == 0
    assert 'save = "F5"' in own(place)


def _at_a_terminal(place: Path, *call: str) -> pexpect.spawn:
    home = place.parent / "home"
    environment = {"PATH": "/usr/bin:/bin", "HOME": str(home), "OMBIX_HOME": str(home), "TERM": "xterm", "LANG": "C.UTF-8",
                   "XKB_DEFAULT_LAYOUT": "us", "NO_COLOR": "1"}  # fmt: skip
    return pexpect.spawn(
        program(), list(call), cwd=str(place), env=environment, timeout=30, encoding="utf-8", dimensions=(40, 100)
    )


def test_keys_are_proposed_and_one_is_taken_at_a_terminal(place: Path) -> None:
    proposed = ombix(place, "bind", "line.join")
    assert (proposed.status, own(place)) == (1, OWN)
    assert "Take one with: ombix bind line.join KEYS" in proposed.err
    first = proposed.out.split("\n")[2].split()[0]
    asked = _at_a_terminal(place, "bind", "line.join")
    asked.expect("keys for .*none\\)")
    asked.sendline("1")
    asked.expect(pexpect.EOF)
    asked.close()
    assert asked.exitstatus == 0
    assert f'join = "{first}"' in own(place)
    assert does(place, first) == "line.join"


def test_ways_out_are_asked_for_at_a_terminal(place: Path) -> None:
    assert ombix(place, "bind", "line.join", "F5", "--anyway").status == 0
    before = own(place)
    asked = _at_a_terminal(place, "settle", "--rule", "clash")
    asked.expect("which way")
    asked.sendline("q")
    asked.expect(pexpect.EOF)
    assert own(place) == before
    asked = _at_a_terminal(place, "settle", "--rule", "clash")
    asked.expect("which way")
    asked.sendline("1")
    asked.expect("1 finding settled by 1 change; 0 left")
    asked.expect(pexpect.EOF)
    asked.close()
    assert asked.exitstatus == 0
    assert own(place) != before
    assert ombix(place, "audit", "--rule", "clash").status == 0


def test_the_first_time_is_asked_at_a_terminal(place: Path) -> None:
    for answer, is_written in (("n", False), ("y", True)):
        asked = _at_a_terminal(place, "apply")
        asked.expect("for pier\\?")
        asked.sendline(answer)
        asked.expect(pexpect.EOF)
        asked.close()
        assert (place.parent / "home" / ".nanorc").exists() == is_written
        assert asked.exitstatus == (0 if is_written else 1)


def test_what_cannot_be_is_refused(place: Path) -> None:
    for call, said in (
        (("settle", "--take", "most"), "--take best or --take all"),
        (("settle", "--plan", "nowhere.toml"), "there is no such file"),
        (("settle", "--plan", "x.toml", "--take", "all"), "Leave out"),
        (("settle", "--rule", "clahs"), "Did you mean clash?"),
        (("apply", "--adopt", "--overwrite"), "Choose one"),
        (("apply", "--to", "peir"), "Did you mean pier?"),
        (("status", "nano"), "the workspace names no editor nano"),
        (("effort", "Hmoe"), "Did you mean Home"),
        (("effort", "F8", "--keyboard", "splti"), "Did you mean split?"),
        (("free", "lien.sort"), "Did you mean line.sort"),
        (("free", "--in", "pane is txet"), "Did you mean text"),
        (("undo", "nope"), "See: ombix undo --list"),
        (("bind", "flipnewbuffer", "--editor", "pier"), "takes keys"),
    ):
        refused = ombix(place, *call)
        assert (refused.status, said in " ".join(refused.err.split())) == (2, True), (call, refused.err)


def test_free_keys_are_free(place: Path) -> None:
    import json

    found = json.loads(ombix(place, "free", "line.join", "--count", "40", "--json").out)
    assert len(found["keys"]) >= 20
    seconds = [one["seconds"] for one in found["keys"] if not one["displaces"] and not one["reasons"]]
    assert seconds == sorted(seconds)
    for one in found["keys"][:6]:
        assert does(place, one["keys"]) == ""
        said = ombix(place, "bind", "line.join", one["keys"], "--dry-run")
        assert said.status == 0
        assert "New: clash" not in said.out
    taken = json.loads(ombix(place, "free", "--keys", "Alt+C", "--json").out)["taken"]
    assert taken == [{"platform": "linux", "reason": "it is line.copy-down"}]
    assert ombix(place, "free", "--keys", "Alt+C").status == 1


def test_edits_in_three_layers_change_what_they_say_and_nothing_else() -> None:
    """See tools/try_layer_edits.py: all decisions before and after, on each platform and in each of some states."""
    ends = [try_layer_edits.fault(seed) for seed in range(60)]
    assert [what for _end, what in ends if what] == []
    assert len({end for end, _what in ends}) >= 8


def layered(place: Path, house: str, own: str = "") -> Path:
    """A workspace whose keymap extends the house's."""
    (place / "house.keys.toml").write_text(f'format = 1\nname = "house"\n{house}')
    (place / "own.keys.toml").write_text(f'format = 1\nname = "own"\nextends = ["house.keys.toml"]\n{own}')
    (place / "ombix.toml").write_text('format = 1\nkeymap = "own.keys.toml"\nplatform = "linux"\n')
    return place / "own.keys.toml"


def test_two_keys_of_a_lower_layer_are_narrowed_both(place: Path) -> None:
    own = layered(place, 'bind.files.save = ["F2", "F5"]\n')
    assert ombix(place, "narrow", "files.save", "--where", "readonly").status == 0
    assert tomli.loads(own.read_text())["bind"]["files"]["save"] == [
        {"press": "F2", "where": "readonly"}, {"press": "F5", "where": "readonly"},
    ]  # fmt: skip


def test_what_else_is_on_the_keys_stays(place: Path) -> None:
    (place / "rc").write_text("bind F2 savefile main\n")
    own = layered(place, "")
    assert ombix(place, "adopt", "rc", "--editor", "nano").status == 0
    assert ombix(place, "bind", "files.open", "F2", "--where", "readonly").status == 0
    assert ombix(place, "unbind", "files.save", "F2").status == 0
    assert "files.open" in ombix(place, "what", "F2", "--in", "readonly").out
    assert "nothing" in ombix(place, "what", "F2", "--in", "not readonly").out.lower()
    assert "unbind" in own.read_text()


def test_what_a_change_would_take_from_others_is_refused(place: Path) -> None:
    own = layered(place, 'bind.files.save = "F2"\nbind.edit.cut = "F3"\n')
    before = own.read_text()
    ran = ombix(place, "move", "files.save", "F3")
    assert ran.status == 1
    assert "It would take F3 from “Cut”" in " ".join(ran.out.split())
    assert own.read_text() == before
    assert ombix(place, "move", "files.save", "F3", "--anyway").status == 0
    assert 'save = "F3"' in own.read_text()


def test_a_condition_with_a_name_means_what_it_meant(place: Path) -> None:
    own = layered(
        place, 'bind.files.save = [{ press = "F2", where = "busy" }, "F5"]\n[where]\nbusy = "program is running"\n',
        '[where]\nbusy = "readonly"\n',
    )  # fmt: skip
    assert ombix(place, "move", "files.save", "F5", "F6").status == 0
    assert "program is running" in own.read_text()
    assert "files.save" in ombix(place, "what", "F2", "--in", "program is running").out


def test_a_key_of_one_platform_does_not_fall_back_to_that_of_all(place: Path) -> None:
    own = layered(place, "", 'bind.files.save = { press = "F2", mac = "F4" }\n')
    assert ombix(place, "unbind", "files.save", "F4").status == 0
    assert 'save = { press = "F2", mac = false }' in own.read_text()
    assert (
        "nothing" in ombix(place, "what", "F2", "--on", "mac").out.lower()
        or "no" in ombix(place, "what", "F2", "--on", "mac").out
    )


def test_the_default_that_comes_back_is_said(place: Path) -> None:
    layered(place, "", 'bind.files.save = "Ctrl+K"\n')
    (place / "ombix.toml").write_text(
        'format = 1\nkeymap = "own.keys.toml"\nplatform = "linux"\n[editor.pier]\ndialect = "nano"\n'
    )
    ran = ombix(place, "unbind", "files.save", "Ctrl+K")
    assert "Ctrl+K is then “Cut” in pier" in " ".join(ran.out.split())
