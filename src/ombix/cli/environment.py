"""What a command runs in: its streams, the paper it writes on, its folders. One object, passed down; no globals."""

import enum
import os
import shutil
import sys
from collections.abc import Iterable
from pathlib import Path
from typing import Any, TextIO

from ombix.core.errors import OmbixError, Place
from ombix.report.plain import Paper, visible, wrap


class Status(enum.IntEnum):
    """Exit statuses, for all commands."""

    FINE = 0
    FOUND = 1
    """Findings, differences or losses."""
    WRONG = 2
    """The call or the input is wrong."""
    OUTSIDE = 3
    """Something outside failed: an editor is not installed, a disk is full, a port does not hold."""


class Environment:
    """Streams, colours and folders of one run."""

    def __init__(
        self, out_stream: TextIO, error_stream: TextIO, paper: Paper, error_paper: Paper, folder: Path,
        cache_folder: Path, state_folder: Path, is_terminal: bool = False,
    ) -> None:  # fmt: skip
        self.out_stream = out_stream
        self.error_stream = error_stream
        self.paper = paper
        self.error_paper = error_paper
        self.folder = folder
        self.cache_folder = cache_folder
        self.state_folder = state_folder
        self.is_terminal = is_terminal

    def out(self, *lines: str) -> None:
        """Print result lines."""
        for line in lines:
            self.out_stream.write(line + "\n")

    def message(self, *lines: str) -> None:
        """Print message lines on standard error."""
        for line in lines:
            self.error_stream.write(line + "\n")

    def say(self, text: str) -> None:
        """Print a message as a paragraph on standard error."""
        self.message(*wrap(text, self.error_paper))

    def json(self, document: Any) -> None:
        """Print one JSON document as the result."""
        import json

        self.out(json.dumps(document, ensure_ascii=False, indent=2))

    def show_error(self, error: OmbixError) -> None:
        """Print an error: what, where with the line and a mark under the place, and what to do."""
        style = self.error_paper.style
        self.message(*_first_styled(wrap(f"error: {error.what}", self.error_paper), style))
        if error.place is not None:
            self.message(f"  at {visible(str(error.place))}")
        if error.excerpt is not None and error.excerpt.strip():
            column = error.place.column if error.place is not None else getattr(error, "start", 0) + 1
            self.message(*_excerpt(error.excerpt, column, error.width, self.error_paper))
        if error.advice:
            self.message(*wrap(error.advice, self.error_paper, 2))


def environment_of(context: Any) -> Environment:
    """The environment that `main` passed down to a command."""
    environment = context.obj
    assert isinstance(environment, Environment)
    return environment


def shown_path(path: str | Path, environment: Environment) -> str:
    """The path as people name it: relative to the folder they are in, where it lies below it."""
    try:
        return str(Path(path).resolve().relative_to(environment.folder.resolve()))
    except ValueError:
        return str(path)


def shown_place(place: Place, environment: Environment) -> str:
    """A place with its path as people name it."""
    return str(Place(shown_path(place.file, environment), place.line, place.column)) if place.line else place.file


def from_process() -> Environment:
    """The environment of this process."""
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(errors="backslashreplace")
    width = shutil.get_terminal_size((80, 24)).columns
    plain = ("NO_COLOR" in os.environ and os.environ["NO_COLOR"] != "") or os.environ.get("TERM") == "dumb"
    on_terminal = sys.stdout.isatty()
    home = os.environ.get("OMBIX_HOME")
    if home:
        cache, state = Path(home) / "cache", Path(home) / "state"
    else:
        cache, state = _folders()
    return Environment(
        sys.stdout, sys.stderr, Paper(max(40, width if on_terminal else _piped_width()), on_terminal and not plain),
        Paper(max(40, width), sys.stderr.isatty() and not plain), Path.cwd(), cache, state, on_terminal,
    )  # fmt: skip


def _piped_width() -> int:
    columns = os.environ.get("COLUMNS", "")
    return int(columns) if columns.isdigit() and int(columns) >= 40 else 80


def _folders() -> tuple[Path, Path]:
    import platformdirs

    return Path(platformdirs.user_cache_dir("ombix")), Path(platformdirs.user_state_dir("ombix"))


def _first_styled(lines: list[str], style: Any) -> Iterable[str]:
    for line in lines:
        yield line.replace("error:", style("error:", "bad"), 1) if line.startswith("error:") else line


def _excerpt(line: str, column: int, width: int, paper: Paper) -> list[str]:
    """The line, cut to the paper, with a mark under the columns that are wrong."""
    shown = "".join(" " if char == "\t" else visible(char) for char in line)
    start = max(0, column - 1)
    room = max(20, paper.width - 4)
    if len(shown) > room:
        first = max(0, min(start - room // 3, len(shown) - room))
        shown, start = shown[first : first + room], start - first
    mark = "^" * max(1, min(width, len(shown) - start if start < len(shown) else 1))
    return [f"    {shown}", f"    {' ' * min(start, len(shown))}{paper.style(mark, 'bad')}"]
