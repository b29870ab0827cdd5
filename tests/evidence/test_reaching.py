"""Whether keys reach commands that do more than change a text."""

import pytest
from msgspec.structs import replace

from ombix.core.conditions import States
from ombix.core.keymap.bindings import Keymap, Layer, LayerName
from ombix.core.keymap.deciding import decide_all
from ombix.core.keys.notation import Trigger
from ombix.core.pressing.terminals import as_arriving
from ombix.editors.command_effects import settings_of
from ombix.editors.file_reading import read_file
from ombix.editors.file_writing import write_file
from ombix.evidence.command_check import CheckResult, KeyToCheck
from ombix.evidence.command_references import Bindings, plain_file, reference
from ombix.evidence.key_proof import EditorSetup, reacher
from ombix.evidence.preparing_keys import Preparation, Preparer
from tests.helpers import REAL, dialect, others_in_all, shipped
from tests.helpers import editors_space as space


def preparer(name: str, layer: Layer) -> Preparer:
    """What comes first in an editor with a layer as its file."""
    one = dialect(name)
    bindings = Keymap([one.default_layer, layer]).in_force(shipped.platform("linux")).bindings
    tables = decide_all(as_arriving(bindings, one.terminal), one.space, shipped.catalogue(), one.policy)
    return Preparer(one, one.terminal, one.edited_sections[0], one.space, tables, lambda _keys, _command: True)


def reached(name: str, config: str, keys: bytes, written: str, action: str = "") -> CheckResult:
    """What follows keys in an editor with a file, beside the way that it offers a command by itself, also behind what may come
    first."""
    one = dialect(name)
    section = one.edited_sections[0]
    layer = read_file(one, config, "config").layer
    assert not layer.problems
    way = reference(one, one.terminal, section, written, (keys,))
    assert way is not None
    bench = EditorSetup(one, config, {}, one.terminal, space(), shipped.catalogue(), section, settings=settings_of(one))

    def ported(more: Bindings) -> str:
        whole = replace(layer, bindings=[*layer.bindings, *more])
        return write_file(one, whole, one.space, shipped.catalogue(), headings=False)

    first: list[Preparation] = []
    if action:
        first = preparer(name, layer).ways(action, shipped.comes_first(), (keys, *way.keys))
        assert first
    press = reacher(bench, ported) if action else reacher(bench)
    (found,) = press.press_all([KeyToCheck(keys, way, tuple(first))], lambda: None, lambda: False)
    return found


def told(name: str, config: str, keys: bytes, written: str, action: str) -> CheckResult:
    """What follows; in a window, where a busy machine may show something else each time, it is asked again when it cannot be
    told."""
    found = reached(name, config, keys, written, action)
    for _ in range(2):
        if found.agrees is None and dialect(name).terminal.direct:
            found = reached(name, config, keys, written, action)
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


@pytest.mark.long
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


BEHIND_OTHERS = [
    ("micro", '{{"F5": "{}"}}', b"\x1b[15~", "FindNext", "search.next", "FindPrevious"),
    ("micro", '{{"F5": "{}", "Ctrl-t": "Redo"}}', b"\x1b[15~", "NextTab", "tabs.next", "Quit"),
    ("micro", '{{"F5": "{}"}}', b"\x1b[15~", "PlayMacro", "macro.play", "Paste"),
    ("nano", "bind F5 {} main\n", b"\x1b[15~", "runmacro", "macro.play", "indent"),
    ("mcedit", "[editor]\n{} = f5\n", b"\x1b[15~", "Store", "edit.copy-selection", "Cut"),
    ("dte", "bind F5 '{}'\n", b"\x1b[15~", "wnext", "panes.next", "wclose"),
    ("joe", ":main\n{}\t.k5\n", b"\x1b[15~", "nbuf", "tabs.next", "tos"),
    ("geany", "[Bindings]\nbuild_run=\n{}=F5\n", b"F5", "menu_findnext", "search.next", "menu_undo"),
    ("mousepad", '(gtk_accel_path "<Actions>/{}" "F5")\n', b"F5", "win.document.next-tab", "tabs.next", "win.edit.undo"),
]  # fmt: skip
SOON = [one for one in BEHIND_OTHERS if one[3] in ("NextTab", "runmacro", "menu_findnext")]
"""One of a tab, one of a macro, one in a window."""
SHOW_SOMETHING = ("runmacro", "menu_findnext")
"""Commands that say or ask something where nothing came first."""


@pytest.mark.long(first=True)
@pytest.mark.parametrize(("name", "config", "keys", "written", "action", "other"), others_in_all(BEHIND_OTHERS, *SOON))
def test_what_needs_something_first_is_pressed_behind_it(
    name: str, config: str, keys: bytes, written: str, action: str, other: str
) -> None:
    """A search that goes on, another tab, what is recorded, what is copied; and another command there is told from it."""
    if written not in SHOW_SOMETHING and not dialect(name).terminal.direct:  # in a window that takes minutes
        assert reached(name, config.format(written), keys, written).agrees is None
    found = told(name, config.format(written), keys, written, action)
    assert found.agrees is True, found
    found = told(name, config.format(other), keys, written, action)
    assert found.agrees is False, found


def test_what_comes_first_has_the_same_command_on_a_key_of_each_side() -> None:
    """A file that has taken the key for a new tab has another one for it; without the file it is the default key."""
    one = dialect("micro")
    layer = read_file(one, '{"F5": "NextTab", "Ctrl-t": "Redo"}', "config").layer
    ways = preparer("micro", layer).ways("tabs.next", shipped.comes_first(), (b"\x1b[15~", b"\x1b."))
    assert ways
    first = ways[0]
    (bound,) = first.ported.bindings
    assert str(bound.outcome) == "AddTab (micro only)"
    assert first.ported.before == (one.terminal.send(bound.trigger),) != first.plain.before
    assert first.plain.before == (b"\x14",)
    assert not first.plain.bindings


def test_nothing_comes_first_where_an_editor_has_no_command_for_it() -> None:
    """Nano has no panes, and a search is not ended with Escape in a terminal."""
    for action, count in (("panes.next", 0), ("search.next", 1)):
        assert len(preparer("nano", Layer(LayerName("k", "k"))).ways(action, shipped.comes_first(), ())) == count


@pytest.mark.long
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
    geany = dialect("geany")
    way = reference(geany, geany.terminal, "window", "edit_joinlines", (b"F12",))
    assert way is not None and way.keys == (b"Shift+F7",)
    assert "edit_joinlines = <Shift>F7" in plain_file(geany, way.bindings)
    way = reference(nano, nano.terminal, "main", "tab")
    assert way is not None and not way.bindings


@pytest.mark.parametrize("name", REAL)
def test_the_file_without_what_is_ported_has_the_default_keys(name: str) -> None:
    """Kate knows no other keys than those that its file names."""
    one = dialect(name)
    catalogue = shipped.catalogue()
    text = plain_file(one)
    layer = read_file(one, text, "config").layer
    assert not layer.problems
    assert bool(layer.bindings) == (name == "kate")

    def decided(*layers: Layer) -> dict[Trigger, list[tuple[States, str]]]:
        bindings = Keymap([*layers]).in_force(shipped.platform("linux")).bindings
        tables = decide_all(bindings, one.space, catalogue, one.policy)
        return {keys: [(row.states, str(row.binding.outcome)) for row in each.rows] for keys, each in tables.items()}

    assert decided(one.default_layer, layer) == decided(one.default_layer)
