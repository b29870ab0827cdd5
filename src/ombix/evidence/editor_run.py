"""What is told to a running editor and what comes of it: its start, the place in its text, and its home folder."""

import contextlib
import os
import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple, Protocol

from msgspec import Struct

from ombix.editors.description import Mode, Program
from ombix.evidence.sandbox import find_program
from ombix.text.effects.text_motions import cells, line_start

START_SECONDS = 20.0
_SLOWEST = 4.0
_TICKS = 100
TILES_IN_A_ROW = 50
"""Of the picture of a window."""
Picture = tuple[object, ...]
"""What an editor shows, in pieces that can be compared one by one: cells of a terminal, or tiles of a window."""


class Pressed(Struct, frozen=True):
    """What came of a run: the text of the file after saving, or None with the reason."""

    text: str | None
    reason: str = ""
    at_start: bool = False
    """Whether the editor did not come so far that keys could be pressed."""


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
        "columns": cells("".join(char if char == "\t" else " " for char in before), tab_width or program.tab_width),
    }[program.column_counts]  # fmt: skip
    is_at_end = text[cursor : cursor + 1] in ("", "\n")
    enter = mode.enter_at_end if is_at_end and mode.enter_at_end else mode.enter
    first, mark, behind = enter.partition("{right}")
    keys = [first, mode.right * len(before) if mark else "", behind]
    leaving = (mode.leave.encode(),) if mode.leave else ()
    line = text.count("\n", 0, cursor) + 1
    return Placed(line, column + 1, tuple(key.encode() for key in keys if key), leaving)


class Home(NamedTuple):
    """The folder that an editor has for its own, its file in it, and the files with its texts, of which each start has a new
    one."""

    folder: Path
    config: Path
    text_name: str

    def text(self, number: int) -> Path:
        """The file of a start, from 1."""
        name = Path(self.text_name)
        return self.folder / (self.text_name if number == 1 else f"{name.stem}{number}{name.suffix}")

    def put(self, start: Start, number: int) -> Path:
        """Write the text of a start; its file, of long ago, so that it is seen when it is saved."""
        file = self.text(number)
        file.write_text(start.text, "utf-8")
        os.utime(file, (1, 1))
        return file

    def filled(self, command: list[str], start: Start, number: int) -> list[str]:
        """A command with its variables filled in."""
        parts = {
            "{config}": str(self.config), "{folder}": str(self.config.parent), "{home}": str(self.folder),
            "{text}": str(self.text(number)), "{name}": self.text(number).name, "{line}": str(start.line),
            "{column}": str(start.column), "{offset}": str(start.column - 1),
        }  # fmt: skip
        # By its absolute path: the search path may begin where the call was made.
        filled = [find_program(command[0]) or command[0], *command[1:]]
        for name, value in parts.items():
            filled = [word.replace(name, value) for word in filled]
        return filled

    def environment(self, program: Program) -> dict[str, str]:
        """The environment of an editor and of what serves it."""
        own = {name: value.replace("{home}", str(self.folder)) for name, value in program.environment.items()}
        return {
            "HOME": str(self.folder), "XDG_CONFIG_HOME": str(self.folder / "xdg"), "TERM": "xterm", "LANG": "C.UTF-8",
            # What an editor leaves behind, like the socket of a session, goes with its home folder.
            "XDG_RUNTIME_DIR": str(self.folder), "TMPDIR": str(self.folder),
            **own, "PATH": os.environ.get("PATH", os.defpath),
        }  # fmt: skip


@contextlib.contextmanager
def home_for(program: Program, start: Start, at: Path | None = None) -> Iterator[Home]:
    """A home with an editor's file, in a new folder, or `at` a place where none is yet; it is gone behind it."""
    with contextlib.ExitStack() as around:
        if at is None:
            made = tempfile.TemporaryDirectory(prefix="ombix-prove-", ignore_cleanup_errors=True)
            folder = Path(around.enter_context(made))
        else:
            folder = at
            folder.mkdir(parents=True)
            around.callback(shutil.rmtree, folder, ignore_errors=True)
        config = folder / program.config if program.config else folder / "config" / start.config_name
        config.parent.mkdir(parents=True, exist_ok=True)
        config.write_text(start.config, "utf-8")
        if start.beside[0]:
            (config.parent / start.beside[0]).write_text(start.beside[1], "utf-8")
        for file, text in program.files.items():
            (folder / file).parent.mkdir(parents=True, exist_ok=True)
            (folder / file).write_text(text, "utf-8")
        yield Home(folder, config, program.text)


class EditorRun(Protocol):
    """A running editor."""

    ended: bool

    def wait_until_ready(self) -> str:
        """Why keys cannot be pressed; empty where they can."""

    def send(self, key: bytes) -> None:
        """Press keys: in a terminal their bytes, in a window their notation. Nothing where the editor has ended."""

    def wait(self, seconds: float) -> None:
        """Let the editor work."""

    def finish(self) -> None:
        """Let the editor end what it is at, like writing a file."""

    def said(self) -> str:
        """What the editor shows that may be a complaint."""

    def picture(self) -> Picture:
        """What is to be seen now."""

    def reopen(self, start: Start) -> str:
        """Show another text; why that cannot be, or nothing."""

    def close(self) -> None:
        """Kill the editor and all that it started."""


def slowness() -> float:
    """How many times longer than on an idle machine something may take here now: processes that want to run for each that can,
    and the time that a machine gets of the one that it runs on."""
    try:
        waiting = os.getloadavg()[0] / (os.cpu_count() or 1)
    except OSError:
        waiting = 1.0
    return min(max(waiting, 1.0) / max(_processor.got(), 1 / _SLOWEST), _SLOWEST)


class _Processor:
    """What a machine gets of the processor, by the kernel's count (proc_stat(5), `cpu`: the eighth figure is stolen time)."""

    def __init__(self) -> None:
        self._counted = self._count()
        self._got = 1.0

    def got(self) -> float:
        """The share of its time that it got of late: since this was asked before, and for a second or more."""
        now = self._count()
        total, stolen = (after - before for after, before in zip(now, self._counted, strict=True))
        if total >= _TICKS:
            self._counted, self._got = now, 1 - stolen / total
        return self._got

    def _count(self) -> tuple[int, int]:
        try:
            figures = [int(one) for one in Path("/proc/stat").read_text("ascii").partition("\n")[0].split()[1:9]]
        except (OSError, ValueError):
            return 0, 0
        return sum(figures), figures[7] if len(figures) > 7 else 0


_processor = _Processor()
