"""A week of two people: two machines with two editors each, one repository, a conflict, a pipeline that refuses, the mend, and both
machines in step again."""

import json
import platform
import re
from pathlib import Path

import pytest
import tomli

from tests.cli.test_git import Clone

WORKSPACE = """\
format = 1
keymap = "crew.keys.toml"
platform = "linux"

[editor.desk]
dialect = "micro"
careful = true
file = "machine/bindings.json"

[editor.pier]
dialect = "nano"
file = "machine/nanorc"

[machine.north]
host = "HERE"
layout = "us"

[machine.south]
host = "HERE"
layout = "de"
"""
CREW = """\
# Keys of the crew.
format = 1
name = "crew"

[bind.line]
copy-down = "Alt+Y"     # tomorrow's crossing
delete = "F7"

[bind.files]
save = "Ctrl+S"
"""


@pytest.fixture
def machines(tmp_path: Path) -> tuple[Clone, Clone]:
    """The northern and the southern machine, each with a clone of one repository."""
    shared = tmp_path / "shared.git"
    found = []
    for name in ("north", "south"):
        home = tmp_path / f"home of {name}"
        home.mkdir()
        (home / ".gitconfig").write_text(
            f"[user]\nname = {name}\nemail = {name}@example.invalid\n[init]\ndefaultBranch = main\n"
        )
        folder = tmp_path / name
        if name == "north":
            folder.mkdir()
            (folder / "ombix.toml").write_text(WORKSPACE.replace("HERE", platform.node()))
            (folder / "crew.keys.toml").write_text(CREW)
            (folder / ".gitignore").write_text("machine/\n")
            clone = Clone(folder, home)
            clone.git("init", "-q")
            clone.commit("The crew's keys")
            clone.git("clone", "-q", "--bare", str(folder), str(shared))
            clone.git("remote", "add", "origin", str(shared))
            clone.git("fetch", "-q")
            clone.git("branch", "-q", "--set-upstream-to=origin/main")
        else:
            found[0].git("clone", "-q", str(shared), str(folder))
            clone = Clone(folder, home)
        (folder / "machine").mkdir()
        (folder / "machine/bindings.json").write_text("{}\n")
        (folder / "machine/nanorc").write_text("# nano\n")
        clone.ombix("git", "setup")
        found.append(clone)
    return found[0], found[1]


@pytest.mark.long
def test_two_machines_stay_in_step(machines: tuple[Clone, Clone]) -> None:
    north, south = machines
    for clone, name in ((north, "north"), (south, "south")):
        clone.ombix("apply", "--machine", name, "--yes", "--overwrite")
        assert "up to date" in clone.ombix("status", "--machine", name)
    # The same line is changed on both, and each adds a key of its own.
    north.edit('copy-down = "Alt+Y"', 'copy-down = "Alt+D"')
    north.edit('delete = "F7"\n', 'delete = "F7"\njoin = "Alt+J"\n')
    north.commit("Copy with Alt+D")
    north.git("push", "-q")
    south.edit('copy-down = "Alt+Y"', 'copy-down = "Alt+C"')
    south.edit('delete = "F7"\n', 'delete = "F7"\nsort = "Alt+5"\n')
    south.commit("Copy with Alt+C")
    said = south.git("pull", "--no-rebase", "--no-edit", status=1)
    assert "both sides changed it" in said
    # The pipeline refuses it as it is.
    south.git("add", "-A")
    south.git("commit", "-qm", "merged, not settled", "--no-verify")
    refused = south.ombix(
        "audit", "--changed-since", "origin/main", "--severity", "error", "--format", "annotations", status=1
    )
    assert "[conflict]" in refused
    # It is settled as the north has it, and passes.
    south.ombix("settle", "--rule", "conflict", "--draft", "plan.toml", status=1)
    plan = (south.folder / "plan.toml").read_text()
    (finding,) = tomli.loads(plan)["finding"]
    number = next(index for index, way in enumerate(finding["ways"], 1) if "theirs" in way)
    (south.folder / "plan.toml").write_text(re.sub(r"(?m)^take = \d+$", f"take = {number}", plan))
    south.ombix("settle", "--plan", "plan.toml", "--rule", "conflict")
    (south.folder / "plan.toml").unlink()
    assert "Alt+D" in south.text()
    assert "Alt+J" in south.text()
    assert "Alt+5" in south.text()
    assert "conflict" not in south.text()
    south.commit("Alt+D it is")
    south.ombix("audit", "--changed-since", "origin/main", "--severity", "error", "--format", "annotations")
    south.git("push", "-q")
    # Both machines follow.
    assert "behind" in south.ombix("status", "--machine", "south", status=1)
    south.ombix("apply", "--machine", "south")
    north.git("pull", "-q")
    changed = json.loads(north.ombix("changes", "HEAD@{1}..HEAD", "--json", status=1))
    assert "line.sort" in {one["does"] for one in changed["keys"]}
    north.ombix("apply", "--machine", "north")
    for clone, name in ((north, "north"), (south, "south")):
        assert "behind" not in clone.ombix("status", "--machine", name)
        assert "alt-d" in (clone.folder / "machine/bindings.json").read_text().lower()
    assert north.text() == south.text()
    assert "Alt+D it is" in south.ombix("blame", "Alt+D")
