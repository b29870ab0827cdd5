"""What a command runs in: its streams, what they show, its folders. One object, passed down; no globals."""

import contextlib
import enum
import os
import shutil
import sys
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any, NamedTuple, TextIO

from ombix.core.errors import OmbixError, OutsideError, Place
from ombix.report.blocks import Block
from ombix.report.terminal_text import Display, render, visible, wrap


class Status(enum.IntEnum):
    """Exit statuses, for all commands."""

    FINE = 0
    FOUND = 1
    """Findings, differences or losses."""
    WRONG = 2
    """The call or the input is wrong."""
    OUTSIDE = 3
    """Something outside failed: an editor is not installed, a disk is full, a port does not hold."""
    FAULT = 4
    """A fault in Ombix itself."""
    INTERRUPTED = 130
    """Stopped by its user (Ctrl+C)."""
    HUNG_UP = 129
    """Stopped because the terminal went away."""
    TERMINATED = 143
    """Stopped by the system."""


class Output(NamedTuple):
    """A stream, and what it shows."""

    stream: TextIO
    display: Display

    def write(self, lines: Iterable[str]) -> None:
        """Write lines."""
        for line in lines:
            self.stream.write(line + "\n")


class Folders(NamedTuple):
    """The folder of the call, and where the cache and the changes that can be taken back are kept."""

    here: Path
    cache: Path
    state: Path


_OWN_FILES = ("ombix.toml", "dialect.toml")
"""What makes a folder a workspace, or the description of an editor."""


class Environment:
    """Streams, colours and folders of one run. `is_terminal`: results are written to one; `can_ask`: answers come from one."""

    def __init__(
        self, results: Output, messages: Output, folders: Folders, is_terminal: bool = False, can_ask: bool = False,
        named: Iterable[str] = (),
    ) -> None:  # fmt: skip
        self.results = results
        self.messages = messages
        self.folders = folders
        self.is_terminal = is_terminal
        self.can_ask = can_ask
        self.named = tuple(named)
        """The words of the call: files may be among them."""

    @property
    def display(self) -> Display:
        """What results are shown on."""
        return self.results.display

    def show(self, blocks: Iterable[Block]) -> None:
        """Print what was laid out, as the result."""
        self.results.write(render(blocks, self.display))

    def tell(self, blocks: Iterable[Block]) -> None:
        """Print what was laid out as a message."""
        self.messages.write(render(blocks, self.messages.display))

    def answer(self, result: Any, blocks: Callable[[Display], Iterable[Block]], json: bool) -> None:
        """Print a result: laid out, or as one JSON document."""
        if not json:
            self.show(blocks(self.display))
            return
        from ombix.report.json import text

        self.results.write([text(result, self.display)])

    def say(self, text: str) -> None:
        """Print a message as a paragraph on standard error, behind the results so far."""
        with contextlib.suppress(OSError):  # what is wrong with the results is said elsewhere
            self.results.stream.flush()
        self.messages.write(wrap(text, self.messages.display.width))

    def show_error(self, error: OmbixError) -> None:
        """Print an error: what, where with the line and a mark under the place, and what to do."""
        display = self.messages.display
        self.messages.write(_first_styled(wrap(f"error: {error.what}", display.width), display))
        if error.place is not None:
            self.messages.write([f"  at {visible(display.place(error.place))}"])
        if error.excerpt is not None and error.excerpt.strip() and self._may_quote(error.place):
            column = error.place.column if error.place is not None else getattr(error, "start", 0) + 1
            self.messages.write(_excerpt(error.excerpt, column, error.width, display))
        if error.advice:
            self.messages.write(wrap(error.advice, display.width, 2))

    def _may_quote(self, place: Place | None) -> bool:
        """Whether the line at a place may be shown: it stands below the folder of the call, in a workspace or description there or
        named in the call, or in a file which the call names. A workspace that somebody else wrote can name any file of its
        user's, and what stands there is not to come into a log."""
        if place is None or not place.file.startswith("/"):
            return True
        here, file = self.folders.here, Path(os.path.realpath(place.file))
        named = [here / os.path.expanduser(one) for one in self.named]  # noqa: PTH111 (a key may be ~)
        folders = [*here.parents, *(one.parent if one.name in _OWN_FILES else one for one in named)]
        homes = [here, *(folder for folder in folders if any((folder / name).is_file() for name in _OWN_FILES))]
        return file in [Path(os.path.realpath(one)) for one in named] or any(
            file.is_relative_to(os.path.realpath(home)) for home in homes
        )


def environment_of(context: Any) -> Environment:
    """The environment that `main` passed down to a command."""
    environment = context.obj
    assert isinstance(environment, Environment)
    return environment


def from_process() -> Environment:
    """The environment of this process."""
    for name in ("stdout", "stderr"):
        stream = getattr(sys, name)
        if stream is None:  # it was closed before the program began
            setattr(sys, name, open(os.devnull, "w"))  # noqa: SIM115
        elif hasattr(stream, "reconfigure"):
            stream.reconfigure(errors="backslashreplace")
    width = max(40, shutil.get_terminal_size((80, 24)).columns)
    plain = ("NO_COLOR" in os.environ and os.environ["NO_COLOR"] != "") or os.environ.get("TERM") == "dumb"
    on_terminal = sys.stdout.isatty()
    try:
        folder = os.getcwd()  # noqa: PTH109
    except FileNotFoundError:
        raise OutsideError("the folder of the call is not there any more", "Go to another one: cd.") from None
    results = Display(width if on_terminal else _piped_width(), on_terminal and not plain, folder)
    messages = Display(width, sys.stderr.isatty() and not plain, folder)
    can_ask = on_terminal and sys.stdin is not None and sys.stdin.isatty()
    return Environment(
        Output(sys.stdout, results), Output(sys.stderr, messages), _folders(Path(folder)), on_terminal, can_ask,
        [word.partition("=")[2] or word for word in sys.argv[1:]],
    )  # fmt: skip


def _piped_width() -> int:
    columns = os.environ.get("COLUMNS", "")
    is_number = columns.isascii() and columns.isdigit() and len(columns) < 6
    return max(40, int(columns)) if is_number and int(columns) else 80


def _folders(here: Path) -> Folders:
    home = os.environ.get("OMBIX_HOME")
    if home:
        return Folders(here, here / home / "cache", here / home / "state")
    user = os.environ.get("HOME", "")
    if sys.platform == "linux" and user.startswith("/"):
        # As the XDG Base Directory Specification has it, and as platformdirs says there; it takes 2 ms to be imported.
        cache, state = os.environ.get("XDG_CACHE_HOME", ""), os.environ.get("XDG_STATE_HOME", "")
        cache = cache if cache.startswith("/") else f"{user}/.cache"
        state = state if state.startswith("/") else f"{user}/.local/state"
        return Folders(here, Path(cache) / "ombix", Path(state) / "ombix")
    import platformdirs

    return Folders(here, Path(platformdirs.user_cache_dir("ombix")), Path(platformdirs.user_state_dir("ombix")))


def _first_styled(lines: list[str], display: Display) -> Iterable[str]:
    for line in lines:
        yield line.replace("error:", display.style("error:", "bad"), 1) if line.startswith("error:") else line


def _excerpt(line: str, column: int, width: int, display: Display) -> list[str]:
    """The line, cut to the width, with a mark under the columns that are wrong."""
    shown = "".join(" " if char == "\t" else visible(char) for char in line)
    start = max(0, column - 1)
    room = max(20, display.width - 4)
    if len(shown) > room:
        first = max(0, min(start - room // 3, len(shown) - room))
        shown, start = shown[first : first + room], start - first
    mark = "^" * max(1, min(width, len(shown) - start if start < len(shown) else 1))
    return [f"    {shown}", f"    {' ' * min(start, len(shown))}{display.style(mark, 'bad')}"]
