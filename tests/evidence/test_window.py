"""Editors in a window: a display of their own, real key events, and nothing left behind."""

import os
import subprocess
import sys
import threading
import time
from pathlib import Path

import pytest

from ombix.core.errors import OutsideError
from ombix.core.keys.notation import parse
from ombix.core.pressing.layouts import KeyboardSetup
from ombix.evidence import editor_host, hidden_display
from ombix.evidence.editor_host import EditorHost, Runs, plain_keyboard, press, require
from ombix.evidence.editor_run import Start
from ombix.evidence.hidden_display import HiddenScreen, xkb_name
from ombix.evidence.sandbox import best_sandbox
from tests.helpers import dialect, shipped

GEANY = dialect("geany").description
MOUSEPAD = dialect("mousepad").description


def in_geany(keys: list[bytes], config: str = "", keyboard: KeyboardSetup | None = None) -> str | None:
    assert GEANY.program is not None
    start = Start(GEANY.file.name, config, "one two\nthree\n", 1, 3)
    return press(GEANY.program, start, keys, b"Ctrl+S", EditorHost(best_sandbox(), keyboard)).text


def test_what_is_typed_stands_where_the_cursor_was_put() -> None:
    assert in_geany([b"@"]) == "on@e two\nthree\n"


def test_a_file_that_gives_a_command_keys_takes_its_default_ones_away() -> None:
    """The manual: one key combination for each action."""
    moved = "[Bindings]\nedit_deleteline=<Alt>x\n"
    assert in_geany([b"Alt+X"], moved) == "three\n"
    assert in_geany([b"Ctrl+K", b"@"], moved) == "on@e two\nthree\n"
    assert in_geany([b"Ctrl+K"]) == "three\n"


@pytest.mark.parametrize(("layout", "chord"), [("us", "z"), ("de", "z"), ("fr", "2")])
def test_keys_are_pressed_on_the_layout_at_hand(layout: str, chord: str) -> None:
    """z is at another place on a German keyboard, and a digit needs Shift on a French one."""
    found = shipped.layout(layout)
    setup = KeyboardSetup(found, shipped.keyboard("full", found.shape), shipped.platform("linux"))
    assert in_geany([chord.encode()], keyboard=setup) == f"on{chord}e two\nthree\n"


def test_what_the_layout_has_no_key_for_is_said(tmp_path: Path) -> None:
    screen = HiddenScreen(tmp_path, plain_keyboard())
    try:
        assert "ß" in screen.press(parse("Ctrl+ß"))
        assert screen.press(parse("Ctrl+K")) == ""
    finally:
        screen.close()


def test_the_name_that_xkb_has_for_a_layout() -> None:
    assert xkb_name("xkb-data 2.35.1-1, symbols/de(nodeadkeys)") == ("de", "nodeadkeys")
    assert xkb_name("xkb-data 2.35.1-1, symbols/fr") == ("fr", "")
    assert xkb_name("a file of my own") is None


def test_one_editor_shows_many_texts_and_keeps_no_clipboard() -> None:
    assert MOUSEPAD.program is not None
    with Runs(MOUSEPAD.program, EditorHost(best_sandbox())) as runs:
        first = runs.press(Start(MOUSEPAD.file.name, "", "one\n"), [b"Ctrl+A", b"Ctrl+C", b"End", b"@"], b"Ctrl+S")
        second = runs.press(Start(MOUSEPAD.file.name, "", "two\n"), [b"Ctrl+V", b"@"], b"Ctrl+S")
        (running,) = runs._idle
        assert running.number == 2
    assert first.text == "one\n@" or first.text == "one@\n"
    assert second.text == "@two\n"


def processes() -> set[str]:
    found = subprocess.run(["ps", "-eo", "pid,args"], capture_output=True, text=True, check=True).stdout
    mine = ("Xvfb", "geany", "mousepad", "kate", "dbus-daemon")
    return {line for line in found.splitlines() if "ombix-prove" in line and any(word in line for word in mine)}


def test_nothing_is_left_behind(tmp_path: Path) -> None:
    before = processes()
    code = (
        "from ombix.evidence.editor_host import press, Desk\nfrom ombix.evidence.editor_run import Start\n"
        "from ombix.evidence.sandbox import best_sandbox\nfrom tests.helpers import dialect\nimport os, signal, threading\n"
        "threading.Timer(1.5, lambda: os.kill(os.getpid(), signal.SIGKILL)).start()\n"
        "one = dialect('geany').description\n"
        "press(one.program, Start(one.file.name, '', 'a\\n'), [b'F24'] * 2000, b'Ctrl+S', Desk(best_sandbox()))\n"
    )
    subprocess.run([sys.executable, "-c", code], cwd=Path(__file__).parents[2], timeout=60, check=False)
    deadline = time.monotonic() + 10
    while processes() - before and time.monotonic() < deadline:
        time.sleep(0.1)
    assert processes() - before == set()


def test_a_display_that_dies_is_an_editor_that_ended() -> None:
    assert GEANY.program is not None
    start = Start(GEANY.file.name, "", "one\n")
    with editor_host.opened(GEANY.program, start, EditorHost(best_sandbox()), threading.Event()) as one:
        assert one.run.wait_until_ready() == ""
        one.run._display._server.kill()  # type: ignore[attr-defined]
        one.run.wait(0.5)
        assert one.run.ended
        one.run.send(b"x")


def test_an_editor_that_shows_another_window_at_its_start_is_said(monkeypatch: pytest.MonkeyPatch) -> None:
    from msgspec.structs import replace

    from ombix.evidence import window_run

    assert GEANY.program is not None
    monkeypatch.setattr(window_run, "START_SECONDS", 6.0)
    monkeypatch.setattr(window_run, "slowness", lambda: 1.0)
    program = replace(GEANY.program, ready=["a title that it never has"])
    said = editor_host.complaint(program, Start(GEANY.file.name, "", "one\n"), EditorHost(best_sandbox()))
    assert "not ready within 6 seconds: it shows a window called 'text.txt" in said


def test_without_a_hidden_screen_it_is_said_what_to_install(monkeypatch: pytest.MonkeyPatch) -> None:
    assert GEANY.program is not None
    found = hidden_display.find_program
    monkeypatch.setattr(hidden_display, "find_program", lambda name: None if name == "Xvfb" else found(name))
    with pytest.raises(OutsideError, match="Xvfb is not installed") as caught:
        require(GEANY.program)
    assert "package xvfb" in caught.value.advice


def test_the_users_display_is_not_touched(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("DISPLAY", ":4711")
    monkeypatch.setenv("XAUTHORITY", "/nowhere")
    assert in_geany([b"@"]) == "on@e two\nthree\n"
    assert os.environ["XAUTHORITY"] == "/nowhere"
