"""The stand-ins' files: every construct of each, by hand."""

import re

import pytest

from ombix.core.errors import InputError
from ombix.core.keymap.bindings import Keymap
from ombix.core.keymap.outcomes import Do, Press, Type
from ombix.core.keys.notation import parse, write
from ombix.editors.file_reading import FileReading, read_file
from ombix.editors.file_writing import write_file
from tests.helpers import dialect, editors_space, shipped


def rows(reading: FileReading) -> list[tuple[str, str, str]]:
    return [(write(one.trigger), str(one.outcome), one.where) for one in reading.layer.bindings]


HEDDLE = """\
loom-width = 4

[[shed.cloth]]
treadle = "ctrl~shift~k"
lifts = "repeat-row"
while = "picked & !knotted"
pattern = "tomorrow's crossing"

[[shed.cloth]]
treadle = "shift~ctrl~k m"
lifts = "thread-mark(2)"
loom = "lap-loom"

[[shed.basket]]
untied = "f2"

[[shed.cloth]]
treadle = "alt~press"
lifts = 'edge-left,"crossing(",edge-right,")"'

[[shed.cloth]]
treadle = "f5"
lifts = "thread-mark(1;2)"

[[shed.cloth]]
treadle = "f5"
lifts = "repaet-row"

[[shed.cloth]]
treadle = "f5"
lifts = "repeat-row"
loom = "lap-lom"

[[shed.cloth]]
treadle = "f5"
lifts = "repeat-row"
whlie = "picked"

[[shed.attic]]
treadle = "f5"
lifts = "repeat-row"
"""


def test_every_construct_of_heddle() -> None:
    reading = read_file(dialect("heddle"), HEDDLE, "heddle.toml")
    assert rows(reading) == [
        ("Ctrl+Shift+K", "line.copy-down", "pane is text and selection is not none and not readonly"),
        ("Ctrl+Shift+K m", "bookmark.set(slot=2)", "pane is text"),
        ("Alt+Click", "macro on-alt-click", "pane is text"),
        ("F2", "nothing", "pane is files"),
    ]
    assert reading.layer.bindings[0].why == "tomorrow's crossing"
    assert reading.layer.bindings[1].platforms == frozenset({"mac"})
    steps = reading.layer.macros["on-alt-click"].steps
    assert steps == (Do("cursor.line-start"), Type("crossing("), Do("cursor.line-end"), Type(")"))
    faults = [line.became for line in reading.account if line.is_fault]
    assert len(faults) == 5
    for fault, what in zip(
        faults, ["thread-mark(1;2)", "repeat-row", "lap-loom", "knows no such", "has no section attic"], strict=True
    ):
        assert what in fault
    assert [line.became for line in reading.account if line.is_kept and not line.is_fault] == [
        "a setting, not a key binding"
    ]


def test_heddle_has_other_keys_on_a_mac() -> None:
    layer = dialect("heddle").default_layer

    def on(platform: str) -> dict[str, str]:
        bindings = Keymap([layer]).in_force(shipped.platform(platform)).bindings
        return {write(one.trigger): str(one.outcome) for one in bindings}

    assert on("mac")["Meta+ArrowUp"] == on("windows")["Ctrl+Home"] == "cursor.document-start"
    assert "Meta+ArrowUp" not in on("linux")
    assert on("mac")["Meta+U"] == on("linux")["Ctrl+U"] == "history.undo"


OXBOW = """\
(bank left)
(reach calm
  (stroke "space t" twin-row "tomorrow's is today's")
  (stroke "K" lift)
  (stroke "c:a:k" buoy/3)
  (stroke "f5" (paddle "{to-spring}{go-rapids}a \\"b\\"{{}{go-calm}{to-delta}x S"))
  (still "x x")
  (stroke "f6" twin-rwo))
(reach rapids (stroke "j j" go-calm) (stroke "f5" (paddle "a {{}")))
(reach bayou (stroke "f6" lift))
"""


def test_every_construct_of_oxbow() -> None:
    reading = read_file(dialect("oxbow"), OXBOW, "reaches.oxbow")
    normal = "pane is text and mode is normal"
    assert rows(reading) == [
        ("Space t", "line.copy-down", normal),
        ("Shift+K", "edit.cut", normal),
        ("Ctrl+Alt+K", "bookmark.set(slot=3)", normal),
        ("F5", "macro on-f5", normal),
        ("x x", "nothing", normal),
        ("j j", "mode.normal", "pane is text and mode is insert"),
        ("F5", "macro on-f5-2", "pane is text and mode is insert"),
    ]
    steps = reading.layer.macros["on-f5"].steps
    # Where keys are commands, a text is keys, but for what is led into the mode for typing.
    assert steps == (Do("cursor.line-start"), Type('a "b"{'), Do("cursor.line-end"), Press(parse("x Space Shift+S")))
    assert reading.layer.macros["on-f5-2"].steps == (Type("a {"),)
    faults = [line.became for line in reading.account if line.is_fault]
    assert len(faults) == 2
    assert "twin-row" in faults[0]
    assert "bayou" in faults[1]


TARN = """\
<tarn use="mine" depth="7">
  <shore name="mine" over="reedy">
    <ripple by="tap-shift tap-shift" stirs="look" says="look for it"/>
    <ripple by="ctrl.drop" stirs="float-at[4]" while="afloat and no iced"/>
    <calm by="wave-north"/>
    <ripple by="ctrl.w" stirs="keep; keep-all"/>
  </shore>
  <shore name="reedy" over="brook">
    <ripple by="f9" stirs="row"/>
    <ripple by="ctrl.w" stirs="leave"/>
    <ripple by="ctrl.x" strs="leave"/>
  </shore>
  <shore name="unused" over="still"><ripple by="f9" stirs="leave"/></shore>
</tarn>
"""


def test_every_construct_of_tarn() -> None:
    reading = read_file(dialect("tarn"), TARN, "shores.xml")
    assert rows(reading) == [
        # What brook has above still:
        ("Ctrl+Y", "history.redo", "pane is text"),
        ("Ctrl+Z", "history.undo", "pane is text"),
        ("Alt+Backspace", "edit.delete-to-previous-word", "pane is text"),
        # What reedy has above brook, and the file's own above that:
        ("F9", "program.start", "always"),
        ("Shift Shift", "search.find", "always"),
        ("Ctrl+Click", "bookmark.set(slot=4)", "pane is text and not readonly"),
        ("WheelUp", "nothing", "always"),
        ("Ctrl+W", "macro on-ctrl-w", "always"),
    ]
    assert reading.layer.macros["on-ctrl-w"].steps == (Do("files.save"), Do("files.save-all"))
    (replaced,) = [line for line in reading.account if line.written == '<ripple by="ctrl.w" stirs="leave"/>']
    assert (replaced.became, replaced.other and replaced.other.line) == ("replaced by", 6)
    became = {line.written: line.became for line in reading.account}
    assert became['<shore name="mine" over="reedy"/>'] == "mine takes over reedy"
    (wrong,) = [line for line in reading.account if line.is_fault]
    assert "strs" in wrong.written
    assert wrong.place.line == 11


@pytest.mark.parametrize(
    ("text", "what"),
    [
        ('<tarn use="a"><shore name="a" over="a"/></tarn>', "a takes keys over from itself"),
        (
            '<tarn use="a"><shore name="a" over="b"/><shore name="b" over="c"/><shore name="c" over="a"/></tarn>',
            "takes keys over from itself",
        ),
    ],
)
def test_shores_that_lie_over_themselves_are_refused(text: str, what: str) -> None:
    with pytest.raises(InputError, match=re.escape(what)):
        read_file(dialect("tarn"), text, "shores.xml")


def test_a_shore_over_one_that_is_not_there_is_said() -> None:
    reading = read_file(dialect("tarn"), '<tarn use="a"><shore name="a" over="brok"/></tarn>', "shores.xml")
    (fault,) = [line for line in reading.account if line.is_fault]
    assert fault.became == "tarn knows no brok to take keys over from"


def test_a_shore_that_the_file_does_not_use_binds_nothing() -> None:
    reading = read_file(
        dialect("tarn"), '<tarn><shore name="a"><ripple by="f9" stirs="row"/></shore></tarn>', "shores.xml"
    )
    assert reading.layer.bindings == []
    assert all(line.became for line in reading.account)


@pytest.mark.parametrize(("name", "text"), [("heddle", HEDDLE), ("oxbow", OXBOW), ("tarn", TARN)])
def test_what_was_read_is_written_back(name: str, text: str) -> None:
    one = dialect(name)
    reading = read_file(one, text, "file")
    written = write_file(one, reading.layer, editors_space(), shipped.catalogue())
    again = read_file(one, written, "file")
    assert {(one.trigger, one.outcome, one.where, one.platforms, one.why) for one in again.layer.bindings} == {
        (one.trigger, one.outcome, one.where, one.platforms, one.why) for one in reading.layer.bindings
    }
    assert {one.steps for one in again.layer.macros.values()} == {one.steps for one in reading.layer.macros.values()}
    assert sorted(one.text for one in again.layer.kept) == sorted(one.text for one in reading.layer.kept)
