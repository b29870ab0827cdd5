"""The first ten seconds: an editor's own file or a keymap file as it is, starting a workspace, and `ombix` alone."""

import json
from pathlib import Path

import pytest

from tests.helpers import ROOT, ombix

DESK = ROOT / "src/ombix/data/demo/desk/bindings.json"


@pytest.fixture
def empty(tmp_path: Path) -> Path:
    """An empty folder, and beside it a home with the key files of two editors."""
    folder = tmp_path / "empty"
    folder.mkdir()
    home = tmp_path / ".home-empty"
    (home / ".config/micro").mkdir(parents=True)
    (home / ".config/micro/bindings.json").write_bytes(DESK.read_bytes())
    (home / ".nanorc").write_text("bind ^T whereis main\nbind M-Z undo main\n")
    return folder


def test_looking_at_a_file(empty: Path) -> None:
    ran = ombix(empty, "what", "Ctrl+T", "--file", "~/.nanorc")
    assert ran.status == 0
    assert " ".join(ran.out.split()).startswith(
        ".nanorc is read as a file of nano 7.2: that is where nano has its file; this machine's layout is English (US)."
    )
    assert "search.find" in ran.out
    assert "~/.nanorc:1:1" in ran.out
    shown = json.loads(ombix(empty, "show", "--file", "~/.nanorc", "--own", "--json").out)
    assert {row["keys"]: row["does"] for row in shown["bindings"]} == {"Ctrl+T": "search.find", "Alt+Z": "history.undo"}
    assert "Alt+Z" in ombix(empty, "how", "undo", "--file", "~/.nanorc").out
    assert ombix(empty, "audit", "--file", "~/.nanorc", "--severity", "warning").status in (0, 1)
    assert ombix(empty, "compare", "~/.nanorc", "nano").status == 1
    assert "search.find" in ombix(empty, "press", "Ctrl+T", "--file", "~/.nanorc").out
    assert list(empty.iterdir()) == []


def test_porting_a_file_without_a_workspace(empty: Path) -> None:
    ran = ombix(empty, "port", "--from", "~/.nanorc", "--to", "joe", "--output", "joerc")
    assert ran.status in (0, 1)
    assert "keys work in joe" in ran.out
    assert "ffirst" in (empty / "joerc").read_text()
    assert ombix(empty, "undo").status == 0
    assert not (empty / "joerc").exists()


def test_a_keymap_file_as_it_is(empty: Path) -> None:
    (empty / "crew.keys.toml").write_text('format = 1\nname = "crew"\n[bind.files]\nsave = "F2"\n')
    assert "crew.keys.toml is a keymap file" in ombix(empty, "what", "F2", "--file", "crew.keys.toml").out
    within = ombix(empty, "what", "Ctrl+W", "--file", "crew.keys.toml", "--editor", "nano")
    assert "search.find" in within.out
    assert "files.save" in ombix(empty, "press", "F2", "--file", "crew.keys.toml").out


@pytest.mark.parametrize(
    ("name", "text", "title"),
    [
        ("bindings.json", '{"F2": "Save"}', "micro"), ("keys", "bind ^F whereis main\n", "nano"),
        (".exrc", "map #5 dd\n", "ex/vi"), ("z", "map global normal <F5> w\n", "Kakoune"),
        ("mine", ":main\neol\t.k5\n", "joe"),
    ],
)  # fmt: skip
def test_the_editor_is_recognised(empty: Path, name: str, text: str, title: str) -> None:
    (empty / name).write_text(text)
    assert f"{name} is read as a file of {title}" in ombix(empty, "what", "F5", "--file", name, columns=200).out


@pytest.mark.parametrize(
    ("arguments", "what"),
    [
        (("what", "F2"), "--file FILE"),
        (("what", "F2", "--file", "none"), "no such file"),
        (("what", "F2", "--file", "."), "a folder"),
        (("what", "F2", "--file", "notes"), "it cannot be told which editor"),
        (("what", "F2", "--file", "notes", "--workspace", "x"), "two things to look at"),
        (("what", "F2", "--file", "notes", "--editor", "nanoo"), "Did you mean nano?"),
        (("adopt", "notes"), "it cannot be told which editor"),
        (("port", "--from", "nowhere.json", "--to", "joe"), "no such file"),
        (("init", "--adopt", "joe"), "there is no key file of joe"),
        (("show", "--file", "notes", "--report", "x.pdf"), "it cannot be told which editor"),
    ],
)
def test_what_is_wrong_gets_one_clear_error(empty: Path, arguments: tuple[str, ...], what: str) -> None:
    (empty / "notes").write_text("Low water at noon.\n")
    ran = ombix(empty, *arguments)
    assert ran.status == 2
    assert ran.err.count("error:") == 1
    assert what in " ".join(ran.err.split())
    assert [path.name for path in empty.iterdir()] == ["notes"]


def test_starting_with_the_key_files_of_this_machine(empty: Path) -> None:
    assert ombix(empty, "init", "--dry-run").status == 0
    assert list(empty.iterdir()) == []
    ran = ombix(empty, "init", "--adopt", "all", columns=120)
    assert ran.status == 0
    assert "~/.nanorc" in ran.out
    assert sorted(path.name for path in empty.iterdir()) == [
        "micro.keys.toml", "mine.keys.toml", "nano.keys.toml", "ombix.toml",
    ]  # fmt: skip
    steps = [line.split(maxsplit=1)[1] for line in ran.out.split("\n") if line.startswith("  ombix ")]
    assert len(steps) == 3
    for step in steps:  # each can be typed as it is
        assert ombix(empty, *step.split()).status in (0, 1), step
    assert "Alt+Z" in ombix(empty, "show", "--by", "layer").out
    assert ombix(empty, "undo").status == 0
    assert list(empty.iterdir()) == []


def test_starting_binds_nothing_that_nobody_chose(empty: Path) -> None:
    ran = ombix(empty, "init")
    assert ran.status == 0
    assert "--adopt NAME" in ran.err
    assert json.loads(ombix(empty, "show", "--json").out)["bindings"] == []
    text = (empty / "mine.keys.toml").read_text()
    uncommented = text.replace("\n# [", "\n[").replace("\n# editing", "\nediting").replace("\n# command", "\ncommand")
    (empty / "mine.keys.toml").write_text(uncommented.replace("\n# copy", "\ncopy"))
    assert len(json.loads(ombix(empty, "show", "--json").out)["bindings"]) == 2  # the examples are right


def test_ombix_alone(empty: Path) -> None:
    elsewhere = ombix(empty)
    assert elsewhere.status == 0
    assert "ombix init" in elsewhere.out
    assert "ombix show --file ~/.config/micro/bindings.json" in elsewhere.out
    assert ombix(empty, "init", "--adopt", "nano").status == 0
    here = ombix(empty)
    assert here.status == 0
    assert "nano (nano)" in here.out
    assert "findings" in here.out
    steps = [line.split(maxsplit=1)[1] for line in here.out.split("\n") if line.startswith("  ombix ")]
    assert len(steps) == 3
    for step in steps:
        assert ombix(empty, *step.split()).status in (0, 1), step


def test_help_says_each_command_in_a_whole_sentence(empty: Path) -> None:
    for call in (("--help",), ("help",)):
        lines = ombix(empty, *call).out.split("\n")
        assert max(map(len, lines)) <= 80
        assert "..." not in "".join(lines[1:])
    groups = [line for line in lines if line and not line.startswith((" ", "One of them"))]
    assert groups == [
        "Begin", "Look at keys", "Find what is wrong", "Change keys", "Mend what is wrong", "Carry keys between editors",
        "In version control", "Try keys and macros", "See what is used", "Print and learn", "Draw keys", "Describe editors",
        "While you write",
    ]  # fmt: skip


def test_reports_in_every_form(empty: Path) -> None:
    (empty / "crew.keys.toml").write_text('format = 1\nname = "crew"\n[bind.files]\nsave = "F2"\nopen = "F2"\n')
    for ending, begins in (("md", "# Audit"), ("html", "<!doctype html>"), ("json", "{"), ("sarif", "{")):
        ran = ombix(empty, "audit", "--file", "crew.keys.toml", "--report", f"out.{ending}")
        assert ran.status == 1
        assert (empty / f"out.{ending}").read_text().startswith(begins)
    sarif = json.loads((empty / "out.sarif").read_text())
    (run,) = sarif["runs"]
    assert run["results"][0]["locations"][0]["physicalLocation"]["artifactLocation"]["uri"] == "crew.keys.toml"
    wrong = ombix(empty, "audit", "--file", "crew.keys.toml", "--report", "out.pdf")
    assert wrong.status == 2
    assert "out.pdf" in wrong.err
