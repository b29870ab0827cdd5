"""What no editor's file should be: each reader gives one clear error or an account of every piece, in bounded time."""

from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ombix.core.errors import OmbixError
from ombix.editors.file_reading import read_file
from tests.helpers import MORE, dialect, known, ombix

SAMPLES = {
    "ex": 'set noremap\nmap q :wq\x16\r\nmap! #5 abc\nunmap q\n',
    "heddle": '# the crew\'s\n[[shed.cloth]]\ntreadle = "ctrl~k t"\nlifts = "repeat-row"\nwhile = "picked & !knotted"\n\n'
    '[[shed.basket]]\nuntied = "f2"\nloom = "lap-loom"\n\n[selvedge]\nwidth = 2\n',
    "oxbow": '; the crew\'s\n(reach calm\n  (stroke "space t" twin-row "tomorrow\'s is today\'s")\n  (still "x x")\n'
    '  (stroke "f5" (paddle "{to-spring}a \\"b\\"{to-delta}")))\n(bank left)\n',
    "tarn": '<tarn use="mine">\n <!-- the crew\'s -->\n <shore name="mine" over="brook">\n'
    '  <ripple by="tap-ctrl tap-ctrl" stirs="float-at[2]" while="afloat and no iced"/>\n'
    '  <calm by="ctrl.w"/>\n </shore>\n</tarn>\n',
    "joe": ':include joerc\n\n:main\nbof\t^K U\n:delete ^F\n:def twice dnarw,dnarw\ntwice\t^[ t\n"hello"\t^[ h\n',
    "kakoune": "declare-user-mode pier\nmap global normal <c-p> ':enter-user-mode pier<ret>'\nmap global pier s :w<ret>\n"
    "hook global WinSetOption filetype=sh %{ map window insert <F5> 'a b' -docstring 'it''s' }\n",
    "micro": '{ "Ctrl-s": "Save", // save\n "Alt-x": "Cut,Paste", "terminal": { "<Ctrl-q><Ctrl-q>": "Exit" } }\n',
    "dte": "# the crew's\nset tab-width 4\nbind ^D 'delete-line; down'\nbind M-j join\nbind C-up\nbind F2 \"insert -m x\"\n",
    "geany": "# the crew's\n[Bindings]\nmenu_save=<Primary><Shift>s\nedit_joinlines = <Alt>j\nmenu_quit=\n",
    "kate": '<gui name="katepart" version="1">\n <!-- the crew\'s -->\n <ActionProperties scheme="pier">\n'
    '  <Action name="file_save" shortcut="Ctrl+S; F2"/>\n  <Action name="tools_comment" shortcut=""/>\n'
    '  <Action name="edit_undo" shortcut="Ctrl+K, Z"/>\n </ActionProperties>\n</gui>\n',
    "mcedit": "[editor]\n# the crew's\nDeleteLine = ctrl-k; f8\nRemove =\nMark = alt-shift-m\n\n[dialog]\nUp = up\n",
    "mousepad": '; the crew\'s\n(gtk_accel_path "<Actions>/win.edit.cut" "<Primary>k")\n'
    '(gtk_accel_path "<Actions>/app.quit" "")\n; (gtk_accel_path "<Actions>/win.edit.copy" "<Primary>c")\n',
    "nano": 'bind ^S savefile main\nbind M-T "{home}x{end}" main\nunbind ^K all\nset autoindent\n',
}  # fmt: skip
EDITORS = known()


def test_every_editor_has_a_sample() -> None:
    assert set(SAMPLES) == set(EDITORS)


def read(name: str, text: str) -> int:
    """How many pieces a text has, or -1 for an error with a place; nothing else may happen."""
    try:
        reading = read_file(dialect(name), text, "file")
    except OmbixError as error:
        assert error.what
        assert error.place is not None
        assert error.place.line > 0
        return -1
    assert all(line.became for line in reading.account)
    return len(reading.account)


@pytest.mark.parametrize("name", EDITORS)
@pytest.mark.parametrize("text", ["", "\n\n\n", "   ", "\ufeff", "\r\n\r\n", "#", '"', "//"])
def test_nothing_is_an_empty_file(name: str, text: str) -> None:
    assert read(name, text) in (0, 1, -1)


@pytest.mark.parametrize("name", EDITORS)
def test_a_truncated_file_gives_an_error_or_an_account(name: str) -> None:
    sample = SAMPLES[name]
    for length in range(len(sample)):
        read(name, sample[:length])


@pytest.mark.parametrize("name", EDITORS)
def test_line_ends_and_a_byte_order_mark_make_no_difference(name: str) -> None:
    plain = read_file(dialect(name), SAMPLES[name], "file")
    for text in (SAMPLES[name].replace("\n", "\r\n"), "\ufeff" + SAMPLES[name]):
        other = read_file(dialect(name), text, "file")
        assert [(b.trigger, b.outcome, b.where) for b in other.layer.bindings] == [
            (b.trigger, b.outcome, b.where) for b in plain.layer.bindings
        ]


@pytest.mark.parametrize("name", EDITORS)
@pytest.mark.parametrize("piece", ["{", "[", "(", "%{", "'", '"', "<", "map ", "bind ", ":", "\\", "\x16", "|", ","])
def test_thousands_of_levels_and_repetitions_are_read_or_refused(name: str, piece: str) -> None:
    read(name, piece * 2000)
    read(name, (piece + "\n") * 2000)
    read(name, f"map global normal x {piece * 2000}\nbind ^S {piece * 2000} main\n")


@pytest.mark.parametrize("name", EDITORS)
def test_control_characters_and_markup_are_kept_or_refused(name: str) -> None:
    for text in (
        "\x1b[31mred\x1b[0m",
        "<script>alert(1)</script>",
        "\x00\x01\x02",
        "bind \x1b[2J exit main",
        "map a \x1b]0;t\x07",
    ):
        read(name, text)


@pytest.mark.parametrize("name", EDITORS)
def test_whatever_is_put_into_a_file_it_is_read_or_refused(name: str) -> None:
    sample = SAMPLES[name]

    @settings(max_examples=80 * MORE)
    @given(st.integers(0, len(sample)), st.integers(0, 12), st.text(max_size=12))
    def check(place: int, away: int, more: str) -> None:
        read(name, sample[:place] + more + sample[place + away :])

    check()


@pytest.mark.parametrize("name", EDITORS)
def test_the_program_answers_with_one_error_or_an_account(ferry: Path, name: str) -> None:
    for number, data in enumerate((b"", b"\xff\xfe\x00map", b"{" * 3000, SAMPLES[name].encode("utf-16"))):
        file = ferry / f"file{number}"
        file.write_bytes(data)
        ran = ombix(ferry, "adopt", file.name, "--editor", name, "--name", f"own{number}")
        assert ran.status in (0, 1, 2), ran.err
        assert ran.err.count("error:") <= 1
    assert ombix(ferry, "adopt", "nowhere", "--editor", name).status == 2
    assert ombix(ferry, "adopt", ".", "--editor", name).status == 2
