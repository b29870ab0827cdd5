"""Whether keys reach commands that do more than change a text."""

import pytest

from ombix.dialects.effects import settings_of
from ombix.dialects.reading import read_file
from ombix.proving.pressing import Bench, reacher
from ombix.proving.reaching import Reach, Wanted, reference
from tests.helpers import dialect, shipped
from tests.helpers import editors_space as space


def reached(name: str, config: str, keys: bytes, written: str) -> Reach:
    """What follows keys in an editor with a file, beside the way that it offers a command by itself."""
    one = dialect(name)
    section = one.edited_sections[0]
    assert not read_file(one, config, "config").layer.problems
    way = reference(one, one.terminal, section, written)
    assert way is not None
    bench = Bench(one, config, {}, one.terminal, space(), shipped.catalogue(), section, settings=settings_of(one))
    (found,) = reacher(bench).press_all([Wanted(keys, way)], lambda: None, lambda: False)
    return found


@pytest.mark.parametrize(
    ("name", "config", "keys", "written"),
    [
        ("nano", "bind F5 whereis main\n", b"\x1b[15~", "whereis"),
        ("nano", "bind F5 exit main\n", b"\x1b[15~", "exit"),
        ("nano", "bind F5 savefile main\n", b"\x1b[15~", "savefile"),
        ("micro", '{"F5": "Find"}', b"\x1b[15~", "Find"),
        ("dte", "bind F5 'wsplit'\n", b"\x1b[15~", "wsplit"),
        ("geany", "[Bindings]\nbuild_run=\nmenu_gotoline=F5\n", b"F5", "menu_gotoline"),
        ("mousepad", '(gtk_accel_path "<Actions>/win.search.find" "F5")\n', b"F5", "win.search.find"),
    ],
)
def test_keys_that_reach_a_command_agree(name: str, config: str, keys: bytes, written: str) -> None:
    found = reached(name, config, keys, written)
    assert found.agrees is True, found
    assert "its default key" in found.reason or "its command line" in found.reason


@pytest.mark.parametrize(
    ("name", "config", "keys", "written"),
    [
        ("nano", "bind F5 replace main\n", b"\x1b[15~", "whereis"),
        ("nano", "bind F5 home main\n", b"\x1b[15~", "exit"),
        ("micro", '{"F5": "ToggleHelp"}', b"\x1b[15~", "Find"),
        ("dte", "bind F5 'command'\n", b"\x1b[15~", "wsplit"),
        ("geany", "[Bindings]\nbuild_run=\nmenu_find=F5\n", b"F5", "menu_gotoline"),
        ("mousepad", '(gtk_accel_path "<Actions>/win.search.go-to" "F5")\n', b"F5", "win.search.find"),
        ("mousepad", "", b"F5", "win.search.find"),
    ],
)
def test_keys_that_run_another_command_differ(name: str, config: str, keys: bytes, written: str) -> None:
    found = reached(name, config, keys, written)
    if dialect(name).terminal.direct and found.agrees is None:  # what a window shows may not be the same twice
        assert "not the same each time" in found.reason
        return
    assert found.agrees is False


def test_what_shows_nothing_is_not_told() -> None:
    """Nothing follows a refresh."""
    found = reached("dte", "bind F6 'refresh'\n", b"\x1b[17~", "refresh")
    assert found.agrees is None
    assert "nothing that can be seen" in found.reason


def test_a_command_is_started_by_its_default_key_or_else_by_the_command_line() -> None:
    nano, dte, kakoune = dialect("nano"), dialect("dte"), dialect("kakoune")
    way = reference(nano, nano.terminal, "main", "savefile")
    assert way is not None and way.said == "its default key Ctrl+S" and way.keys == (b"\x13",)
    way = reference(dte, dte.terminal, "text", "wsplit")
    assert way is not None and way.keys == (b"\x1bx", b"wsplit", b"\r")
    way = reference(kakoune, kakoune.terminal, "normal", "<c-o>")
    assert way is not None and way.keys == (b"\x0f",)
    assert reference(dialect("geany"), dialect("geany").terminal, "window", "edit_joinlines") is None
