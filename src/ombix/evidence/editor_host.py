"""Starts a real editor with nothing but a given file as its configuration, presses keys, and reads the text that it saves."""

import contextlib
import functools
import importlib.util
import threading
import time
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import NamedTuple

from ombix.core.errors import OutsideError
from ombix.core.pressing.layouts import KeyboardSetup
from ombix.data.shipped import Shipped
from ombix.editors.description import Program
from ombix.evidence.editor_run import EditorRun, Home, Pressed, Start, home_for, slowness
from ombix.evidence.hidden_display import require_display
from ombix.evidence.sandbox import Sandbox, find_program

SAVE_SECONDS = 6.0
"""On a machine that has nothing else to do; on a busy one longer."""
_MOST_TEXTS = 40
"""So many texts are shown by one running editor before another one is started: it keeps them all."""


def is_installed(program: Program) -> bool:
    """Whether the editor can be started here."""
    return find_program(program.command[0]) is not None


def is_ready(program: Program) -> bool:
    """Whether keys can be pressed in the editor here."""
    with contextlib.suppress(OutsideError):
        require(program)
        return True
    return False


def _has_packages() -> bool:
    return all(importlib.util.find_spec(name) is not None for name in ("pyte", "Xlib"))


def require(program: Program) -> None:
    """Raise OutsideError when the editor is not installed."""
    if not _has_packages():
        raise OutsideError("pressing keys needs more packages", "Install them with: pip install 'ombix[prove]'")
    if not is_installed(program):
        raise OutsideError(
            f"{program.command[0]} is not installed, so nothing can be pressed in it",
            f"Install Debian's package {program.package}, or your system's.",
        )
    if program.bus and find_program("dbus-daemon") is None:
        raise OutsideError(
            f"dbus-daemon is not installed, and {program.command[0]} needs a message bus of its own",
            "Install Debian's package dbus, or your system's.",
        )
    if program.window:
        require_display()


class EditorHost(NamedTuple):
    """What an editor is pressed at: what it is shut in by, and the keyboard of one in a window."""

    sandbox: Sandbox
    keyboard: KeyboardSetup | None = None
    """None: a plain American one."""
    folder: Path | None = None
    """Where an editor has its home; None: in a new folder."""


class Runs:
    """Running editors that may show one text after the other; all are closed at the end of the block."""

    def __init__(self, program: Program, desk: EditorHost, stop: threading.Event | None = None) -> None:
        self.program = program
        self.desk = desk
        self.stop = stop or threading.Event()
        self._idle: list[_Open] = []
        self._lock = threading.Lock()

    def __enter__(self) -> "Runs":
        return self

    def __exit__(self, *_error: object) -> None:
        with self._lock:
            idle, self._idle = self._idle, []
        for one in idle:
            one.close()

    def press(self, start: Start, keys: Sequence[bytes], save: bytes, fresh: bool = False) -> Pressed:
        """Press `keys` in a text, save, and read the text; with `fresh` in an editor that is started for it.

        The editor gets a home folder of its own, which is deleted, and is killed with all its children at the end. A run
        takes at most about START_SECONDS + SAVE_SECONDS, and ends at once when `stop` is set.
        """
        one = None if fresh else self._take(start)
        if one is not None and one.reopen(start):
            one.close()
            one = None
        if one is None:
            one = _Open(self.program, start, self.desk, self.stop)
            if reason := one.run.wait_until_ready():
                one.close()
                return Pressed(None, reason, True)
        found = _run(one, keys, save)
        if found.text is None or not self.program.again or one.number >= _MOST_TEXTS or one.run.ended:
            one.close()
        else:
            with self._lock:
                self._idle.append(one)
        return found

    def _take(self, start: Start) -> "_Open | None":
        with self._lock:
            for index, one in enumerate(self._idle):
                if one.fits(start):
                    return self._idle.pop(index)
        return None


class _Open:
    """An editor that runs in a home of its own."""

    def __init__(self, program: Program, start: Start, desk: EditorHost, stop: threading.Event) -> None:
        self._around = contextlib.ExitStack()
        self.number = 1
        self._first = start
        try:
            self.home: Home = self._around.enter_context(home_for(program, start, desk.folder))
            self.file: Path = self.home.put(start, 1)
            self.run: EditorRun = self._around.enter_context(_running(program, self.home, start, desk, stop))
        except BaseException:
            self._around.close()
            raise

    def fits(self, start: Start) -> bool:
        """Whether another start has the same files."""
        first = self._first
        return (first.config_name, first.config, first.beside) == (start.config_name, start.config, start.beside)

    def reopen(self, start: Start) -> str:
        """Show another text; why that cannot be, or nothing."""
        self.number += 1
        self.file = self.home.put(start, self.number)
        return self.run.reopen(start)

    def close(self) -> None:
        """End the editor, and take its home away."""
        self._around.close()


@contextlib.contextmanager
def opened(program: Program, start: Start, desk: EditorHost, stop: threading.Event) -> "Iterator[_Open]":
    """An editor that is started; it is ended behind it."""
    one = _Open(program, start, desk, stop)
    try:
        yield one
    finally:
        one.close()


@contextlib.contextmanager
def _running(
    program: Program, home: Home, start: Start, desk: EditorHost, stop: threading.Event
) -> Iterator[EditorRun]:
    run: EditorRun
    if program.window:
        from ombix.evidence.window_run import WindowRun

        run = WindowRun(program, home, start, desk.sandbox, desk.keyboard or plain_keyboard(), stop)
    else:
        from ombix.evidence.terminal_run import TerminalRun

        run = TerminalRun(program, home, start, desk.sandbox, stop)
    try:
        yield run
    finally:
        run.close()


@functools.lru_cache(maxsize=1)
def plain_keyboard() -> KeyboardSetup:
    """An American keyboard with all keys."""
    shipped = Shipped()
    layout = shipped.layout("us")
    return KeyboardSetup(layout, shipped.keyboard("full", layout.shape), shipped.platform("linux"))


def press(
    program: Program,
    start: Start,
    keys: Sequence[bytes],
    save: bytes,
    desk: EditorHost,
    stop: threading.Event | None = None,
) -> Pressed:
    """Start the editor once, press `keys`, save, and read the text: see `Runs.press`."""
    with Runs(program, desk, stop) as runs:
        return runs.press(start, keys, save, fresh=True)


def complaint(program: Program, start: Start, desk: EditorHost) -> str:
    """What an editor says at its start where it does not come to its text; empty where it does."""
    one = _Open(program, start, desk, threading.Event())
    try:
        return one.run.wait_until_ready()
    finally:
        one.close()


def _run(one: _Open, keys: Sequence[bytes], save: bytes) -> Pressed:
    run = one.run
    for key in keys:
        run.send(key)
    if run.ended:
        return Pressed(None, "the editor ended")
    run.send(save)
    seconds = SAVE_SECONDS * slowness()
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        if one.file.exists() and one.file.stat().st_mtime > 1:
            run.finish()
            with contextlib.suppress(OSError, UnicodeDecodeError):
                return Pressed(one.file.read_text("utf-8"))
        if run.ended:
            return Pressed(None, "the editor ended without saving")
        run.wait(0.01)
    return Pressed(None, f"the text was not saved within {seconds:.0f} seconds; {run.said()}")
