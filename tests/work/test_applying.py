"""Keymaps applied to the editors' own files: what stands outside stays, edits by hand are noticed and adopted."""

import json
import re
from collections.abc import Iterator
from pathlib import Path

import pytest

from ombix.core.errors import InputError
from ombix.files.applied_files import read_record, record_bytes, record_path
from ombix.work.carry import carry_questions
from ombix.work.carry.apply import ApplyOptions
from ombix.work.carry.apply_answer import Applied, EditorStanding
from ombix.work.change import change_questions
from ombix.workspace.open_workspace import OpenWorkspace
from tests.helpers import ombix, others_long

KEYMAP = """\
format = 1
name = "crew"

[bind.files]
save = "Alt+K"            # the timetable is saved with one glove

[bind.history]
undo = "Alt+J"

[bind.search]
find = "Alt+L"
"""
OUTSIDE = {
    "micro": '{\n    // mine\n    "F12": "Save"\n}\n',
    "nano": "# mine\nset tabsize 3\nbind F12 savefile main\n",
    "joe": ":include joerc\n\n mine\n:main\nuparw\t^[ x\n",
    "ex": '" mine\nset noerrorbells\nmap Q dd\n',
    "kakoune": "# mine\nset-option global tabstop 3\nmap global normal Q dd\n",
    "dte": "# mine\nset tab-width 3\nbind F12 save\n",
    "mcedit": "# mine\n[editor]\nSave = f12\n",
    "geany": "# mine\n[Bindings]\nmenu_saveall=<Alt>F12\n",
    "mousepad": '; mine\n(gtk_accel_path "<Actions>/win.file.reload" "<Alt>F12")\n',
    "heddle": '# mine\n[[shed.cloth]]\ntreadle = "f12"\nlifts = "keep-cloth"\n',
    "oxbow": '; mine\n(reach calm\n  (stroke "f12" to-sea))\n',
}
"""What a user's own file of each editor that has comments holds already."""
BY_HAND = {
    "micro": ('"Alt-k": "Save"', '"Alt-k": "Redo"', 'redo = { also = "Alt+K" }'),
    "nano": ("bind M-K savefile main", "bind M-K redo main", 'redo = { also = "Alt+K" }'),
    "joe": ("savenow\t^[ k", "savenow\t^[ y", 'save = "Alt+Y"'),
    "ex": ("map \x16\x1bk :w\x16\r\n", "map \x16\x1bk u\n", '"Alt+K"'),
    "kakoune": ("normal <a-k> :w<ret>", "normal <a-k> u", '"Alt+K"'),
    "dte": ("bind M-k 'save -p'", "bind M-k redo", 'redo = { also = "Alt+K" }'),
    "mcedit": ("Save = alt-k;", "Save = alt-y;", 'save = "Alt+Y"'),
    "geany": ("menu_save = <Alt>k", "menu_save = <Alt>y", 'save = "Alt+Y"'),
    "mousepad": ('win.file.save" "<Alt>k"', 'win.file.save" "<Alt>y"', 'save = "Alt+Y"'),
    "kate": ('name="file_save" shortcut="Alt+K;', 'name="file_save" shortcut="Alt+Y;', 'save = "Alt+Y"'),
    "heddle": ('treadle = "alt~k"', 'treadle = "alt~y"', 'save = "Alt+Y"'),
    "oxbow": ('"a:k"', '"a:y"', 'save = "Alt+Y"'),
    "tarn": ('"alt.k"', '"alt.y"', 'save = "Alt+Y"'),
}  # fmt: skip
"""What somebody changes in the file that was applied, by hand, and what the keymap says once that was adopted."""


class Quay:
    """A workspace with one editor, whose file stands in it."""

    def __init__(self, folder: Path, editor: str) -> None:
        self.folder = folder
        self.editor = editor
        self.file = folder / "own.file"
        (folder / "k.keys.toml").write_text(KEYMAP)
        lines = ["format = 1", 'keymap = "k.keys.toml"', 'platform = "linux"']
        lines += ["[editor.quay]", f'dialect = "{editor}"', 'file = "own.file"']
        (folder / "ombix.toml").write_text("\n".join(lines) + "\n")

    def session(self) -> OpenWorkspace:
        return OpenWorkspace(folder=str(self.folder), state=str(self.folder.parent / f"{self.folder.name}-state"))

    def apply(self, *, agreed: bool = True, adopt: bool = False, overwrite: bool = False) -> Applied:
        options = ApplyOptions(agreed=("all",) if agreed else (), adopt=adopt, overwrite=overwrite)
        return carry_questions.apply(self.session(), options).editors[0]

    def status(self) -> EditorStanding:
        return carry_questions.status(self.session()).editors[0]

    def text(self) -> str:
        return self.file.read_bytes().decode()

    def write(self, text: str) -> None:
        self.file.write_bytes(text.encode())

    def keymap(self) -> str:
        return (self.folder / "k.keys.toml").read_text()


@pytest.fixture
def quay(tmp_path: Path, request: pytest.FixtureRequest) -> Iterator[Quay]:
    yield Quay(tmp_path, request.param)


@pytest.mark.parametrize("quay", sorted(OUTSIDE), indirect=True)
def test_what_stands_outside_of_the_block_stays_to_the_byte(quay: Quay) -> None:
    outside = OUTSIDE[quay.editor]
    quay.write(outside)
    assert quay.apply().did == "written"
    first = quay.text()
    lines = first.split("\n")
    begin, end = (next(at for at, line in enumerate(lines) if f"ombix: {word}" in line) for word in ("begin", "end"))
    assert "\n".join([*lines[:begin], *lines[end + 1 :]]) == outside
    assert quay.apply().did == "unchanged"
    (quay.folder / "k.keys.toml").write_text(KEYMAP.replace("Alt+J", "Alt+W"))
    assert quay.status().standing == "behind"
    assert quay.apply().did == "written"
    assert quay.text() != first
    change_questions.undo(quay.session())
    assert quay.text() == first
    assert quay.status().standing == "behind"


@pytest.mark.parametrize("quay", others_long(sorted(BY_HAND), *sorted(BY_HAND)[::2]), indirect=True)
def test_what_was_edited_by_hand_is_noticed_not_written_over_and_adopted(quay: Quay) -> None:
    quay.apply()
    applied = quay.text()
    old, new, says = BY_HAND[quay.editor]
    assert old in applied
    edited = applied.replace(old, new)
    quay.write(edited)
    found = quay.status()
    assert found.standing == "edited by hand"
    assert {"Alt+K", "Alt+Y"} & {one.keys for one in found.edits}
    refused = quay.apply()
    assert refused.did == "refused"
    assert quay.text() == edited
    before = quay.keymap()
    adopted = quay.apply(adopt=True)
    assert adopted.did == "written"
    assert says in quay.keymap()
    assert "# the timetable is saved with one glove" in quay.keymap() or "save = " not in quay.keymap()
    assert quay.status().standing == "up to date"
    change_questions.undo(quay.session())  # the keymap and the file together
    assert (quay.text(), quay.keymap()) == (edited, before)
    assert quay.apply(overwrite=True).did == "written"
    assert quay.text() == applied


@pytest.mark.parametrize(
    ("quay", "own"),
    [
        ("geany", "# mine\n[Bindings]\nedit_deleteline=<Alt>k\n"),
        ("mcedit", "# mine\n[editor]\nDeleteLine = alt-k\n"),
        ("mousepad", '; mine\n(gtk_accel_path "<Actions>/win.edit.select-all" "<Alt>k")\n'),
    ],
    indirect=["quay"],
)
def test_a_key_of_the_rest_of_the_file_gives_way_to_the_keymap(quay: Quay, own: str) -> None:
    quay.write(own)
    found = quay.apply()
    assert (found.did, found.way) == ("written", "block")
    assert "Alt+K" in found.lost
    assert quay.text().startswith(own)
    assert quay.status().standing == "up to date"


@pytest.mark.parametrize("quay", ["nano"], indirect=True)
def test_the_first_time_has_to_be_agreed_to(quay: Quay) -> None:
    assert quay.status().standing == "not applied"
    assert quay.apply(agreed=False).needs
    assert not quay.file.exists()
    assert quay.apply().first
    quay.file.unlink()
    assert quay.status().standing == "missing"
    assert quay.apply(agreed=False).did == "written"


@pytest.mark.parametrize("quay", ["kate"], indirect=True)
def test_a_whole_file_with_other_keys_in_it_is_not_written_over(quay: Quay) -> None:
    action = '<Action name="end_of_line" shortcut="Alt+X"/>'
    own = f'<gui name="katepart" version="1"><ActionProperties scheme="x">{action}</ActionProperties></gui>\n'
    quay.write(own)
    found = quay.apply()
    assert (found.did, found.way) == ("refused", "whole")
    assert "Alt+X" in found.lost
    assert quay.text() == own
    assert quay.apply(overwrite=True).did == "written"


@pytest.mark.parametrize("quay", ["kate"], indirect=True)
@pytest.mark.parametrize(
    ("own", "gone"),
    [
        (
            '<gui name="katepart"><ActionProperties><Action name="ferry_ring" shortcut="Alt+X"/></ActionProperties></gui>\n',
            2,
        ),
        ("<gui>\nthe ferry leaves at six\n", 2),
    ],
)
def test_what_is_not_understood_is_not_written_over_without_a_word(quay: Quay, own: str, gone: int) -> None:
    """A command that is not known, in an element with a name; a file that cannot be read at all."""
    quay.write(own)
    found = quay.apply()
    assert (found.did, found.way, len(found.gone)) == ("refused", "whole", gone)
    assert quay.text() == own
    assert quay.apply(overwrite=True).did == "written"


@pytest.mark.parametrize("quay", ["nano"], indirect=True)
def test_line_ends_and_bytes_outside_stay(quay: Quay) -> None:
    outside = "# ét\u00e9 on the pier\r\nset tabsize 3\r\n".encode()
    quay.file.write_bytes(outside)
    quay.apply()
    data = quay.file.read_bytes()
    assert data.startswith(outside)
    assert b"bind M-K savefile main\r\n" in data
    assert quay.status().standing == "up to date"


@pytest.mark.parametrize("quay", ["nano"], indirect=True)
def test_damaged_marks_are_said_with_their_place(quay: Quay) -> None:
    quay.apply()
    quay.write(quay.text().replace("# ombix: end\n", ""))
    found = quay.status()
    assert found.standing == "unreadable"
    assert "marks" in found.reason
    with pytest.raises(InputError, match="marks of the block") as caught:
        quay.apply()
    assert caught.value.place is not None
    assert caught.value.place.file == str(quay.file)


@pytest.mark.parametrize("quay", ["nano"], indirect=True)
def test_a_block_that_another_machine_has_written_is_compared_with_what_would_be_written(quay: Quay) -> None:
    quay.apply()
    path = record_path(quay.folder.parent / f"{quay.folder.name}-state", quay.folder, "quay")
    path.unlink()
    assert quay.status().standing == "up to date"
    quay.write(quay.text().replace("bind M-J undo main", "bind M-J redo main"))
    assert quay.status().standing == "edited by hand"
    assert quay.apply().did == "refused"


@pytest.mark.parametrize("quay", ["nano"], indirect=True)
def test_defaults_of_another_version_are_said(quay: Quay) -> None:
    quay.apply()
    path = record_path(quay.folder.parent / f"{quay.folder.name}-state", quay.folder, "quay")
    record = read_record(path)
    assert record is not None
    rows = tuple(row for row in record.defaults if row[0] != "Ctrl+G")
    import msgspec

    path.write_bytes(record_bytes(msgspec.structs.replace(record, version="6.0", defaults=rows)))
    changed = quay.status().defaults
    assert {one.keys for one in changed} == {"Ctrl+G"}
    assert all(not one.was and one.now for one in changed)
    workspace = quay.folder / "ombix.toml"
    workspace.write_text(workspace.read_text() + 'version = "2.0"\n')
    assert quay.status().other_version == "2.0"


@pytest.mark.parametrize("quay", ["nano"], indirect=True)
def test_an_editor_of_another_platform_is_left_alone(quay: Quay) -> None:
    workspace = quay.folder / "ombix.toml"
    workspace.write_text(workspace.read_text() + 'platform = "windows"\n')
    assert quay.apply().did == "elsewhere"
    assert not quay.file.exists()
    assert quay.status().standing == "elsewhere"


@pytest.mark.parametrize("quay", ["nano"], indirect=True)
def test_a_strangers_workspace_writes_nowhere_that_was_not_named(
    quay: Quay, tmp_path_factory: pytest.TempPathFactory
) -> None:
    elsewhere = tmp_path_factory.mktemp("elsewhere") / "secrets"
    elsewhere.write_text("mine\n")
    quay.file.symlink_to(elsewhere)
    with pytest.raises(InputError, match="outside of the workspace"):
        quay.apply()
    quay.file.unlink()
    workspace = quay.folder / "ombix.toml"
    workspace.write_text(workspace.read_text().replace("own.file", str(elsewhere)))
    with pytest.raises(InputError, match="nano looks for its keys in") as caught:
        quay.apply()
    assert str(elsewhere) in caught.value.advice
    assert elsewhere.read_text() == "mine\n"
    named = ApplyOptions(to=("quay",), agreed=("all",), into=str(elsewhere))
    elsewhere.write_text("# mine\n")
    assert carry_questions.apply(quay.session(), named).editors[0].did == "written"
    assert elsewhere.read_text().startswith("# mine\n# ombix: begin")
    assert quay.apply().did == "unchanged"


@pytest.mark.parametrize("quay", ["nano"], indirect=True)
def test_a_damaged_note_of_what_was_applied_is_said(quay: Quay) -> None:
    quay.apply()
    path = record_path(quay.folder.parent / f"{quay.folder.name}-state", quay.folder, "quay")
    whole = path.read_text()
    for damaged in (
        "{}",
        "\0",
        whole[:200],
        whole.replace('"made": "2', '"made": "x'),
        whole.replace('"content": "', '"content": "*'),
    ):
        path.write_text(damaged)
        found = quay.status()
        assert (found.standing, "damaged" in found.reason) == ("unreadable", True), damaged[:40]


def test_keys_edited_otherwise_in_two_editors_are_not_adopted_one_over_the_other(tmp_path: Path) -> None:
    place = tmp_path / "place"
    place.mkdir()
    (place / "k.keys.toml").write_text('format = 1\nname = "k"\n[bind.files]\nsave = "F2"\n')
    (place / "ombix.toml").write_text(
        'format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n'
        '[editor.quay]\ndialect = "nano"\nfile = "quayrc"\n[editor.desk]\ndialect = "nano"\nfile = "deskrc"\n'
    )
    assert ombix(place, "apply", "--yes").status == 0
    for name, command in (("quayrc", "cut"), ("deskrc", "whereis")):
        text = (place / name).read_text()
        (place / name).write_text(text.replace("bind F2 savefile main", f"bind F2 {command} main"))
    before = (place / "k.keys.toml").read_text()
    ran = ombix(place, "apply", "--adopt")
    assert ran.status == 2
    assert "F2 was edited in quay (edit.cut) and in desk (search.find)" in " ".join(ran.err.split())
    assert (place / "k.keys.toml").read_text() == before
    assert ombix(place, "apply", "--adopt", "--to", "quay").status == 0
    assert "cut" in (place / "k.keys.toml").read_text()


def test_what_was_applied_is_taken_out_also_of_an_editor_that_is_named_no_more(tmp_path: Path) -> None:
    place = tmp_path / "place"
    place.mkdir()
    (place / "k.keys.toml").write_text('format = 1\nname = "k"\n[bind.files]\nsave = "F2"\n')
    workspace = 'format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n'
    (place / "ombix.toml").write_text(f'{workspace}[editor.quay]\ndialect = "nano"\nfile = "quayrc"\n')
    (place / "quayrc").write_text("bind F5 cut main\n")
    assert ombix(place, "apply", "--yes").status == 0
    (place / "ombix.toml").write_text(workspace)
    would = ombix(place, "apply", "--remove", "--dry-run")
    assert "- bind F2 savefile main" in would.out and "savefile" in (place / "quayrc").read_text()
    assert ombix(place, "apply", "--remove").status == 0
    assert (place / "quayrc").read_text() == "bind F5 cut main\n"
    assert ombix(place, "undo").status == 0
    assert "savefile" in (place / "quayrc").read_text()


def test_a_file_that_its_editor_writes_anew_is_known_entry_by_entry(tmp_path: Path) -> None:
    """As micro does at its first start: without comments, in another order, with keys of its own."""
    place = tmp_path / "place"
    place.mkdir()
    keymap = 'format = 1\nname = "k"\n[bind.files]\nsave = "F2"\n[bind.edit]\ncut = "F6"\n[bind.search]\nnext = "F7"\n'
    (place / "k.keys.toml").write_text(keymap)
    (place / "ombix.toml").write_text(
        'format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n[editor.quay]\ndialect = "micro"\nfile = "b.json"\n'
    )
    (place / "b.json").write_text('{\n    "Alt-p": "Paste"\n}\n')
    assert ombix(place, "apply", "--yes").status == 0

    def written_anew(**more: str) -> None:
        lines = [line for line in (place / "b.json").read_text().splitlines() if not line.strip().startswith("//")]
        text = "\n".join(lines).replace(",\n    ,", ",")
        table = json.loads(re.sub(r",(\s*})", r"\1", re.sub(r'"\n\s*,', '",', text)))
        (place / "b.json").write_text(json.dumps(dict(sorted({**table, "Ctrl-s": "Save", **more}.items()))))

    written_anew()
    assert "up to date" in ombix(place, "status").out
    assert "edited by hand" not in ombix(place, "status").out
    written_anew(F6="Copy")
    status = json.loads(ombix(place, "status", "--json").out)["editors"][0]
    assert status["standing"] == "edited by hand"
    assert [(one["keys"], one["is_inside"]) for one in status["edits"]] == [("F6", True)]
    assert ombix(place, "apply").status == 1
    (place / "k.keys.toml").write_text(keymap.replace('[bind.search]\nnext = "F7"\n', ""))
    assert ombix(place, "apply", "--overwrite").status == 0
    text = (place / "b.json").read_text()
    assert "F7" not in text and text.count("F6") == 1 and '"Alt-p"' in text and '"Ctrl-s"' in text
    written_anew()
    assert ombix(place, "apply", "--remove").status == 0
    assert json.loads((place / "b.json").read_text()) == {"Alt-p": "Paste", "Ctrl-s": "Save"}
