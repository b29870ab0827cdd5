"""A real xterm on a screen that nobody sees, whose program writes down the bytes that it receives."""

import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from ombix.core.keys.notation import ALT, ALTGR, CTRL, META, SHIFT
from ombix.core.pressing.layouts import Stroke
from ombix.files.xkb import PLACE_OF_KEY

SECONDS = 60.0
_AT_ONCE, _TRIES = 100, 5
_MARK = b"\x1b[24;8~"
"""What Ctrl+Alt+Shift+F12 sends: pressed behind each stroke, it parts what they sent."""

# X11 keycodes of the evdev driver (xkb-data, keycodes/evdev).
_KEYCODE_OF_KEY = {
    "TLDE": 49, **{f"AE{number:02}": 9 + number for number in range(1, 13)}, "AE13": 132,
    **{f"AD{number:02}": 23 + number for number in range(1, 13)},
    **{f"AC{number:02}": 37 + number for number in range(1, 12)}, "BKSL": 51, "LSGT": 94,
    **{f"AB{number:02}": 51 + number for number in range(1, 11)}, "AB11": 97, "SPCE": 65,
}  # fmt: skip
KEYCODES = {PLACE_OF_KEY[key]: code for key, code in _KEYCODE_OF_KEY.items()} | {
    "Escape": 9, "Backspace": 22, "Tab": 23, "Enter": 36, "Home": 110, "ArrowUp": 111, "PageUp": 112, "ArrowLeft": 113,
    "ArrowRight": 114, "End": 115, "ArrowDown": 116, "PageDown": 117, "Insert": 118, "Delete": 119,
    **{f"F{number}": 66 + number for number in range(1, 11)}, "F11": 95, "F12": 96,
}  # fmt: skip
_MODIFIER_CODES = {CTRL: 37, SHIFT: 50, ALT: 64, ALTGR: 108, META: 133}

_PROGRAM = """
import os, sys, termios, tty
tty.setraw(0)
os.write(1, b"\\x1b[?1h")
with open(sys.argv[1], "ab", 0) as log:
    open(sys.argv[2], "w").close()
    while True:
        log.write(os.read(0, 4096))
"""


def missing_programs() -> list[str]:
    """The programs that are needed and not installed."""
    return [name for name in ("Xvfb", "xterm", "xdotool", "setxkbmap") if shutil.which(name) is None]


def sent_by_xterm(strokes: Sequence[Stroke], layout: str, resources: Sequence[str] = ()) -> list[bytes]:
    """What a program in xterm receives for each stroke on an XKB layout (`us`, `de`)."""
    with tempfile.TemporaryDirectory(prefix="ombix-xterm-") as name, _screen(Path(name)) as environment:
        subprocess.run(
            ["setxkbmap", "-rules", "evdev", "-model", "pc105", "-layout", layout], env=environment, check=True,
            capture_output=True,
        )  # fmt: skip
        terminal = _Terminal(Path(name), environment, resources)
        try:
            return [answer for group in _groups(strokes) for answer in terminal.answers(group)]
        finally:
            terminal.close()


def _groups(strokes: Sequence[Stroke]) -> list[list[Stroke]]:
    """A hundred strokes at once; those that paste alone, as xterm does not always survive a second paste at once."""
    groups: list[list[Stroke]] = [[]]
    for stroke in strokes:
        pastes = stroke.place == "Insert" and stroke.held & SHIFT
        if pastes or len(groups[-1]) == _AT_ONCE:
            groups.append([])
        groups[-1].append(stroke)
        if pastes:
            groups.append([])
    return [group for group in groups if group]


class _Terminal:
    def __init__(self, folder: Path, environment: dict[str, str], resources: Sequence[str]) -> None:
        self.log, self.ready = folder / "log", folder / "ready"
        (folder / "program.py").write_text(_PROGRAM, "utf-8")
        options = [word for text in ("metaSendsEscape: true", *resources) for word in ("-xrm", f"XTerm*{text}")]
        program = [sys.executable, str(folder / "program.py"), str(self.log), str(self.ready)]
        self.command = ["xterm", *options, "-e", *program]
        self.environment = environment
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start it anew."""
        self.close()
        self.ready.unlink(missing_ok=True)
        nowhere = subprocess.DEVNULL
        self.process = subprocess.Popen(
            self.command, env=self.environment, stdin=nowhere, stdout=nowhere, stderr=nowhere
        )
        assert _comes_true(self.ready.exists, SECONDS), "the terminal did not start in time"

    def answers(self, strokes: Sequence[Stroke]) -> list[bytes]:
        """What each of a few strokes sends. Where a busy machine has repeated or lost keys, all are pressed once more."""
        words = [word for stroke in strokes for word in _words(stroke) + _words(Stroke("F12", CTRL | ALT | SHIFT))]
        for _ in range(_TRIES):
            if self.process is None or self.process.poll() is not None:
                self.start()
            before = self.log.stat().st_size
            # The keys go to the window that the pointer is in.
            call = ["xdotool", "mousemove", "40", "40", *words]
            subprocess.run(call, env=self.environment, check=True, capture_output=True, timeout=SECONDS)
            _comes_true(lambda before=before: self._new(before).count(_MARK) >= len(strokes), SECONDS / 12)  # type: ignore[misc]
            time.sleep(0.02)
            parts = self._new(before).split(_MARK)
            if len(parts) == len(strokes) + 1 and not parts[-1]:
                return parts[:-1]
            self.start()
        raise AssertionError(f"the terminal did not answer {len(strokes)} strokes with as many marks")

    def _new(self, before: int) -> bytes:
        return self.log.read_bytes()[before:]

    def close(self) -> None:
        """End it."""
        if self.process is not None:
            self.process.kill()
            self.process.wait()


def _words(stroke: Stroke) -> list[str]:
    held = [str(code) for bit, code in _MODIFIER_CODES.items() if stroke.held & bit]
    key = "Escape" if stroke.place == "Escape" else str(KEYCODES[stroke.place])  # a digit alone would be a keysym
    delay = ("--delay", "0")
    return ["keydown", *delay, *held, key, "keyup", *delay, key, *reversed(held)]


@contextmanager
def _screen(folder: Path) -> Iterator[dict[str, str]]:
    """A screen of its own; the environment that names it."""
    read, write = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", "800x600x24", "-nolisten", "tcp", "-noreset"],
        pass_fds=[write], stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    os.close(write)
    try:
        with os.fdopen(read) as stream:
            number = stream.readline().strip()
        yield {"PATH": os.environ["PATH"], "HOME": str(folder), "DISPLAY": f":{number}", "LANG": "C.UTF-8"}
    finally:
        server.terminate()
        server.wait()


def _comes_true(condition: Callable[[], bool], seconds: float) -> bool:
    deadline = time.monotonic() + seconds
    while not condition():
        if time.monotonic() > deadline:
            return False
        time.sleep(0.01)
    return True
