"""Kills writing commands: before each of their calls that change a file or a folder, and at random moments.

Usage: python tools/try_kills.py [RANDOM]. After each kill the next command that writes brings the workspace to what it was
before, or to what it would have become; `undo` then gives back every byte, and nothing is left lying about. Prints what was
done, and ends with status 1 where that did not hold.
"""

import contextlib
import functools
import os
import random
import shutil
import signal
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import NamedTuple

from ombix.cli.main import run
from ombix.console.environment import Environment, Folders, Output, Status
from ombix.data.shipped import DATA
from ombix.report.terminal_text import Display
from ombix.work.change import change_questions
from ombix.workspace.open_workspace import OpenWorkspace

_EVENTS = ("open", "os.rename", "os.remove", "os.mkdir", "os.rmdir", "os.chmod", "os.chown", "os.truncate", "os.link")
_WRITES = os.O_WRONLY | os.O_RDWR | os.O_CREAT | os.O_TRUNC


class Writing(NamedTuple):
    """A writing command, and what comes before it."""

    call: tuple[str, ...]
    before: tuple[tuple[str, ...], ...] = ()


_BY_HAND = ("by hand",)
"""Not a command: the pier's file is edited by hand."""
_FIRST = "FIRST"
"""In the place of a change's name: the first one."""

WRITINGS = (
    Writing(("bind", "app.help", "F12")),
    Writing(("unbind", "F8")),
    Writing(("adopt", "desk/bindings.json", "--editor", "desk")),
    Writing(("port", "--to", "pier", "--to", "desk")),
    Writing(("port", "--to", "pier", "--output", "piers.nanorc", "--report", "report.md")),
    Writing(("fold", "all.keys.toml", "linux=keyboards/desk.keys.toml", "mac=keyboards/drawing-room.keys.toml")),
    Writing(("undo",), (("bind", "app.help", "F12"),)),
    Writing(("undo",), (("port", "--to", "pier", "--to", "desk"),)),
    Writing(("move", "line.copy-down", "Alt+5")),
    Writing(("narrow", "line.copy-down", "--where", "modified")),
    Writing(("settle", "--rule", "clash", "--take", "best")),
    Writing(("settle", "--rule", "clash", "--draft", "plan.toml")),
    Writing(("apply", "--yes", "--to", "pier")),
    Writing(("apply", "--to", "pier"), (("apply", "--yes", "--to", "pier"), ("move", "line.copy-down", "Alt+5"))),
    Writing(("apply", "--to", "pier", "--adopt"), (("apply", "--yes", "--to", "pier"), _BY_HAND)),
    Writing(("undo",), (("apply", "--yes", "--to", "pier"),)),
    Writing(("undo",), (("adopt", "desk/bindings.json", "--editor", "desk"),)),
    Writing(("apply", "--remove", "--to", "pier"), (("apply", "--yes", "--to", "pier"),)),
    Writing(("undo",), (("apply", "--yes", "--to", "pier"), ("apply", "--remove", "--to", "pier"))),
    # A change that another one has followed in the same file.
    Writing(("undo", _FIRST), (("bind", "line.sort", "Alt+5"), ("bind", "app.help", "F12"))),
)  # fmt: skip
"""Every way to write; `init` starts a folder of its own."""
INIT = Writing(("init",))


class Place(NamedTuple):
    """A workspace, and the folders of Ombix's own beside it."""

    folder: Path
    home: Path

    def call(self, arguments: tuple[str, ...]) -> Status:
        """Run a command; what it prints is thrown away."""
        if arguments == _BY_HAND:
            file = self.folder / ".home" / ".nanorc"
            file.write_text(file.read_text().replace("bind M-E end main", "bind M-E home main"))
            return Status.FINE
        os.environ["HOME"] = str(self.folder / ".home")
        if _FIRST in arguments:
            arguments = tuple(self._first() if one == _FIRST else one for one in arguments)
        with open(os.devnull, "w") as sink:
            stream = Output(sink, Display(80, False, str(self.folder)))
            folders = Folders(self.folder, self.home / "cache", self.home / "state")
            return run(list(arguments), Environment(stream, stream, folders))

    def _first(self) -> str:
        """The name of the first change that was made."""
        return (
            change_questions.history(OpenWorkspace(folder=str(self.folder), state=str(self.home / "state")))
            .changes[-1]
            .name
        )

    def files(self) -> dict[str, tuple[bytes, int]]:
        """All files of the workspace: their bytes and permissions."""
        return {
            str(file.relative_to(self.folder)): (file.read_bytes(), file.stat().st_mode)
            for file in sorted(self.folder.rglob("*"))
            if file.is_file()
        }

    def strays(self) -> list[str]:
        """What a run has left that belongs to no file and to no note of a change that is done."""
        own = [file.name for file in (self.home / "state" / "changes").glob("*/*") if file.suffix != ".done"]
        own += [file.name for file in (self.home / "state" / "applied").glob("*/*") if file.suffix != ".json"]
        return own + [file.name for file in self.folder.rglob(".ombix-*")]


@contextlib.contextmanager
def prepared(writing: Writing) -> Iterator[Place]:
    """A place in which a command can be run."""
    with tempfile.TemporaryDirectory(prefix="ombix-kills-") as name:
        place = Place(Path(name) / "ferry", Path(name) / "home")
        if writing.call[0] == "init":
            place.folder.mkdir()
        else:
            shutil.copytree(DATA / "demo", place.folder)
            (place.folder / ".home").mkdir()
        (place.folder / "crew.keys.toml").chmod(0o640) if (place.folder / "crew.keys.toml").exists() else None
        for call in writing.before:
            place.call(call)
        yield place


def killed(place: Place, writing: Writing, kill: Callable[[], None]) -> bool:
    """Run a command in a process of its own that `kill` gets ready to be killed; whether it was."""
    child = os.fork()
    if not child:
        kill()
        place.call(writing.call)
        os._exit(0)
    _pid, status = os.waitpid(child, 0)
    return os.WIFSIGNALED(status)


def before_call(number: int) -> Callable[[], None]:
    """Kill the process before its call of this number, from 1, that changes a file or a folder."""

    def get_ready() -> None:
        left = number

        def hook(event: str, arguments: tuple[object, ...]) -> None:
            nonlocal left
            if event not in _EVENTS:
                return
            if event == "open" and not (isinstance(arguments[2], int) and arguments[2] & _WRITES):
                return
            left -= 1
            if left == 0:
                os.kill(os.getpid(), signal.SIGKILL)

        sys.addaudithook(hook)

    return get_ready


def after_seconds(seconds: float) -> Callable[[], None]:
    """Kill the process after a time."""

    def get_ready() -> None:
        watched = os.getpid()
        if not os.fork():
            time.sleep(seconds)
            with contextlib.suppress(ProcessLookupError):
                os.kill(watched, signal.SIGKILL)
            os._exit(0)

    return get_ready


@functools.cache
def seconds_of(writing: Writing) -> float:
    """How long a command takes, in a process that has everything imported."""
    with prepared(writing) as place:
        started = time.monotonic()
        place.call(writing.call)
        return time.monotonic() - started


@functools.cache
def files_after(writing: Writing) -> dict[str, tuple[bytes, int]]:
    """All files as a command leaves them that is not killed."""
    with prepared(writing) as other:
        status = other.call(writing.call)
        assert status in (Status.FINE, Status.FOUND), f"{writing.call} is no command that works"
        return other.files()


def fault(writing: Writing, kill: Callable[[], None]) -> tuple[bool, str]:
    """Whether the command was killed, and what was wrong afterwards; an empty text where nothing was."""
    with prepared(writing) as place:
        before = place.files()
        after = files_after(writing)
        is_undo = writing.call[0] == "undo"
        was_killed = killed(place, writing, kill)
        place.call(("undo", "--dry-run"))  # the next command that writes
        if place.strays():
            return was_killed, f"left lying about: {place.strays()}"
        now = place.files()
        if now not in (before, after):
            return was_killed, f"neither old nor new: {[name for name in now if now[name] != before.get(name)]}"
        if is_undo or now == before:
            return was_killed, ""
        status = place.call(("undo",))
        if status != Status.FINE or place.files() != before:
            return was_killed, f"undo ended with {status}, and did not give back what was there"
        return was_killed, ""


def main() -> None:
    """Try all of it."""
    rounds = int(sys.argv[1]) if len(sys.argv) > 1 else 1000
    faults = tried = 0
    for writing in (*WRITINGS, INIT):
        number, was_killed = 0, True
        while was_killed:
            number += 1
            was_killed, wrong = fault(writing, before_call(number))
            tried += 1
            if wrong:
                faults += 1
                print(f"{' '.join(writing.call)}, before call {number}: {wrong}")
        print(f"{' '.join(writing.call)}: killed before each of {number - 1} calls")
    chance = random.Random(11)
    hit = 0
    for _ in range(rounds):
        writing = chance.choice((*WRITINGS, INIT))
        was_killed, wrong = fault(writing, after_seconds(chance.uniform(0.0, 1.1 * seconds_of(writing))))
        hit += was_killed
        if wrong:
            faults += 1
            print(f"{' '.join(writing.call)}, at a random moment: {wrong}")
    print(f"{tried} kills before calls, {rounds} random ones of which {hit} came before the end: {faults} faults")
    sys.exit(1 if faults else 0)


if __name__ == "__main__":
    main()
