"""A screen that nobody sees: an X server of its own, real key events on a layout, and the windows that are shown there."""

import contextlib
import os
import select
import socket
import subprocess
import threading
import time
from pathlib import Path
from typing import Any, NamedTuple

from ombix.core.errors import OutsideError
from ombix.core.keys.notation import ALT, ALTGR, CTRL, META, SHIFT, Trigger, write
from ombix.core.pressing.layouts import KeyboardSetup, Stroke
from ombix.evidence.editor_run import slowness
from ombix.evidence.sandbox import find_program

START_SECONDS = 10.0
WIDTH, HEIGHT = 1000, 700
SOCKETS = Path("/tmp/.X11-unix")

# X11 keycodes of the evdev driver (xkb-data, keycodes/evdev).
KEYCODES: dict[str, int] = {
    "Escape": 9, **{f"Digit{number % 10}": 9 + number for number in range(1, 11)}, "Minus": 20, "Equal": 21,
    "Backspace": 22, "Tab": 23, **{f"Key{letter}": 24 + index for index, letter in enumerate("QWERTYUIOP")},
    "BracketLeft": 34, "BracketRight": 35, "Enter": 36, "ControlLeft": 37,
    **{f"Key{letter}": 38 + index for index, letter in enumerate("ASDFGHJKL")}, "Semicolon": 47, "Quote": 48,
    "Backquote": 49, "ShiftLeft": 50, "Backslash": 51,
    **{f"Key{letter}": 52 + index for index, letter in enumerate("ZXCVBNM")}, "Comma": 59, "Period": 60, "Slash": 61,
    "NumpadMultiply": 63, "AltLeft": 64, "Space": 65, **{f"F{number}": 66 + number for number in range(1, 11)},
    "Numpad7": 79, "Numpad8": 80, "Numpad9": 81, "NumpadSubtract": 82, "Numpad4": 83, "Numpad5": 84, "Numpad6": 85,
    "NumpadAdd": 86, "Numpad1": 87, "Numpad2": 88, "Numpad3": 89, "Numpad0": 90, "NumpadDecimal": 91,
    "IntlBackslash": 94, "F11": 95, "F12": 96, "IntlRo": 97, "NumpadEnter": 104, "ControlRight": 105,
    "NumpadDivide": 106, "AltGraph": 108, "Home": 110, "ArrowUp": 111, "PageUp": 112, "ArrowLeft": 113,
    "ArrowRight": 114, "End": 115, "ArrowDown": 116, "PageDown": 117, "Insert": 118, "Delete": 119, "Pause": 127,
    "IntlYen": 132, "MetaLeft": 133, "ContextMenu": 135,
}  # fmt: skip
_HELD = ((CTRL, 37), (ALT, 64), (META, 133), (ALTGR, 108), (SHIFT, 50))
"""Modifiers with the keycodes that are held for them, in the order in which they go down."""
_CONNECTING = threading.Lock()
"""Held while the library is told where the secret is: it reads that from the environment."""
_COOKIE = b"MIT-MAGIC-COOKIE-1"
_FAMILY_LOCAL, _FAMILY_WILD = 256, 65535


class Shot(NamedTuple):
    """What is to be seen: the width, and the pixels row by row, four bytes each (blue, green, red, unused)."""

    width: int
    pixels: bytes


def require_display() -> None:
    """Raise OutsideError where this machine has no X server that shows nothing."""
    if find_program("Xvfb") is None:
        raise OutsideError(
            "Xvfb is not installed, so nothing can be pressed in an editor that has a window",
            "Install Debian's package xvfb, or your system's.",
        )


class HiddenScreen:
    """An X server with a number that is free; `close` ends it. Only those who know its secret can reach it, and it gives the
    focus to the window that was shown last, as no window manager runs in it."""

    def __init__(self, folder: Path, setup: KeyboardSetup) -> None:
        """`folder` is for the secret. Raises OutsideError where no server starts."""
        require_display()
        self.authority = folder / "authority"
        self._setup = setup
        self._windows: list[int] = []
        self._connection: Any = None
        secret = os.urandom(16)
        self._write_authority(secret, "")
        told, telling = os.pipe()
        command = [
            find_program("Xvfb") or "Xvfb", "-displayfd", str(telling), "-screen", "0", f"{WIDTH}x{HEIGHT}x24",
            "-nolisten", "tcp", "-terminate", "-auth", str(self.authority),
        ]  # fmt: skip
        try:
            self._server = subprocess.Popen(
                command, pass_fds=[telling], stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL, start_new_session=True,
            )  # fmt: skip
            os.close(telling)
            number = _told(told)
            if not number:
                raise OutsideError("Xvfb did not start, so nothing can be pressed", "Start Xvfb by hand to see why.")
            self.name = f":{number}"
            self.socket = SOCKETS / f"X{number}"
            self._write_authority(secret, number)
            self._connect()
        except BaseException:
            self.close()
            raise
        finally:
            os.close(told)

    def _write_authority(self, secret: bytes, number: str) -> None:
        """The secret as libXau has it: for the editor by any address, for this library by this machine's name."""
        self.authority.touch(0o600)
        rows = [(_FAMILY_WILD, b"", b"")]
        rows += [(_FAMILY_LOCAL, socket.gethostname().encode(), number.encode())] if number else []
        data = b""
        for family, address, display in rows:
            data += family.to_bytes(2, "big")
            data += b"".join(len(one).to_bytes(2, "big") + one for one in (address, display, _COOKIE, secret))
        self.authority.write_bytes(data)

    def _connect(self) -> None:
        from Xlib import X
        from Xlib.display import Display as Connection
        from Xlib.error import DisplayError

        with _CONNECTING:
            before = os.environ.get("XAUTHORITY")
            os.environ["XAUTHORITY"] = str(self.authority)
            try:
                self._connection = Connection(self.name)
            except (DisplayError, OSError) as error:
                raise OutsideError(f"Xvfb cannot be reached: {error}", "Start Xvfb by hand to see why.") from None
            finally:
                if before is None:
                    del os.environ["XAUTHORITY"]
                else:
                    os.environ["XAUTHORITY"] = before
        self._root = self._connection.screen().root
        self._root.change_attributes(event_mask=X.SubstructureNotifyMask)
        self._connection.sync()
        self._set_layout()

    def _set_layout(self) -> None:
        """Give the server the layout at hand, where xkb-data has it; the plain one is there from the start."""
        xkb = xkb_name(self._setup.layout.source)
        if xkb in (None, ("us", "")):
            return
        program = find_program("setxkbmap")
        if program is None:
            raise OutsideError(
                f"setxkbmap is not installed, so the layout {self._setup.layout.name} cannot be pressed",
                "Install Debian's package x11-xkb-utils, or your system's.",
            )
        assert xkb is not None
        named = ["-layout", xkb[0], *(["-variant", xkb[1]] if xkb[1] else [])]
        environment = {
            "DISPLAY": self.name,
            "XAUTHORITY": str(self.authority),
            "PATH": os.environ.get("PATH", os.defpath),
        }
        subprocess.run(
            [program, "-rules", "evdev", "-model", "pc105", *named], env=environment, stdin=subprocess.DEVNULL,
            capture_output=True, timeout=START_SECONDS * slowness(), check=False,
        )  # fmt: skip

    @property
    def is_alive(self) -> bool:
        """Whether the server still runs."""
        return self._server.poll() is None

    @property
    def process(self) -> int:
        """The number of the server's process."""
        return self._server.pid

    def pump(self) -> None:
        """Take note of the windows that came and went, and give the focus to the last one."""
        from Xlib import X
        from Xlib.error import ConnectionClosedError

        with contextlib.suppress(ConnectionClosedError, OSError):
            changed = False
            while self._connection.pending_events():
                event = self._connection.next_event()
                if event.type == X.MapNotify and not event.override:
                    self._windows.append(event.window.id)
                    changed = True
                elif event.type in (X.UnmapNotify, X.DestroyNotify) and event.window.id in self._windows:
                    self._windows.remove(event.window.id)
                    changed = True
            if changed and self._windows:
                window = self._connection.create_resource_object("window", self._windows[-1])
                window.set_input_focus(X.RevertToParent, X.CurrentTime, onerror=_ignore)
                self._connection.sync()

    def titles(self) -> list[str]:
        """The titles of the windows that are shown, the last one last."""
        from Xlib.error import XError

        found = []
        for number in self._windows:
            window = self._connection.create_resource_object("window", number)
            with contextlib.suppress(XError, OSError):
                name = window.get_full_text_property(self._connection.intern_atom("_NET_WM_NAME"))
                found.append(str(name or window.get_wm_name() or ""))
        return found

    def press(self, trigger: Trigger) -> str:
        """Press the keys of a trigger, each by its easiest strokes; why that cannot be, or nothing."""
        found = self._setup.press_sequence(trigger)
        if isinstance(found, str):
            return found
        for press in found:
            for stroke in (press.first, press.stroke) if press.first is not None else (press.stroke,):
                if stroke.place not in KEYCODES:
                    return f"{write(trigger)} is on a key that cannot be pressed here"
                self._strike(stroke)
        return ""

    def _strike(self, stroke: Stroke) -> None:
        from Xlib import X
        from Xlib.error import ConnectionClosedError
        from Xlib.ext import xtest

        held = [code for bit, code in _HELD if stroke.held & bit]
        with contextlib.suppress(ConnectionClosedError, OSError):
            for code in (*held, KEYCODES[stroke.place]):
                xtest.fake_input(self._connection, X.KeyPress, code)
            for code in (KEYCODES[stroke.place], *reversed(held)):
                xtest.fake_input(self._connection, X.KeyRelease, code)
            self._connection.sync()

    def forget_copied(self) -> None:
        """Have nothing to be pasted: the selections are taken from the program that has them."""
        from Xlib import X
        from Xlib.error import ConnectionClosedError
        from Xlib.protocol.request import SetSelectionOwner

        with contextlib.suppress(ConnectionClosedError, OSError):
            for name in ("CLIPBOARD", "PRIMARY"):
                # To nobody: an owner that does not answer is waited for.
                SetSelectionOwner(
                    display=self._connection.display, window=X.NONE, selection=self._connection.intern_atom(name),
                    time=X.CurrentTime,
                )  # fmt: skip
            self._connection.sync()

    def shot(self) -> Shot:
        """What is to be seen now."""
        from Xlib import X

        image = self._root.get_image(0, 0, WIDTH, HEIGHT, X.ZPixmap, 0xFFFFFFFF)
        return Shot(WIDTH, image.data)

    def close(self) -> None:
        """End the server."""
        if self._connection is not None:
            with contextlib.suppress(Exception):
                self._connection.close()
        server = getattr(self, "_server", None)
        if server is not None:
            server.terminate()
            try:
                server.wait(2.0)
            except subprocess.TimeoutExpired:
                server.kill()
                server.wait()


def xkb_name(source: str) -> tuple[str, str] | None:
    """The layout and the variant that a layout's source names ("…, symbols/de(nodeadkeys)"); None where it names none."""
    _before, mark, named = source.partition("symbols/")
    if not mark or not source.startswith("xkb-data"):
        return None
    layout, _bracket, variant = named.split(",")[0].strip().partition("(")
    return layout, variant.removesuffix(")")


def _told(pipe: int) -> str:
    """The number that the server tells; empty where it tells none."""
    deadline = time.monotonic() + START_SECONDS * slowness()
    said = b""
    while b"\n" not in said and (left := deadline - time.monotonic()) > 0:
        if not select.select([pipe], [], [], left)[0] or not (more := os.read(pipe, 16)):
            break
        said += more
    return said.decode().strip() if said.endswith(b"\n") else ""


def _ignore(*_arguments: object) -> None:
    """A window that is gone already."""
