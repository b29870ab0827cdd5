"""A program in a pseudo-terminal of its own."""

import contextlib
import fcntl
import os
import select
import signal
import struct
import termios
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import NamedTuple

from ombix.evidence.idle_detection import Switches, still, waiting

_IN_FOLDER = 'cd "$0" && exec "$@"'
_MOST = 65536
_AS_USUAL = (signal.SIGPIPE, signal.SIGXFSZ, signal.SIGINT, signal.SIGQUIT, signal.SIGTSTP, signal.SIGHUP)


class Resting(NamedTuple):
    """How a program waits: what its threads have done until then, and whether something that was sent to it is unread."""

    switches: Switches
    is_unread: bool


class PseudoTerminal:
    """A program that has a session and a terminal of its own.

    It is spawned, not forked: a fork of a process that is as large as this one takes longer than most keys.
    """

    def __init__(
        self, command: Sequence[str], environment: Mapping[str, str], folder: Path, rows: int, columns: int
    ) -> None:
        """Start it. Raises OSError where that cannot be."""
        self._end, end = os.openpty()
        try:
            termios.tcsetwinsize(end, (rows, columns))
            # Whoever leads a session, and has no terminal, has the first one that it opens.
            self._name = name = os.ttyname(end)
            streams = [
                (os.POSIX_SPAWN_OPEN, 0, name, os.O_RDWR, 0),
                (os.POSIX_SPAWN_DUP2, 0, 1),
                (os.POSIX_SPAWN_DUP2, 0, 2),
            ]
            self._process = os.posix_spawn(
                "/bin/sh", ["sh", "-c", _IN_FOLDER, str(folder), *command], environment,
                file_actions=streams, setsid=True, setsigdef=_AS_USUAL,
            )  # fmt: skip
        except BaseException:
            os.close(self._end)
            raise
        finally:
            os.close(end)
        self._is_closed = False
        self._news = select.poll()
        self._news.register(self._end, select.POLLIN)

    def send(self, data: bytes) -> None:
        """Have it read some bytes. Raises OSError where it has ended."""
        while data:
            data = data[os.write(self._end, data) :]

    def read(self, seconds: float) -> bytes | None:
        """What it writes within some seconds, as soon as there is any; empty where that is nothing, None where it has ended."""
        if not self._news.poll(seconds * 1000):
            return b""
        try:
            return os.read(self._end, _MOST) or None
        except OSError:
            return None

    def resting(self) -> Resting | None:
        """What its threads have done where all of them wait, and whether something that was sent is unread; None where one works.
        Raises OSError where the kernel does not tell."""
        found = waiting(self._process)
        unread = found is not None and self._unread() > 0
        return Resting(found, unread) if found is not None and still(found) else None

    def _unread(self) -> int:
        """How many bytes wait in the terminal for it."""
        end = os.open(self._name, os.O_RDWR | os.O_NOCTTY)
        try:
            (count,) = struct.unpack("i", fcntl.ioctl(end, termios.FIONREAD, bytes(4)))
            return int(count)
        finally:
            os.close(end)

    def close(self) -> None:
        """Kill it and all of its session that stayed in its group; once is enough."""
        if self._is_closed:
            return
        self._is_closed = True
        with contextlib.suppress(ProcessLookupError):
            os.killpg(self._process, signal.SIGKILL)
        os.waitpid(self._process, 0)
        os.close(self._end)
