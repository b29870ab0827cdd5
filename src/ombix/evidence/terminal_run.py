"""A real editor in a pseudo-terminal."""

import contextlib
import threading
import time
from typing import Any

from ombix.editors.description import Program
from ombix.evidence.editor_run import START_SECONDS, Home, Picture, Start, slowness
from ombix.evidence.idle_detection import Switches, is_told, still
from ombix.evidence.pseudo_terminal import PseudoTerminal, Resting
from ombix.evidence.sandbox import Sandbox

QUIET_SECONDS = 0.03
"""An editor that has written nothing for so long, and waits, has taken the keys."""
_MOST_SECONDS, _UNMOVED_SECONDS, _UNREAD_SECONDS = 3.0, 0.15, 1.0
"""What is waited at the most, and until an editor that waits is taken for one that does not see the keys: where it has done nothing
at all, and where it has not read them."""
_LOOK_SECONDS, _SELDOM_SECONDS = 0.001, 0.016
"""What is waited between two looks at what an editor does: at first, and at the most, as looking takes time from it."""
_ROWS, _COLUMNS = 24, 80


def new_screen() -> Any:
    """A screen of the terminal (``pyte.Screen``), which passes over what it would take for its own and fail at: ``CSI ? … r``,
    by which a terminal of the xterm kind takes modes back that were saved."""
    import pyte

    screen: Any = pyte.Screen(_COLUMNS, _ROWS)
    take = screen.set_margins

    def set_margins(*margins: int, private: bool = False) -> None:
        if not private:
            take(*margins)

    screen.set_margins = set_margins
    return screen


class TerminalRun:
    """An editor in a terminal of 80 columns and 24 rows."""

    def __init__(self, program: Program, home: Home, start: Start, sandbox: Sandbox, stop: threading.Event) -> None:
        command = sandbox.around(home.filled(program.command, start, 1), home.folder)
        self._program = program
        self._terminal = PseudoTerminal(command, home.environment(program), home.folder, _ROWS, _COLUMNS)
        self._screen = new_screen()
        self._new_stream()
        self.ended = False
        self._is_told = is_told()
        self._rest: Switches = {}
        self._stop = stop

    def wait_until_ready(self) -> str:
        """Why keys cannot be pressed; empty where they can."""
        seconds = START_SECONDS * slowness()
        deadline = time.monotonic() + seconds
        while time.monotonic() < deadline:
            if not self._read(0.02) and not self.ended:
                continue
            if asked := self._question():
                return asked
            if self.ended:
                return f"the editor ended at its start: {self.said()}"
            if any(text in line for text in self._program.ready for line in self._lines()):
                self._settle()
                return self._question()  # which may come behind the first that is shown
        return f"the editor was not ready within {seconds:.0f} seconds: {self.said()}"

    def _question(self) -> str:
        """What the editor asks, or complains of, in place of its text; empty for nothing."""
        for line in self._lines():
            if any(question in line for question in self._program.questions):
                return f"the editor stopped at its start with: {line.strip()}"
        return ""

    def send(self, key: bytes) -> None:
        """Send bytes, and wait until the editor has done what they say."""
        if self.ended:
            return
        if not self._rest or not still(self._rest):
            found = self._resting()
            self._rest = found.switches if found is not None else {}
        with contextlib.suppress(OSError):
            self._terminal.send(key)
        self._settle(is_sent=True)
        # What follows an Escape before the editor has given up waiting for more of it would make it Alt.
        if key.endswith(b"\x1b"):
            pause = max(self._program.escape_seconds, QUIET_SECONDS) * slowness()
            deadline = time.monotonic() + min(pause, 1.0)
            while (left := deadline - time.monotonic()) > 0 and not self.ended:
                self._read(left)
            self._settle()

    def _settle(self, is_sent: bool = False) -> None:
        """Read what the editor shows until it waits, and behind what was sent to it has done something; where the kernel does not
        tell that, until it is quiet."""
        quiet_since = time.monotonic()
        deadline = quiet_since + _MOST_SECONDS * slowness()
        pause = _LOOK_SECONDS if self._is_told else QUIET_SECONDS
        while not self.ended and (now := time.monotonic()) < deadline:
            if self._read(pause):
                quiet_since = time.monotonic()
                continue
            pause = max(pause, min(2 * pause, _SELDOM_SECONDS))
            found = self._resting()
            if not self._is_told:
                return
            if found is None:
                continue
            patience = (
                _UNREAD_SECONDS if found.is_unread else _UNMOVED_SECONDS * (is_sent and found.switches == self._rest)
            )
            if now >= quiet_since + patience and not self._read(0):
                self._rest = found.switches
                return
        self._is_told = False  # it works all the time: from now on a silence has to do

    def _resting(self) -> Resting | None:
        if self._is_told:
            try:
                return self._terminal.resting()
            except OSError:
                self._is_told = False
        return None

    def _read(self, seconds: float) -> bool:
        if self._stop.is_set():
            self.ended = True
            return False
        data = self._terminal.read(seconds)
        if data is None:
            self.ended = True
        if not data:
            return False
        try:
            self._stream.feed(data)
        except (TypeError, ValueError):  # a control sequence that the library does not know; what follows is read anew
            self._new_stream()
        return True

    def _new_stream(self) -> None:
        import pyte

        self._stream = pyte.ByteStream(self._screen)

    def wait(self, seconds: float) -> None:
        """Let the editor work, and read what it shows."""
        self._read(seconds)

    def finish(self) -> None:
        """Let the editor end what it is at."""
        self._settle()

    def said(self) -> str:
        """The last line of the screen."""
        return next((line.strip() for line in reversed(self._lines()) if line.strip()), "nothing")

    def _lines(self) -> list[str]:
        """The rows of the screen."""
        buffer = self._screen.buffer
        return ["".join(buffer[row][column].data for column in range(_COLUMNS)) for row in range(_ROWS)]

    def picture(self) -> Picture:
        """The cells of the screen, row by row, and the place of the cursor."""
        buffer, cursor = self._screen.buffer, self._screen.cursor
        cells = [
            (cell.data, cell.fg, cell.bg, cell.reverse)
            for row in range(_ROWS)
            for cell in (buffer[row][column] for column in range(_COLUMNS))
        ]
        return (*cells, (cursor.y, cursor.x))

    def reopen(self, start: Start) -> str:
        """Not to be had in a terminal."""
        return "it is started anew for each text"

    def close(self) -> None:
        """Kill the editor and all that it started."""
        self._terminal.close()
