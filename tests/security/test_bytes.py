"""Edits keep every byte that was not named; see tools/try_edits.py and tools/try_at_once.py."""

import random
import sys
from pathlib import Path

import pytest
import tomli

from ombix.core.keymap.changes import Accept, AddEditor, AddLayer, Bind, Unbind
from ombix.core.keys.notation import parse
from ombix.files.editing import apply
from tests.helpers import ROOT, ombix

sys.path.insert(0, str(ROOT / "tools"))

import try_at_once
import try_edits

HEAD = 'format = 1\nname = "k"\n'


@pytest.mark.long
def test_keymaps_as_people_write_them(tmp_path: Path) -> None:
    folder = tmp_path / "place"
    folder.mkdir()
    (folder / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n', "utf-8")
    chance = random.Random(23)
    ends = [try_edits.fault(chance, folder) for _ in range(150)]
    assert [wrong for _end, wrong in ends if wrong] == []
    assert len({end for end, _wrong in ends}) >= 5
    assert not [end for end, _wrong in ends if end.startswith("refused")]


@pytest.mark.long
def test_many_commands_at_once_lose_nothing() -> None:
    assert try_at_once.run_at_once(5) == []


@pytest.mark.parametrize(
    ("before", "after"),
    [
        # Each line keeps its end, also where something else stands in it; a new one gets that which most have.
        ('a = 1\r\n[bind.files]\r\nsave = "F2"\nopen = "F3" # c\r\n',
         'a = 1\r\n[bind.files]\r\nsave = "F5"\nopen = "F3" # c\r\n'),
        ('a = 1\r\n[bind.files]\r\nopen = "F3" # c\r\n',
         'a = 1\r\n[bind.files]\r\nopen = "F3" # c\r\nsave = "F5"\r\n'),
        ('[bind.files]\nsave = [\n  "F2", # two\n  "F3",\n] # end\n', '[bind.files]\nsave = "F5" # two; end\n'),
        ('[bind]\nfiles.open = "F3"\n', '[bind]\nfiles.open = "F3"\nfiles.save = "F5"\n'),
        ('bind.edit.cut = "F3"\n[where]\nx = "modified"\n',
         'bind.edit.cut = "F3"\nbind.files.save = "F5"\n[where]\nx = "modified"\n'),
        # A file whose last line has no end stays such a file.
        ('[bind.files]\nopen = "F3"', '[bind.files]\nopen = "F3"\nsave = "F5"'),
        ('[bind.files]\nsave = "F2"\n[bind.edit]\ncut = "F3"', '[bind.files]\nsave = "F5"\n[bind.edit]\ncut = "F3"'),
    ],
)  # fmt: skip
def test_what_was_not_named_stays_as_it_is(before: str, after: str) -> None:
    assert apply(before, [Bind("files.save", parse("F5"))]).text == after


@pytest.mark.parametrize(
    "workspace",
    [
        'format = 1\nkeymap = "k.keys.toml"\n\n[editor.pier]\ndialect = "nano"\n',
        'format = 1\nkeymap = "k.keys.toml"',
        'format = 1\nkeymap = "k.keys.toml"\n[reserved]\n"Ctrl+J" = "x"\n[editor.pier]\ndialect="nano"',
        'keymap = "k.keys.toml"\r\nlayout = { linux = "us" }\r\nformat = 1\r\n[reserved]\r\n',
        '\ufeffformat = 1\nkeymap = "k.keys.toml"\neditor.pier.dialect = "nano"\n',
        'format = 1\nlayers = [\n  "x.keys.toml", # first\n]\nkeymap = "k.keys.toml"\n',
        '# mine\nlayers=[]\nformat=1\nkeymap="k.keys.toml"\n#end',
    ],
)
def test_adopting_into_workspaces_of_every_form(tmp_path: Path, workspace: str) -> None:
    place = tmp_path / "place"
    place.mkdir()
    (place / "ombix.toml").write_text(workspace, "utf-8", newline="")
    for name in ("k", "x"):
        (place / f"{name}.keys.toml").write_text(f'format = 1\nname = "{name}"\n')
    (place / "rc").write_text("bind F5 savefile main\n")
    before = (place / "ombix.toml").read_bytes()
    ran = ombix(place, "adopt", "rc", "--editor", "nano", "--name", "harbour")
    assert ran.status == 0, ran.err
    assert "files.save" in ombix(place, "what", "F5").out
    again = ombix(place, "adopt", "rc", "--editor", "nano", "--name", "harbour")
    assert again.status == 0
    assert (place / "ombix.toml").read_text().count("harbour") == 1
    assert ombix(place, "undo").status == ombix(place, "undo").status == 0
    assert (place / "ombix.toml").read_bytes() == before


def test_keys_that_are_too_long_are_kept_and_the_workspace_stays_whole(tmp_path: Path) -> None:
    place = tmp_path / "place"
    place.mkdir()
    (place / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\n')
    (place / "k.keys.toml").write_text(HEAD)
    (place / "jr").write_text(":main\nbol\t" + " ".join(["^K", "A"] * 150) + "\neol\t^[ e\n")
    ran = ombix(place, "adopt", "jr", "--editor", "joe", columns=3000)
    assert "its keys are longer than 500 characters" in " ".join(ran.out.split())
    assert "cursor.line-end" in ombix(place, "what", "Alt+E").out


def test_several_changes_of_one_text() -> None:
    text = apply(
        HEAD, [AddLayer("a"), AddEditor("pier", "nano", "", ""), Unbind(parse("F3"), "", ""), Accept("habit", "so")]
    ).text
    assert text.index("layers") < text.index("[editor.pier]") < text.index("[unbind]") < text.index("[[accept]]")


def test_a_key_that_is_taken_away_in_two_sections_is_adopted(tmp_path: Path) -> None:
    place = tmp_path / "place"
    place.mkdir()
    (place / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\n')
    (place / "k.keys.toml").write_text(HEAD)
    (place / "rc").write_text("unbind F5 main\nunbind F5 search\nbind F6 cut main\n")
    ran = ombix(place, "adopt", "rc", "--editor", "nano")
    assert ran.status == 0, ran.err
    unbound = tomli.loads((place / "nano.keys.toml").read_text())["unbind"]
    assert unbound == {"F5": {"where": "(pane is text) or (pane is search)"}}
