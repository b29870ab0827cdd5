"""Starts a real editor in a pseudo-terminal with nothing but a given file as its configuration, and presses keys."""

import contextlib
import importlib.util
import os
import signal
import tempfile
import threading
import time
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import NamedTuple

from msgspec import Struct

from ombix.core.errors import OutsideError
from ombix.dialects.description import Mode, Program
from ombix.effects.places import cells, line_start
from ombix.proving.sandbox import Sandbox, find_program

START_SECONDS = 20.0
SAVE_SECONDS = 6.0
QUIET_SECONDS = 0.03
"""An editor that has written nothing for so long has taken the keys."""
_ROWS, _COLUMNS = 24, 80
_FORKING = threading.Lock()
"""Held while a process is forked: not all that is open bears two forks at once."""


class Pressed(Struct, frozen=True):
    """What came of a run: the text of the file after saving, or None with the reason."""

    text: str | None
    reason: str = ""
    at_start: bool = False
    """Whether the editor did not come so far that keys could be pressed."""


def is_installed(program: Program) -> bool:
    """Whether the editor can be started here."""
    return find_program(program.command[0]) is not None


def is_ready(program: Program) -> bool:
    """Whether keys can be pressed in the editor here."""
    return _has_packages() and is_installed(program)


def _has_packages() -> bool:
    return importlib.util.find_spec("pexpect") is not None and importlib.util.find_spec("pyte") is not None


def require(program: Program) -> None:
    """Raise OutsideError when the editor is not installed."""
    if not _has_packages():
        raise OutsideError("pressing keys needs two more packages", "Install them with: pip install 'ombix[prove]'")
    if not is_installed(program):
        raise OutsideError(
            f"{program.command[0]} is not installed, so nothing can be pressed in it",
            f"Install Debian's package {program.package}, or your system's.",
        )


class Start(Struct, frozen=True):
    """What an editor is started with: its file (its name and its text), a text, and the cursor's line and column from 1;
    and a file with settings beside its file."""

    config_name: str
    config: str
    text: str
    line: int = 1
    column: int = 1
    beside: tuple[str, str] = ("", "")


class Placed(NamedTuple):
    """How an editor is brought to a place: the line and column, from 1, that it is started at, the keys that are pressed
    then, and those that are pressed before it saves."""

    line: int
    column: int
    keys: tuple[bytes, ...]
    leaving: tuple[bytes, ...]


def placed(program: Program, mode: Mode, text: str, cursor: int, tab_width: int = 0) -> Placed:
    """How an editor is brought to an offset of a text, in a section; `tab_width` is that which it is set to."""
    before = text[line_start(text, cursor) : cursor]
    column = {
        "characters": len(before), "bytes": len(before.encode()), "cells": cells(before, tab_width or program.tab_width),
    }[program.column_counts]  # fmt: skip
    is_at_end = text[cursor : cursor + 1] in ("", "\n")
    enter = mode.enter_at_end if is_at_end and mode.enter_at_end else mode.enter
    first, mark, behind = enter.partition("{right}")
    keys = [first, *([mode.right] * len(before) if mark else ()), behind]
    leaving = (mode.leave.encode(),) if mode.leave else ()
    line = text.count("\n", 0, cursor) + 1
    return Placed(line, column + 1, tuple(key.encode() for key in keys if key), leaving)


def press(
    program: Program, start: Start, keys: Sequence[bytes], save: bytes, sandbox: Sandbox,
    stop: threading.Event | None = None,
) -> Pressed:  # fmt: skip
    """Start the editor in a sandbox, press `keys`, save, and read the text.

    The editor gets a home folder of its own, which is deleted, and is killed with all its children at the end. A run
    takes at most about START_SECONDS + SAVE_SECONDS, and ends at once when `stop` is set.
    """
    with _session(program, start, sandbox, stop or threading.Event()) as (session, file):
        return session.run(keys, save, file)


def complaint(program: Program, start: Start, sandbox: Sandbox) -> str:
    """What an editor says at its start where it does not come to its text; empty where it does."""
    with _session(program, start, sandbox, threading.Event()) as (session, _file):
        return session.wait_until_ready()


@contextlib.contextmanager
def _session(
    program: Program, start: Start, sandbox: Sandbox, stop: threading.Event
) -> "Iterator[tuple[_EditorSession, Path]]":  # fmt: skip
    """The editor in a home of its own, and the text's file there; both are gone behind it."""
    with tempfile.TemporaryDirectory(prefix="ombix-prove-") as name:
        home = Path(name)
        folder = home / "config"
        folder.mkdir()
        config_file = home / program.config if program.config else folder / start.config_name
        config_file.parent.mkdir(parents=True, exist_ok=True)
        config_file.write_text(start.config, "utf-8")
        if start.beside[0]:
            (config_file.parent / start.beside[0]).write_text(start.beside[1], "utf-8")
        file = home / program.text
        file.write_text(start.text, "utf-8")
        os.utime(file, (1, 1))
        session = _EditorSession(program, _Files(home, config_file, file), start, sandbox, stop)
        try:
            yield session, file
        finally:
            session.close()


class _Files(NamedTuple):
    home: Path
    config: Path
    text: Path


class _EditorSession:
    def __init__(self, program: Program, files: _Files, start: Start, sandbox: Sandbox, stop: threading.Event) -> None:
        import pexpect
        import pyte

        home = files.home
        parts = {
            "{config}": str(files.config), "{folder}": str(files.config.parent), "{text}": str(files.text),
            "{line}": str(start.line), "{column}": str(start.column),
        }  # fmt: skip
        # By its absolute path: the search path may begin where the call was made.
        command = [find_program(program.command[0]) or program.command[0]]
        command += [_fill(word, parts) for word in program.command[1:]]
        command = sandbox.around(command, home)
        environment = {
            "HOME": str(home), "XDG_CONFIG_HOME": str(home / "xdg"), "TERM": "xterm", "LANG": "C.UTF-8",
            # What an editor leaves behind, like the socket of a session, goes with its home folder.
            "XDG_RUNTIME_DIR": str(home), "TMPDIR": str(home),
            **program.environment, "PATH": os.environ.get("PATH", os.defpath),
        }  # fmt: skip
        self._program = program
        with _FORKING:
            self._child = pexpect.spawn(
                command[0], command[1:], env=environment, dimensions=(_ROWS, _COLUMNS), cwd=str(home), timeout=1
            )
        self._child.delaybeforesend = None
        self._screen = pyte.Screen(_COLUMNS, _ROWS)
        self._stream = pyte.ByteStream(self._screen)
        self._ended = False
        self._stop = stop

    def run(self, keys: Sequence[bytes], save: bytes, file: Path) -> Pressed:
        reason = self.wait_until_ready()
        if reason:
            return Pressed(None, reason, True)
        for key in keys:
            self._send(key)
        if self._ended:
            return Pressed(None, "the editor ended")
        self._send(save)
        deadline = time.monotonic() + SAVE_SECONDS
        while time.monotonic() < deadline:
            if file.exists() and file.stat().st_mtime > 1:
                self._read(0.02)
                with contextlib.suppress(OSError, UnicodeDecodeError):
                    return Pressed(file.read_text("utf-8"))
            if self._ended:
                return Pressed(None, "the editor ended without saving")
            self._read(0.01)
        return Pressed(
            None,
            f"the text was not saved within {SAVE_SECONDS:.0f} seconds; the screen ended with: {self._last_line()}",
        )

    def wait_until_ready(self) -> str:
        """Why keys cannot be pressed; empty where they can."""
        deadline = time.monotonic() + START_SECONDS
        while time.monotonic() < deadline:
            self._read(0.02)
            for line in self._screen.display:
                if any(question in line for question in self._program.questions):
                    return f"the editor stopped at its start with: {line.strip()}"
            if self._ended:
                return f"the editor ended at its start: {self._last_line()}"
            if any(text in line for text in self._program.ready for line in self._screen.display):
                self._settle(0.05)
                return ""
        return f"the editor was not ready within {START_SECONDS:.0f} seconds: {self._last_line()}"

    def _send(self, key: bytes) -> None:
        if self._ended:
            return
        with contextlib.suppress(OSError):
            self._child.send(key)
        pause = min(self._program.escape_seconds, 1.0) if key.endswith(b"\x1b") else 0.0
        self._settle(max(QUIET_SECONDS, pause))

    def _settle(self, quiet: float) -> None:
        deadline = time.monotonic() + 1.0
        while time.monotonic() < deadline and self._read(quiet):
            pass

    def _read(self, seconds: float) -> bool:
        import pexpect

        if self._stop.is_set():
            self._ended = True
            return False
        try:
            data = self._child.read_nonblocking(65536, seconds)
        except pexpect.TIMEOUT:
            return False
        except (pexpect.EOF, OSError):
            self._ended = True
            return False
        self._stream.feed(data)
        return True

    def _last_line(self) -> str:
        return next((line.strip() for line in reversed(self._screen.display) if line.strip()), "nothing")

    def close(self) -> None:
        """Kill the editor and all that it started."""
        with contextlib.suppress(OSError, ProcessLookupError):
            os.killpg(self._child.pid, signal.SIGKILL)
        with contextlib.suppress(Exception):
            self._child.close(force=True)


def _fill(word: str, parts: dict[str, str]) -> str:
    for name, value in parts.items():
        word = word.replace(name, value)
    return word
