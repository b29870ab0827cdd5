"""One workspace on several machines: recognised by their hosts, asked about one by one or all at once."""

import json
import platform
from pathlib import Path

import pytest

from tests.helpers import ombix

WORKSPACE = """\
format = 1
keymap = "crew.keys.toml"
platform = "linux"
layout = "us"

[editor.desk]
dialect = "micro"
file = "machine/bindings.json"

[editor.pier]
dialect = "nano"
terminal = "xterm"
file = "machine/nanorc"

[machine.office]
host = "tide-office"

[machine.hut]
host = ["skerry-1", "skerry-2"]
layout = "de"
editors = ["pier"]
version = { pier = "2.0" }

[machine.drawing-room]
host = "mac-1"
platform = "mac"
layout = "de"
"""
CREW = """\
format = 1
name = "crew"

[bind.line]
copy-down = "Alt+{"
delete = "F7"
"""


@pytest.fixture
def place(tmp_path: Path) -> Path:
    folder = tmp_path / "place"
    (folder / "machine").mkdir(parents=True)
    (folder / "ombix.toml").write_text(WORKSPACE)
    (folder / "crew.keys.toml").write_text(CREW)
    (folder / "machine/bindings.json").write_text("{}\n")
    (folder / "machine/nanorc").write_text("")
    return folder


def here(place: Path, machine: str) -> None:
    """Have a machine of the workspace be this one."""
    file = place / "ombix.toml"
    names = {"office": "tide-office", "hut": "skerry-2", "drawing-room": "mac-1"}
    file.write_text(file.read_text().replace(names[machine], platform.node()))


def audited(place: Path, *more: str) -> dict[str, set[str]]:
    """Rule to the keys of its findings."""
    found: dict[str, set[str]] = {}
    for one in json.loads(ombix(place, "audit", "--json", *more).out)["findings"]:
        found.setdefault(one["rule"], set()).update(one["keys"])
    return found


def test_a_finding_of_one_machine_is_none_of_another(place: Path) -> None:
    assert "Alt+{" not in audited(place, "--machine", "office").get("hard-press", set())
    assert "Alt+{" in audited(place, "--machine", "hut")["hard-press"]
    both = json.loads(ombix(place, "audit", "--json", "--machine", "all").out)
    assert [one["machine"] for one in both] == ["office", "hut", "drawing-room"]
    assert [one["platform"] for one in both] == ["linux", "linux", "mac"]
    text = ombix(place, "audit", "--machine", "office", "--machine", "hut").out
    assert "on Linux, on the machine office" in text
    assert "on Linux, on the machine hut" in text


def test_the_machine_at_hand_is_recognised(place: Path) -> None:
    assert "hard-press" not in audited(place, "--machine", "office")
    assert "Alt+{" in audited(place)["other-press"]  # on the layout of one of them
    assert json.loads(ombix(place, "audit", "--json").out)["machine"] == ""
    here(place, "hut")
    assert json.loads(ombix(place, "audit", "--json").out)["machine"] == "hut"
    assert "Alt+{" in audited(place)["hard-press"]
    assert "Deutsch" in ombix(place, "what", "Alt+{").out or "German" in ombix(place, "what", "Alt+{").out
    status = json.loads(ombix(place, "status", "--json").out)
    assert status["machine"] == "hut"
    assert [one["editor"] for one in status["editors"]] == ["pier"]
    assert status["editors"][0]["other_version"] == "2.0"


def test_what_is_on_another_machine_is_not_written(place: Path) -> None:
    here(place, "office")
    ran = ombix(place, "apply", "--machine", "hut", "--yes")
    assert "it is on hut: run ombix apply there" in ran.out
    assert (place / "machine/nanorc").read_text() == ""
    assert ombix(place, "apply", "--yes", "--overwrite").status == 0
    assert "F7" in (place / "machine/bindings.json").read_text()
    states = json.loads(ombix(place, "status", "--json", "--machine", "all").out)
    assert [(one["machine"], {each["standing"] for each in one["editors"]}) for one in states] == [
        ("office", {"up to date"}), ("hut", {"elsewhere"}), ("drawing-room", {"elsewhere"}),
    ]  # fmt: skip


def test_a_sheet_for_several_machines_has_a_column_for_each(place: Path) -> None:
    found = json.loads(ombix(place, "sheet", "--json", "--machine", "drawing-room", "--machine", "office").out)
    assert found["columns"] == ["drawing-room", "office"]
    text = ombix(place, "sheet", "--machine", "all").out
    assert "drawing-room" in text
    assert "⌥" in text
    machines = ("--machine", "office", "--machine", "hut")
    two = json.loads(
        ombix(place, "sheet", "--json", *machines, "--editor", "pier", "--layout", "us", "--layout", "de").out
    )
    assert len(two["columns"]) == 4
    assert two["columns"][0].startswith("office, ")


def test_all_machines_are_applied_as_far_as_they_are_here(place: Path) -> None:
    here(place, "office")
    found = json.loads(ombix(place, "apply", "--machine", "all", "--yes", "--overwrite", "--json").out)
    assert [(one["editor"], one["did"]) for one in found["editors"]] == [("desk", "written"), ("pier", "written")]
    assert "F7" in (place / "machine/bindings.json").read_text()


def test_a_sheet_for_a_machine(place: Path) -> None:
    assert "⌥" in ombix(place, "sheet", "--machine", "drawing-room").out
    assert "⌥" not in ombix(place, "sheet", "--machine", "office").out


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        ('platform = "mac"', 'platform = "amiga"', "unknown platform: amiga"),
        ('layout = "de"', 'layout = "du"', "unknown layout: du"),
        ('editors = ["pier"]', 'editors = ["peer"]', "Did you mean pier?"),
        ('editors = ["pier"]', "editors = 5", "editors takes a name"),
        ('version = { pier = "2.0" }', "version = 3", "version takes a table"),
        ('host = "mac-1"', "hosts = 1", "unknown key: hosts"),
        ("[machine.office]", "[[machine]]", "machine"),
    ],
)
def test_machines_that_are_wrong(old: str, new: str, said: str, place: Path) -> None:
    file = place / "ombix.toml"
    file.write_text(file.read_text().replace(old, new, 1))
    ran = ombix(place, "audit")
    assert (ran.status, said in ran.out) == (1, True)
    shown = ombix(place, "show")
    assert (shown.status, "It is left out;" in " ".join(shown.err.split())) == (0, True)
    assert ombix(place, "port", "--to", "nano", "--dry-run").status == 2


def test_a_machine_that_is_none(place: Path) -> None:
    for command in ("audit", "status", "apply", "sheet"):
        ran = ombix(place, command, "--machine", "hat")
        assert ran.status == 2
        assert "Did you mean hut?" in ran.err
    assert "for one machine" in ombix(place, "audit", "--machine", "all", "--format", "sarif").err


def test_other_machines_count_for_what_is_free(tmp_path: Path) -> None:
    """Whether or not this machine is one of them."""
    place = tmp_path / "place"
    place.mkdir()
    (place / "k.keys.toml").write_text('format = 1\nname = "k"\n[bind.files]\nsave = "F2"\n')
    for host in ("*", "no-such-machine"):
        (place / "ombix.toml").write_text(
            'format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\nlayout = "us"\n'
            f'[machine.quay]\nhost = "{host}"\nplatform = "linux"\n'
            '[machine.desk]\nhost = "a-desk"\nplatform = "mac"\nlayout = "de"\n'
        )
        ran = ombix(place, "free")
        assert "linux and mac" in ran.out.splitlines()[0].lower(), ran.out
        alone = ombix(place, "audit", "--machine", "quay", "--json")
        assert alone.status in (0, 1), alone.err


def test_all_machines_of_a_workspace_without_any(tmp_path: Path) -> None:
    place = tmp_path / "place"
    place.mkdir()
    (place / "k.keys.toml").write_text('format = 1\nname = "k"\n')
    (place / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\n[editor.pier]\ndialect = "nano"\n')
    for command in ("audit", "status", "apply", "sheet"):
        ran = ombix(place, command, "--machine", "all")
        assert ran.status == 2
        assert "the workspace names no machine" in ran.err


def test_a_plain_audit_looks_at_the_platforms_of_all_machines(tmp_path: Path) -> None:
    (tmp_path / "k.keys.toml").write_text(
        'format = 1\nname = "k"\n[bind.line]\ndelete = "Mod+Y"\ncopy-down = "Mod+Y"\n'
        'indent = { mac = "Ctrl+F2" }\noutdent = { mac = "Ctrl+F2" }\n'
    )
    machines = '[machine.desk]\nplatform = "linux"\n[machine.laptop]\nplatform = "mac"\nlayout = "de"\n'
    (tmp_path / "ombix.toml").write_text(f'format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n{machines}')
    clashes = ("audit", "--rule", "clash", "--json")
    found = json.loads(ombix(tmp_path, *clashes).out)
    # What is wrong on both is said once, in the words of the platform at hand.
    assert [one["message"].partition(" is ")[0] for one in found["findings"]] == ["Ctrl+Y", "on Mac (laptop): ⌃F2"]
    assert found["machines"] == ["laptop"]
    # Of one platform, or one machine, only that is said.
    assert len(json.loads(ombix(tmp_path, *clashes, "--on", "linux").out)["findings"]) == 1
    assert len(json.loads(ombix(tmp_path, *clashes, "--machine", "desk").out)["findings"]) == 1
    # A baseline knows those of all machines.
    assert ombix(tmp_path, "audit", "--write-baseline", "known.json").status == 0
    assert ombix(tmp_path, "audit", "--baseline", "known.json").status == 0
