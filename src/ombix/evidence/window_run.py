"""A real editor in a window, on a screen that nobody sees."""

import contextlib
import os
import signal
import subprocess
import threading
import time

from ombix.core.errors import NotationError, OutsideError
from ombix.core.keys.notation import parse
from ombix.core.pressing.layouts import KeyboardSetup
from ombix.editors.description import Program
from ombix.evidence.editor_run import START_SECONDS, TILES_IN_A_ROW, Home, Picture, Start, slowness
from ombix.evidence.hidden_display import WIDTH, HiddenScreen, Shot
from ombix.evidence.idle_detection import is_told, still, waiting
from ombix.evidence.sandbox import Sandbox, find_program

_BUS_SECONDS = 10.0
_END_SECONDS = 2.0
_QUIET_SECONDS, _MOST_SECONDS = 0.02, 1.5
"""What is waited for a window where the kernel does not tell when it is done, and at the most where it does."""
_LOOK_SECONDS, _SELDOM_SECONDS = 0.002, 0.03
"""What is waited between two looks at what an editor does: at first, and at the most, as looking takes time from it."""
_TILE = WIDTH // TILES_IN_A_ROW
"""Pixels of a side of the squares in which pictures are compared."""


class WindowRun:
    """An editor with a display, and where it needs one a message bus, of its own."""

    def __init__(
        self,
        program: Program,
        home: Home,
        start: Start,
        sandbox: Sandbox,
        keyboard: KeyboardSetup,
        stop: threading.Event,
    ) -> None:
        self._program, self._home, self._stop = program, home, stop
        self._number = 1
        self._pixels = b""
        self._tiles: tuple[int, ...] = ()
        self.ended = False
        self._children: list[subprocess.Popen[bytes]] = []
        self._display = HiddenScreen(home.folder, keyboard)
        try:
            self._sandbox = sandbox.showing(self._display.socket)
            environment = home.environment(program)
            self._environment = {
                **environment,
                "DISPLAY": self._display.name,
                "XAUTHORITY": str(self._display.authority),
            }
            if program.bus:
                self._start_bus()
            self._editor = self._start(home.filled(program.command, start, 1))
        except BaseException:
            self.close()
            raise

    def _start(self, command: list[str]) -> "subprocess.Popen[bytes]":
        child = subprocess.Popen(
            self._sandbox.around(command, self._home.folder), env=self._environment, cwd=self._home.folder,
            stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True,
        )  # fmt: skip
        self._children.append(child)
        return child

    def _start_bus(self) -> None:
        """A message bus that only this home knows of."""
        socket = self._home.folder / "bus"
        self._environment["DBUS_SESSION_BUS_ADDRESS"] = f"unix:path={socket}"
        words = ["--session", "--nofork", "--nopidfile", f"--address=unix:path={socket}"]
        bus = self._start([find_program("dbus-daemon") or "dbus-daemon", *words])
        deadline = time.monotonic() + _BUS_SECONDS
        while not socket.exists():
            if time.monotonic() > deadline or bus.poll() is not None:
                raise OutsideError("no message bus starts here", "Start dbus-daemon --session by hand to see why.")
            time.sleep(0.01)

    def wait_until_ready(self) -> str:
        """Why keys cannot be pressed; empty where they can."""
        wanted = [word.replace("{name}", self._home.text(self._number).name) for word in self._program.ready]
        seconds = START_SECONDS * slowness()
        deadline = time.monotonic() + seconds
        while time.monotonic() < deadline:
            self.wait(0.01)
            titles = self._display.titles()
            if self.ended:
                return "the editor ended at its start"
            if titles and any(word in titles[-1] for word in wanted):
                self.wait(self._program.settles_seconds if self._number == 1 else self._program.again_settles_seconds)
                self.finish()
                if self._display.titles() == titles:
                    return ""
        titles = self._display.titles()
        shown = f"it shows a window called {titles[-1]!r}" if titles else "it shows no window"
        return f"the editor was not ready within {seconds:.0f} seconds: {shown}"

    def send(self, key: bytes) -> None:
        """Press keys, given by their notation."""
        if self.ended or not key:
            return
        try:
            trigger = parse(key.decode())
        except NotationError:
            trigger = ()
        for chord in trigger:
            self._display.press((chord,))
            self.wait(self._program.key_seconds)

    def wait(self, seconds: float) -> None:
        """Let the editor work, and give the focus to the windows that it shows."""
        deadline = time.monotonic() + seconds
        while True:
            if self._stop.is_set() or self._editor.poll() is not None or not self._display.is_alive:
                self.ended = True
                return
            self._display.pump()
            left = deadline - time.monotonic()
            if left <= 0:
                return
            time.sleep(min(left, 0.005))

    def finish(self) -> None:
        """Let the editor end what it is at: until all threads of it, of its bus and of the display wait."""
        self.wait(0 if is_told() else _QUIET_SECONDS)
        deadline, pause = time.monotonic() + _MOST_SECONDS * slowness(), _LOOK_SECONDS
        while is_told() and not self.ended and not self._is_resting() and time.monotonic() < deadline:
            self.wait(pause)
            pause = min(2 * pause, _SELDOM_SECONDS)

    def _is_resting(self) -> bool:
        processes = [self._display.process, *(child.pid for child in self._children if child.poll() is None)]
        try:
            found = waiting(*processes)
            return found is not None and still(found)
        except OSError:  # one of them has ended
            return False

    def shot(self) -> Shot:
        """What is to be seen now."""
        return self._display.shot()

    def picture(self) -> Picture:
        """What is to be seen now, in tiles; behind them the titles of the windows. Without a display, nothing."""
        if not self._display.is_alive:
            return ()
        self._display.pump()
        width, pixels = self._display.shot()
        if pixels == self._pixels:
            return (*self._tiles, len(self._display.titles()))
        row = width * 4
        tiles = [
            b"".join(pixels[(top + y) * row + left * 4 : (top + y) * row + (left + _TILE) * 4] for y in range(_TILE))
            for top in range(0, len(pixels) // row, _TILE)
            for left in range(0, width, _TILE)
        ]
        self._pixels, self._tiles = pixels, tuple(map(hash, tiles))
        return (*self._tiles, len(self._display.titles()))

    def said(self) -> str:
        """The title of the window that was shown last."""
        titles = self._display.titles() if self._display.is_alive else []
        return f"the last window is called {titles[-1]!r}" if titles else "there is no window"

    def reopen(self, start: Start) -> str:
        """Show another text in the running editor; why that cannot be, or nothing."""
        self._number += 1
        self._display.forget_copied()
        client = self._start(self._home.filled(self._program.again, start, self._number))
        reason = self.wait_until_ready()
        with contextlib.suppress(subprocess.TimeoutExpired):
            client.wait(_END_SECONDS)
        return reason

    def close(self) -> None:
        """Kill the editor, all that it started, the bus and the display."""
        for child in reversed(self._children):
            with contextlib.suppress(OSError):
                os.killpg(child.pid, signal.SIGKILL)
            child.wait()
        self._display.close()
