"""`bind`, `unbind`, `undo` and the look-up cache, by running the program: what is written, what is said, what is taken back."""

import shutil
from pathlib import Path

import pytest

from tests.helpers import ROOT, ombix

HEAD = 'format = 1\nname = "k"\n'


@pytest.fixture
def place(tmp_path: Path) -> Path:
    """A workspace with one editor and an empty keymap."""
    folder = tmp_path / "place"
    folder.mkdir()
    (folder / "ombix.toml").write_text(
        'format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n\n[editor.pier]\ndialect = "nano"\n'
    )
    (folder / "k.keys.toml").write_text(HEAD)
    return folder


def keymap(place: Path) -> str:
    return (place / "k.keys.toml").read_text()


def test_a_clash_is_said_only_where_both_apply(place: Path) -> None:
    assert ombix(place, "bind", "program.start", "F8", "--where", "program is stopped").err == ""
    assert ombix(place, "bind", "program.stop", "F8", "--where", "program is running").err == ""
    before = keymap(place)
    refused = ombix(place, "bind", "app.help", "F8")
    assert (refused.status, keymap(place)) == (1, before)
    assert "New: clash, error: F8 is “Start the program”, “Stop the program” and “Show the help”" in " ".join(
        refused.out.split()
    )
    assert "--anyway" in refused.out
    written = ombix(place, "bind", "app.help", "F8", "--anyway")
    assert written.status == 0
    assert 'help = "F8"' in keymap(place)
    mended = ombix(place, "unbind", "app.help", "F8")
    assert "Fixed: clash" in mended.out
    assert keymap(place) == before


def test_the_variable_of_a_family_is_what_the_action_has_to_be_told(place: Path) -> None:
    assert ombix(place, "bind", "bookmark.set", "Space k {n:1-5}").err == ""
    assert 'set = { press = "Space k {n:1-5}", with = { slot = "{n}" } }' in keymap(place)
    assert "bookmark.set(slot=3)" in ombix(place, "what", "Space k 3").out


def test_what_an_action_still_has_to_be_told_is_said(place: Path) -> None:
    before = keymap(place)
    for given, said in (
        ((), "tabs.show has to be told its number"),
        (("--with", "number=second"), "the number of tabs.show is a number from 1 on, not second"),
    ):
        refused = ombix(place, "bind", "tabs.show", "F9", *given)
        assert (refused.status, said in refused.err, keymap(place)) == (2, True, before)
    assert ombix(place, "bind", "tabs.show", "F9", "--with", "number=2").err == ""
    assert 'with = { number = "2" }' in keymap(place)
    assert ombix(place, "bind", "tabs.show", "F9", "--with", "number").status == 2
    assert ombix(place, "bind", "tabs.show", "F9", "--with", "nubmer=2").status == 2


def test_an_editors_own_command_is_bound(place: Path) -> None:
    assert ombix(place, "bind", "flipnewbuffer", "Alt+F", "--editor", "pier").status == 0
    assert '[only.pier]\nflipnewbuffer = "Alt+F"\n' in keymap(place)
    wrong = ombix(place, "bind", "flipnewbufer", "Alt+F", "--editor", "pier")
    assert wrong.status == 2
    assert "Did you mean flipnewbuffer" in wrong.err


def test_keys_are_unbound_and_said_to_be_so(place: Path) -> None:
    (place / "k.keys.toml").write_text(HEAD + '[bind.search]\nnext = ["F3", "Shift+F3"]\n')
    ran = ombix(place, "unbind", "F3", "--why", "hit by mistake")
    assert ran.status == 0
    assert keymap(place) == HEAD + '[bind.search]\nnext = "Shift+F3"\n\n[unbind]\nF3 = { why = "hit by mistake" }\n'
    assert "Taken away on purpose: hit by mistake" in ombix(place, "what", "F3").out
    assert ombix(place, "unbind", "F3", "--where", "readonly").status == 0
    wrong = ombix(place, "unbind", "app.qiut")
    assert wrong.status == 2
    assert "app.quit" in wrong.err
    assert ombix(place, "unbind", "F3x").status == 2


def test_keys_in_other_words_are_bound_with_a_word_on_it(place: Path) -> None:
    ran = ombix(place, "bind", "files.save", "C-x", "C-s")
    assert "C-x C-s is read as Ctrl+X Ctrl+S." in ran.err
    assert 'save = "Ctrl+X Ctrl+S"' in keymap(place)


def test_undo_brings_a_file_back_to_the_byte(place: Path) -> None:
    file = place / "joerc"
    before = b"\xa0 caf\xe9\r\n:main\n\x00"
    file.write_bytes(before)
    assert ombix(place, "bind", "files.save", "Ctrl+S").status == 0
    assert ombix(place, "port", "--to", "joe", "--output", "joerc").status in (0, 1)
    assert file.read_bytes() != before
    ran = ombix(place, "undo")
    assert ran.status == 0
    assert file.read_bytes() == before
    assert "Ctrl+S" in keymap(place)  # only the port was taken back


def test_each_workspace_takes_back_its_own_changes(place: Path) -> None:
    other = place / "other"
    other.mkdir()
    assert ombix(place, "bind", "files.save", "F2").status == 0
    shutil.copy(place / "ombix.toml", other)
    (other / "k.keys.toml").write_text(HEAD)
    home = {"OMBIX_HOME": str(place.parent / "home")}
    assert ombix(place, "bind", "files.open", "F3", **home).status == 0
    assert ombix(other, "undo", **home).status == 1
    assert "F3" in keymap(place)
    assert ombix(place, "undo", **home).status == 0
    assert "F3" not in keymap(place)


def test_the_cache_knows_every_file_that_a_description_is_made_of(place: Path) -> None:
    base, like = place / "base", place / "dinghy"
    shutil.copytree(ROOT / "src/ombix/editors/nano", base, ignore=shutil.ignore_patterns("__pycache__"))
    text = (base / "dialect.toml").read_text().replace('name = "nano"\n', 'name = "base"\n', 1)
    (base / "dialect.toml").write_text(text)
    like.mkdir()
    (like / "dialect.toml").write_text('like = "../base"\nname = "dinghy"\ntitle = "the dinghy"\n')
    (place / "ombix.toml").write_text(
        'format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n[editor.d]\ndialect = "./dinghy"\n'
    )
    assert "go.line" in ombix(place, "what", "Alt+G", "--editor", "d").out
    file = base / "defaults.toml"
    file.write_text("".join(line for line in file.read_text().splitlines(True) if not line.startswith('"Alt+G"')))
    assert "go.line" not in ombix(place, "what", "Alt+G", "--editor", "d").out
    # A file that was not there when the answer was made may come, too.
    (like / "defaults.toml").write_text('[[group]]\nsections = ["main"]\nkeys = { "Alt+G" = "gotoline" }\n')
    assert "go.line" in ombix(place, "what", "Alt+G", "--editor", "d").out


def test_what_was_asked_of_keys_that_are_not_bound_is_asked_again_after_a_change(place: Path) -> None:
    workspace = place / "ombix.toml"
    workspace.write_text('format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\nlayout = "us"\n')
    first = ombix(place, "what", "Ctrl+:").out
    assert "On the layout English (US): Ctrl+Shift+;" in first
    assert ombix(place, "what", "Ctrl+:").out == first
    workspace.write_text(workspace.read_text().replace('"us"', '"de"'))
    assert "On the layout German: Strg+Shift+." in ombix(place, "what", "Ctrl+:").out
    assert ombix(place, "bind", "files.save", "Ctrl+:").status == 0
    assert "files.save" in ombix(place, "what", "Ctrl+:").out


def test_paths_are_those_of_whoever_asks(place: Path) -> None:
    assert ombix(place, "bind", "files.save", "F2").status == 0
    home = {"OMBIX_HOME": str(place.parent / "home")}
    assert " place/k.keys.toml:" in ombix(place.parent, "what", "F2", "--workspace", "place", **home).out
    assert " k.keys.toml:" in ombix(place, "what", "F2", "--workspace", "../place", **home).out
    assert " k.keys.toml:" in ombix(place, "what", "F2", **home).out
