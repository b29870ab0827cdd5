"""Files that give each command its keys."""

import pytest

from ombix.core.errors import Place
from ombix.core.keymap.bindings import Binding, Layer, LayerName
from ombix.core.keymap.outcomes import Nothing
from ombix.core.keys.notation import parse
from ombix.editors.file_reading import FileReading, read_file
from ombix.editors.file_writing import write_file
from tests.helpers import dialect, shipped
from tests.helpers import editors_space as space


def read(name: str, text: str) -> FileReading:
    return read_file(dialect(name), text, "file")


def does(reading: FileReading, keys: str) -> str:
    """What the layer of a file says of keys; the last word."""
    found = [str(one.outcome) for one in reading.layer.bindings if one.trigger == parse(keys)]
    return found[-1] if found else "not said"


def test_a_key_in_the_place_of_the_default_one() -> None:
    found = read("geany", "[Bindings]\nmenu_save=<Alt>s\n")
    assert does(found, "Alt+S") == "files.save"
    assert does(found, "Ctrl+S") == str(Nothing())
    assert does(found, "Ctrl+N") == "not said"


def test_a_command_without_keys() -> None:
    found = read("geany", "[Bindings]\nmenu_save=\nedit_joinlines=\n")
    assert does(found, "Ctrl+S") == str(Nothing())
    assert len(found.layer.bindings) == 1
    assert [line.became for line in found.account if "joinlines" in line.written] == [
        "edit_joinlines has no keys by default either"
    ]


def test_several_keys() -> None:
    found = read("mcedit", "[editor]\nDeleteLine = ctrl-k; f8; ctrl-y\nDeleteToEnd =\nRemove =\n")
    assert [does(found, keys) for keys in ("Ctrl+K", "F8")] == ["line.delete", "line.delete"]
    assert does(found, "Ctrl+Y") == "line.delete"


def test_with_a_key_goes_what_arrives_alike() -> None:
    """mcedit knows of Shift+Tab and Ctrl+Shift+Tab, which arrive as the same bytes, the first only."""
    mcedit, name = dialect("mcedit"), LayerName("keymap", "keymap")
    gone = Binding(parse("Shift+Tab"), Nothing(), Place("keymap"), name, mcedit.where(["editor"]))
    text = write_file(mcedit, Layer(name, [gone]), space(), shipped.catalogue(), headings=False)
    assert "Tab = tab; ctrl-tab\n" in text
    found = read_file(mcedit, text, "file")
    assert [does(found, keys) for keys in ("Shift+Tab", "Ctrl+Shift+Tab")] == [str(Nothing())] * 2
    assert does(found, "Ctrl+Tab") == "edit.tab"


def test_a_scheme_that_names_few_leaves_the_others_without_keys() -> None:
    found = read(
        "kate",
        '<gui name="katepart" version="1"><ActionProperties scheme="x"><Action name="file_save" shortcut="F2"/>'
        "</ActionProperties></gui>",
    )
    assert does(found, "F2") == "files.save"
    assert [does(found, keys) for keys in ("Ctrl+Z", "Ctrl+S", "Home")] == [str(Nothing())] * 3
    assert does(found, "Enter") == "not said"  # no scheme names it


@pytest.mark.parametrize(
    ("name", "text", "keys", "found"),
    [
        # Pressed in geany 1.38: Undo stands before both.
        ("geany", "[Bindings]\nmenu_undo=<Primary>d\n", "Ctrl+D", "history.undo"),
        ("geany", "[Bindings]\nedit_deleteline=<Primary>z\n", "Ctrl+Z", "not said"),
        ("geany", "[Bindings]\nmenu_cut=<Primary>d\nedit_deleteline=<Primary>d\n", "Ctrl+D", "not said"),
        # Pressed in mousepad 0.5.10.
        ("mousepad", '(gtk_accel_path "<Actions>/win.edit.select-all" "<Primary>i")', "Ctrl+I", "not said"),
        ("mousepad", '(gtk_accel_path "<Actions>/win.edit.increase-indent" "<Primary>a")', "Ctrl+A", "not said"),
    ],
)
def test_two_commands_with_the_same_keys(name: str, text: str, keys: str, found: str) -> None:
    reading = read(name, text)
    assert does(reading, keys) == found
    if found == "not said":
        assert any(line.is_fault and "has no effect" in line.became for line in reading.account)


def test_what_is_written_leaves_no_two_commands_the_same_keys() -> None:
    one = dialect("geany")
    layer = read("geany", "[Bindings]\nmenu_undo=<Primary>d\n").layer
    text = write_file(one, layer, space(), shipped.catalogue())
    assert "menu_undo = <Primary>d" in text
    assert "edit_duplicateline = \n" in text
    assert not any(line.is_fault for line in read("geany", text).account)
