"""Mistakes that anybody makes: what is meant is done, or said in the words of who made it."""

from pathlib import Path

import pytest

from tests.helpers import ombix


@pytest.fixture
def empty(tmp_path: Path) -> Path:
    folder = tmp_path / "empty"
    folder.mkdir()
    return folder


def said(folder: Path, *call: str) -> tuple[int, str]:
    """The exit status, and all that was said, in one line."""
    ran = ombix(folder, *call)
    return ran.status, " ".join((ran.out + ran.err).split())


@pytest.mark.parametrize(
    ("call", "status", "words"),
    [
        (("prove",), 2, "error: which editor? Say --to NAME: desk or pier."),
        (("macro", "port"), 2, "error: which editor? Say --to NAME: desk or pier."),
        (("bind", "edit.undo", "Ctrl+Z"), 2, "unknown action: edit.undo Did you mean history.undo?"),
        (("bind", "Ctrl+Z", "edit.undo"), 2, "Read as: ombix bind edit.undo Ctrl+Z"),
        (("bind", "Alt+Q", "undo", "--dry-run"), 0, 'would write crew.keys.toml: undo = "Alt+Q"'),
        (("what", "save"), 0, "Ctrl+S, F2 Save files.save"),
        (("what", "save"), 0, "Save is not bound in the keymap, on Linux."),
        (("what", "save"), 0, "Read as: ombix how save"),
        (("what", "Delete"), 0, "Delete is not bound in the keymap, on Linux."),  # a key first
        (("what", "undo"), 0, "Ctrl+Z Undo history.undo"),
        (("adopt", "desk/bindings.json", "--editor", "pier"), 2, "no line of it is a key of nano"),
        (("adopt", "desk/bindings.json", "--editor", "nano"), 2,
         "It reads as a file of micro: leave --editor out, or say --editor micro."),
        (("show", "--file", "office/nanorc", "--editor", "micro"), 2,
         "It reads as a file of nano: leave --editor out, or say --editor nano."),
        (("show", "--file", "office/nanorc", "--editor", "joe"), 2,
         "no line of it is a key of joe at office/nanorc It reads as a file of nano"),
        (("macro", "try", "wrap-crossing", "--editor", "kakoune"), 0, "After crossing(07:10 north pier to skerry)|"),
        (("macro", "try", "wrap-crossing", "--editor", "kakoune", "--in", "mode is line"), 2, "kakoune is never in this state"),
        (("macro", "try", "wrap-crossing", "--editor", "kakoune", "--in", "mode is line"), 2,
         "Say another one with --in, or try it without --editor."),
        (("bind", "history.undo", "Ctrl+M"), 1, "Ctrl+M is Enter in desk and pier, and cannot be told from it."),
        (("bind", "history.undo", "Ctrl+M"), 1, "Nothing was changed. Write it all the same with --anyway. Free there: Alt+"),
        (("bind", "wrap-crossing", "Ctrl+M"), 1, "Free there: Alt+"),
        (("bind", "history.undo", "Ctrl+I"), 1, "Ctrl+I is Tab in desk and pier, and cannot be told from it."),
        (("bind", "history.undo", "Ctrl+M", "--anyway", "--dry-run"), 0, "New: sent-alike, warning: Ctrl+M is Enter"),
        (("bind", "history.undo", "Ctrl+M", "--anyway", "--dry-run"), 0, 'would write crew.keys.toml: undo = "Ctrl+M"'),
    ],
)  # fmt: skip
def test_in_a_workspace(ferry: Path, call: tuple[str, ...], status: int, words: str) -> None:
    found = said(ferry, *call)
    assert words in found[1]
    assert found[0] == status


def test_keys_that_one_editor_is_told_of_are_bound(ferry: Path) -> None:
    """A window tells Ctrl+M from Enter."""
    with (ferry / "ombix.toml").open("a") as file:
        file.write('\n[editor.bridge]\ndialect = "kate"\n')
    status, words = said(ferry, "bind", "history.undo", "Ctrl+M", "--dry-run")
    assert status == 0
    assert "Not on Ctrl+M in desk: it arrives as Enter in micro" in words


@pytest.mark.parametrize(
    ("call", "status", "words"),
    [
        (("how", "duplicate", "line"), 0, "what it does action Copy the line down line.copy-down"),
        (("how", "duplicate", "line"), 0,
         "There is no workspace here. For an editor's keys: ombix how duplicate line --editor nano"),
        (("how", "undo", "--in", "pane is text"), 0, "Undo history.undo"),
        (("port", "--from", "nano"), 2, "error: which editor? Say --to NAME: dte, ex, geany,"),
        (("prove",), 2, "error: which editor? Say --to NAME: dte, ex, geany,"),
        (("what", "Ctrl+S"), 2, "Name a file with --file FILE, or start a workspace with: ombix init"),
    ],
)  # fmt: skip
def test_without_a_workspace(empty: Path, call: tuple[str, ...], status: int, words: str) -> None:
    found = said(empty, *call)
    assert words in found[1]
    assert found[0] == status


def test_one_editor_needs_no_name(empty: Path) -> None:
    """And what was adopted is an editor of the workspace, which questions mean."""
    (empty / "nanorc").write_text("bind ^D copy main\n")
    assert ombix(empty, "init").status == 0
    assert ombix(empty, "adopt", "nanorc").status == 0
    assert '[editor.nano]\ndialect = "nano"\n' in (empty / "ombix.toml").read_text()
    assert "in nano" in ombix(empty, "free", "--count", "3").out
    assert "error: which editor?" not in ombix(empty, "prove").err
    before = (empty / "ombix.toml").read_text()
    assert ombix(empty, "adopt", "nanorc").status == 0
    assert (empty / "ombix.toml").read_text() == before


def test_an_editor_is_put_among_editors_that_are_written_in_one_line(empty: Path) -> None:
    (empty / "k.keys.toml").write_text('format = 1\nname = "k"\n')
    (empty / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\neditor = { desk = { dialect = "micro" } }\n')
    (empty / "nanorc").write_text("bind ^D copy main\n")
    ran = ombix(empty, "adopt", "nanorc")
    assert ran.out.startswith("1 statement: 1 binding, 0 replaced")
    assert ran.status == 0
    assert 'editor = { desk = { dialect = "micro" }, nano = {dialect = "nano"}' in (empty / "ombix.toml").read_text()


@pytest.mark.parametrize(
    ("words", "offered"),
    [
        ("ombix macro show wr", ["wrap-crossing"]), ("ombix audit --severity wa", ["warning"]),
        ("ombix what F1 --editor pi", ["pier"]), ("ombix prove --to de", ["desk"]),
    ],
)  # fmt: skip
def test_what_is_completed(ferry: Path, words: str, offered: list[str]) -> None:
    count = str(len(words.split()) - 1)
    ran = ombix(ferry, COMP_WORDS=words, COMP_CWORD=count, _OMBIX_COMPLETE="complete_bash")
    assert ran.out.split() == offered


def test_machines_are_completed(ferry: Path) -> None:
    with (ferry / "ombix.toml").open("a") as file:
        file.write('\n[machine.laptop]\nplatform = "mac"\n')
    ran = ombix(ferry, COMP_WORDS="ombix audit --machine la", COMP_CWORD="3", _OMBIX_COMPLETE="complete_bash")
    assert ran.out.split() == ["laptop"]
