"""micro's file: every construct, and every command and key that its packaged help names."""

import json
import re
import shutil
from pathlib import Path

import pytest

from ombix.core.errors import InputError, NotationError
from ombix.core.keymap.bindings import Keymap
from ombix.core.keymap.outcomes import Do, Nothing, Only, Play
from ombix.core.keys.notation import write
from ombix.editors.file_reading import FileReading, read_file
from ombix.editors.file_writing import write_file
from ombix.files import keymap_reading, keymap_writing
from tests.helpers import dialect, shipped, space

MICRO = dialect("micro")


def help_text() -> str:
    """The help topic keybindings, which the program carries in itself as plain text."""
    found = shutil.which("micro")
    assert found, "micro is not installed; make test installs it"
    data = Path(found).read_bytes()
    start = data.index(b"# Keybindings\n\nMicro has")
    return data[start : data.index(b"## Final notes", start)].decode()


def documented(title: str) -> list[str]:
    text = help_text()
    block = text[text.index(title) :].split("```")[1]
    return [line.split(" ")[0] for line in block.split("\n") if line]


def read(text: str) -> FileReading:
    return read_file(MICRO, text, "bindings.json")


def rows(reading: FileReading) -> list[tuple[str, str, str]]:
    return [(write(one.trigger), str(one.outcome), one.where) for one in reading.layer.bindings]


def test_every_documented_command_is_known() -> None:
    names = [*documented("Full list of possible actions"), *documented("You can also bind some mouse actions")]
    assert len(names) > 90
    assert [name for name in names if name not in MICRO.vocabulary.commands and name != "None"] == []
    missing = {name for name, row in MICRO.vocabulary.commands.items() if row.documented} - set(names)
    assert missing == set()


NEVER = ("Ctrl-h", "Ctrl-i", "Ctrl-m")
"""Documented keys that never come, as was pressed: they are taken for OldBackspace, Tab and Enter."""


def test_every_documented_key_is_read() -> None:
    names = [*documented("list of all possible keys"), *documented("You can also bind some mouse buttons")]
    assert len(names) > 110
    for name in names:
        if name in NEVER:
            with pytest.raises(NotationError):
                MICRO.spelling.read(name)
        else:
            assert MICRO.spelling.read(name), name


def test_the_default_keys_are_those_of_the_help_but_for_what_the_program_does_otherwise() -> None:
    """The help is behind the program in a few rows; the program was asked with its command showkey."""
    text = help_text()
    start = text.index("# Default keybinding configuration")
    block = text[start:].split("```json")[1].split("```")[0]
    helped = {
        write(MICRO.spelling.read(json.loads(key).replace("Ctrl-h", "OldBackspace"))[:1]): json.loads(command)
        for key, command, mac in re.findall(r'("[^"]+"):\s*("[^"]*"),?\s*(\(Mac\))?', block)
        if not mac
    }
    mine = {
        write(one.trigger): one.written
        for one in MICRO.default_layer.bindings
        if one.where == "pane is text" and one.platforms != {"mac"}
    }
    differing = {keys for keys in helped if mine.get(keys) != helped[keys]}
    assert differing == {
        "Home", "Alt+A", "Shift+Tab", "Escape",  # the program has other commands
        "Ctrl+Shift+ArrowLeft", "Ctrl+Shift+ArrowRight", "Ctrl+ArrowLeft", "Ctrl+ArrowRight",  # the Mac's are unmarked
    } & differing  # fmt: skip
    assert set(mine) - set(helped) == {"Alt+Shift+F", "Alt+/", "Ctrl+_", "Ctrl+ArrowLeft", "Ctrl+ArrowRight"} & set(
        mine
    )


EVERY_CONSTRUCT = r"""
// a comment
{
    "Ctrl-y": "Undo", /* another */
    'CtrlG': "Redo",
    "Alt-g": "Save",
    "AltG": "SaveAs",
    "Alt-Up": "None",
    "<Ctrl-x><Ctrl-c>": "QuitAll",
    "Alt-s": "Save,Quit",
    "Tab": "Autocomplete|IndentSelection|InsertTab",
    "F5": "Copy&Cut|Paste",
    "Alt-p": "command:pwd",
    "Ctrl-l": "command-edit:goto ",
    "Alt-k": "command-edit:help ",
    "Ctrl-r": "lua:initlua.gorun",
    "\u001bctrlback": "DeleteWordLeft",
    "OldBackspace": "Backspace",
    "MouseWheelUp": "ScrollUp",
    "Ctrl-MouseLeft": "MouseMultiCursor",
    "F70": "Save",
    "F6": "Saev",
    "F7": 5,
    "command": { "Ctrl-w": "WordLeft", "Up": "HistoryUp", },
    "terminal": { "<Ctrl-q><Ctrl-q>": "Exit" },
    "sidebar": { "Up": "CursorUp" },
}
"""


def test_every_construct() -> None:
    reading = read(EVERY_CONSTRUCT)
    text = "pane is text"
    assert rows(reading) == [
        ("Ctrl+Y", "history.undo", text),
        ("Ctrl+G", "history.redo", text),
        ("Alt+G", "files.save", text),
        ("Alt+Shift+G", "files.save-as", text),
        ("Alt+ArrowUp", "nothing", text),
        ("Ctrl+X Ctrl+C", "app.quit-all", text),
        ("Alt+S", "macro on-alt-s", text),
        ("Tab", "edit.tab", text),
        ("F5", "Copy&Cut|Paste (micro only)", text),
        ("Alt+P", "command:pwd (micro only)", text),
        ("Ctrl+L", "go.line", text),
        ("Alt+K", "command-edit:help  (micro only)", text),
        ("Ctrl+R", "lua:initlua.gorun (micro only)", text),
        ("Ctrl+H", "edit.delete-left", text),
        ("WheelUp", "view.scroll-up", text),
        ("Ctrl+Click", "mouse.add-cursor", text),
        ("Ctrl+W", "cursor.word-left", "pane is command"),
        ("ArrowUp", "prompt.older", "pane is command"),
        ("Ctrl+Q Ctrl+Q", "Exit (micro only)", "pane is terminal"),
    ]
    assert reading.layer.macros["on-alt-s"].steps == (Do("files.save"), Do("app.quit"))
    kept = {line.written: line.became for line in reading.account if line.is_kept}
    assert set(kept) == {
        r'"\u001bctrlback": "DeleteWordLeft"', '"F70": "Save"', '"F6": "Saev"', '"F7": 5',
        '"sidebar": { "Up": "CursorUp" }',
    }  # fmt: skip
    assert "Save" in kept['"F6": "Saev"']
    assert len(reading.account) == 24


def test_what_was_not_understood_is_written_back_as_it_was() -> None:
    reading = read(EVERY_CONSTRUCT)
    text = write_file(MICRO, reading.layer, space(), shipped.catalogue())
    again = read(text)
    assert sorted(rows(again)) == sorted(rows(reading))
    assert {one.text for one in again.layer.kept} == {one.text for one in reading.layer.kept}


def test_a_file_that_binds_every_documented_command_is_accounted_for_line_by_line() -> None:
    commands = [*documented("Full list of possible actions"), *documented("You can also bind some mouse actions")]
    keys = [MICRO.spelling.write((chord,)) for chord in MICRO.spelling.chords()][: len(commands)]
    text = json.dumps(dict(zip(keys, commands, strict=False)), indent=4)
    reading = read(text)
    assert len(reading.account) == len(commands)
    assert [line.written for line in reading.account if line.is_kept] == []
    assert len(reading.layer.bindings) == len(commands)
    here = space()
    again = read(write_file(MICRO, reading.layer, here, shipped.catalogue()))
    assert sorted(rows(again)) == sorted(rows(reading))
    third = keymap_reading.read(keymap_writing.dump(reading.layer), "k", shipped.catalogue(), shipped.facts())
    assert len(third.bindings) == len(commands)


def test_a_later_line_replaces_an_earlier_one() -> None:
    reading = read('{\n"F5": "Save",\n"F5": "Undo"\n}')
    assert rows(reading) == [("F5", "history.undo", "pane is text")]
    first = reading.account[0]
    assert (first.became, first.other and first.other.line) == ("replaced by", 3)


@pytest.mark.parametrize(
    ("text", "line", "column", "what"),
    [
        ('{"a": "b"', 1, 1, "before this { is closed"),
        ('{"a" "b"}', 1, 6, "expected :"),
        ('{"F5": "Save"\n"F6": "Undo"}', 2, 1, "expected ,"),
        ('{"F5": "Sa', 1, 8, "never closed"),
        ('{"F5": }', 1, 8, "expected a value"),
        ("[]", 1, 1, "expected names with values"),
        ('{"F5": "\\x"}', 1, 8, "escape"),
        ('{"a": "b"} {', 1, 12, "after the end"),
        ('{"a": [[}', 1, 9, "closes nothing"),
        ('{"x": ' + "[" * 1000, 1, 107, "levels of nesting"),
    ],
)
def test_broken_syntax_gets_its_place(text: str, line: int, column: int, what: str) -> None:
    with pytest.raises(InputError, match=re.escape(what)) as caught:
        read(text)
    assert caught.value.place is not None
    assert (caught.value.place.line, caught.value.place.column) == (line, column)


def test_an_empty_file_and_an_empty_object_have_no_bindings() -> None:
    assert read("").layer.bindings == []
    assert read("\ufeff{ }\n").layer.bindings == []


def test_the_mac_has_defaults_of_its_own() -> None:
    def on(platform: str) -> dict[str, str]:
        bindings = Keymap([MICRO.default_layer]).in_force(shipped.platform(platform)).bindings
        return {write(one.trigger): str(one.outcome) for one in bindings if one.where == "pane is text"}

    assert on("mac")["Alt+ArrowLeft"] == "cursor.word-left"
    assert on("linux")["Alt+ArrowLeft"] == "cursor.text-start-or-line-start"


def test_outcomes() -> None:
    assert MICRO.vocabulary.outcome("None") == Nothing()
    assert MICRO.vocabulary.outcome("lua:x.y") == Only("micro", "lua:x.y")
    assert MICRO.vocabulary.outcome("Zzz") is None
    assert isinstance(read('{"F5": "Save,Quit"}').layer.bindings[0].outcome, Play)
