"""Editors run between the user's terminal and one of their own: what is counted is what was pressed, what is shown is what they
show, and nothing that was typed is in any file."""

import os
import random
import re
import shutil
import signal
import string
import sys
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

import pexpect
import pyte
import pytest

from ombix.evidence.terminal_run import new_screen
from ombix.work.usage import usage_questions
from ombix.work.usage.use import UseOptions
from ombix.workspace.open_workspace import OpenWorkspace
from tests.helpers import others_long

TEXT = "one two three\nfour five six\nseven eight nine\nten\n"
UP, DOWN = b"\x1b[A", b"\x1b[B"


class Played(NamedTuple):
    """An editor, what is pressed in it, and what that is by its manual: actions with their times, and characters typed."""

    command: tuple[str, ...]
    pressed: tuple[bytes, ...]
    done: dict[str, int]
    typed: int


# The keys are the editors' defaults, from their manuals.
PLAYED = {
    "nano": Played(
        ("nano", "--ignorercfiles"),
        (b"\x0b", b"\x15", b"hello", DOWN, DOWN, UP, b"\x1bu", b"\x17", b"six", b"\r", b"\x03", b"\x0f", b"\r", b"\x18"),
        {"edit.cut": 1, "edit.paste": 1, "cursor.down": 2, "cursor.up": 1, "history.undo": 1, "search.find": 1,
         "files.save-as": 1, "app.quit": 1}, 8,
    ),
    "micro": Played(
        ("micro",), (b"\x0b", b"\x16", b"abc", DOWN, UP, b"\x1a", b"\x13", b"\x11"),
        {"edit.cut-line": 1, "edit.paste": 1, "cursor.down": 1, "cursor.up": 1, "history.undo": 1, "files.save": 1}, 3,
    ),
    "kak": Played(
        ("kak", "-n"), (b"i", b"abc", b"\x1b", b"x", b"d", b"u", b":", b"wq", b"\r"),
        {"mode.insert": 1, "mode.normal": 1, "select.line": 1, "edit.cut": 1, "history.undo": 1, "app.command-line": 1}, 5,
    ),
    "nvi": Played(
        ("nvi",), (b"j", b"f", b"x", b"rq", b"u", b"3l", b"x", b"u", b"i", b"abc", b"\x1b", b"k", b":", b"wq", b"\r"),
        {"cursor.down": 1, "cursor.to-character": 1, "edit.replace-character": 1, "cursor.right": 1, "edit.delete-right": 1,
         "history.undo": 2, "mode.insert": 1, "mode.normal": 1, "cursor.up": 1, "app.command-line": 1}, 7,
    ),
    "joe": Played(
        ("joe", "-nobackups"), (b"abc", DOWN, b"\x19", b"\x1f", UP, b"\x0bx"),
        {"cursor.down": 1, "line.delete": 1, "history.undo": 1, "cursor.up": 1, "files.save-and-quit": 1}, 3,
    ),
    "mcedit": Played(("mcedit",), (DOWN, DOWN, UP, b"ab", b"\x19", b"\x15"), {"cursor.down": 2, "cursor.up": 1}, 2),
    "dte": Played(
        ("dte", "-R"), (b"abc", DOWN, UP, b"\x1a", b"\x13", b"\x11"),
        {"cursor.down": 1, "cursor.up": 1, "history.undo": 1, "files.save": 1}, 3,
    ),
}  # fmt: skip


def environment(home: Path) -> dict[str, str]:
    home.mkdir(exist_ok=True)
    return {
        "PATH": os.environ["PATH"], "HOME": str(home), "OMBIX_HOME": str(home / "ombix"), "TERM": "xterm-256color",
        "LANG": "C.UTF-8",
        "XDG_CONFIG_HOME": str(home / "config"), "XDG_RUNTIME_DIR": str(home), "XDG_DATA_HOME": str(home / "data"),
    }  # fmt: skip


def play(
    home: Path, command: list[str], pressed: tuple[bytes, ...], before_its_end: Callable[[bytes], None] = lambda shown: None
) -> tuple[bytes, int | None]:  # fmt: skip
    """Press keys in a program; all that it showed, and its status (None: it had to be ended)."""
    env = environment(home)
    child = pexpect.spawn(command[0], command[1:], env=env, cwd=str(home), dimensions=(24, 80), timeout=20)
    shown = b""

    def look(seconds: float) -> None:
        nonlocal shown
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            try:
                shown += child.read_nonblocking(65536, timeout=0.1)
                until = max(until, time.monotonic() + 0.3)
            except pexpect.TIMEOUT:
                continue
            except pexpect.EOF:
                return

    ready = time.monotonic() + 40
    while not shown and time.monotonic() < ready:  # what shows nothing yet takes no keys
        look(0.3)
    look(1.5)
    for one in pressed:
        child.send(one)
        look(2.0 if one == b"\x1b" else 0.5)  # Escape, and a key behind it at once, would be Alt
    look(1.5)
    before_its_end(shown)
    if child.isalive():
        child.kill(signal.SIGHUP)
        until = time.monotonic() + 30
        while child.isalive() and time.monotonic() < until:
            look(0.5)
    child.close(force=True)
    return shown, child.exitstatus


def counted(home: Path) -> tuple[Counter[str], int]:
    """What is kept: uses by action, and characters typed."""
    found = usage_questions.read_use(
        OpenWorkspace(folder=str(home), state=str(home / "ombix" / "state")), UseOptions()
    ).counts
    used: Counter[str] = Counter()
    for one, times in found.used.items():
        used[one.what] += times
    return used, sum(found.typed.values())


@pytest.mark.parametrize("editor", others_long(PLAYED, "nano", "kak", "micro"))
def test_what_is_counted_is_what_was_pressed(editor: str, tmp_path: Path) -> None:
    one, home = PLAYED[editor], tmp_path / "home"
    environment(home)
    (home / "text.sh").write_text(TEXT)
    play(home, [sys.executable, "-m", "ombix", "watch", "--", *one.command, "text.sh"], one.pressed)
    used, typed = counted(home)
    assert {action: used[action] for action in one.done} == one.done, used
    assert typed == one.typed
    assert sum(used.values()) <= sum(one.done.values()) + 3, used  # what the manual calls otherwise


class Shown:
    """A program in a terminal of its own, and what that terminal shows."""

    def __init__(self, home: Path, command: list[str]) -> None:
        env = environment(home)
        (home / "text.sh").write_text(TEXT)
        self.child = pexpect.spawn(command[0], command[1:], env=env, cwd=str(home), dimensions=(24, 80), timeout=20)
        self.screen = new_screen()
        self._stream = pyte.ByteStream(self.screen)
        self._ended = False

    def read(self) -> bool:
        """Take what comes within a tenth of a second. True: something came."""
        if self._ended:
            return False
        try:
            self._stream.feed(self.child.read_nonblocking(65536, timeout=0.1))
        except pexpect.TIMEOUT:
            return False
        except pexpect.EOF:
            self._ended = True
            self.child.close()
            return False
        return True

    def picture(self) -> tuple[object, ...]:
        """Each character with its colours, the modes of the terminal, the place of the cursor, and how the program ended."""
        rows = [[self.screen.buffer[row][column] for column in range(80)] for row in range(24)]
        for row in rows:
            found = re.search(r"client0@\[\d+\]", "".join(one.data for one in row))
            if found:  # kakoune shows the number of its process, at the right
                row[: found.end()] = [row[0]] * len(found[0]) + row[: found.start()]
        cursor = self.screen.cursor
        return (
            rows,
            sorted(self.screen.mode),
            (cursor.x, cursor.y, cursor.hidden),
            self._ended and self.child.exitstatus,
        )


@pytest.mark.long
@pytest.mark.parametrize("editor", ["nano", "kak", "nvi", "joe", "dte"])
def test_what_is_shown_is_what_the_editor_shows(editor: str, tmp_path: Path) -> None:
    """Beside each other, with and without watching: behind each key both come to show the same."""
    one = PLAYED[editor]
    # One key at a time: what an editor draws between keys that come at once depends on how fast it is.
    keys = tuple(
        part for sent in one.pressed for part in ([bytes([sign]) for sign in sent] if sent.isalpha() else [sent])
    )
    command = [*one.command, "text.sh"]
    plain = Shown(tmp_path / "plain", command)
    watched = Shown(tmp_path / "watched", [sys.executable, "-m", "ombix", "watch", "--", *command])

    def both_show_the_same(behind: bytes) -> None:
        until, quiet = time.monotonic() + 40, 0
        while quiet < 5 and time.monotonic() < until:
            came = [shown.read() for shown in (plain, watched)]
            same = plain.picture() == watched.picture() and bool(behind or plain.screen.display[0].strip())
            quiet = quiet + 1 if same and not any(came) else 0
        assert plain.picture() == watched.picture(), behind
        assert quiet, behind

    both_show_the_same(b"")
    for key in keys:
        for shown in (plain, watched):
            shown.child.send(key)
        both_show_the_same(key)
    for shown in (plain, watched):
        shown.child.close(force=True)
    assert (tmp_path / "plain" / "text.sh").read_bytes() == (tmp_path / "watched" / "text.sh").read_bytes()


RECORDING = """#!{python}
import os, pty, select, sys, termios, tty
size = termios.tcgetwinsize(0)
process, terminal = pty.fork()
if not process:
    termios.tcsetwinsize(0, size)
    os.execv({program!r}, [{program!r}, *sys.argv[1:]])
tty.setraw(0)
with open({log!r}, "ab", buffering=0) as log:
    while True:
        ready, _, _ = select.select([0, terminal], [], [])
        if 0 in ready:
            try:
                typed = os.read(0, 65536)
            except OSError:
                typed = b""
            if not typed:  # the terminal is gone
                os.kill(process, 9)
                break
            os.write(terminal, typed)
        if terminal in ready:
            try:
                data = os.read(terminal, 65536)
            except OSError:  # it has ended
                break
            log.write(data)
            while data:
                data = data[os.write(1, data):]
sys.exit(os.waitstatus_to_exitcode(os.waitpid(process, 0)[1]))
"""
"""A program in place of an editor that runs it, and writes down each byte that comes of it."""


@pytest.mark.long
@pytest.mark.parametrize("editor", PLAYED)
def test_every_byte_of_an_editor_comes_through(editor: str, tmp_path: Path) -> None:
    """What leaves the editor, and what arrives behind the watching, in the same run: all of it, in its order, and nothing else."""
    one, home, log = PLAYED[editor], tmp_path / "home", tmp_path / "log"
    environment(home)
    (home / "text.sh").write_text(TEXT)
    folder = tmp_path / "programs"
    folder.mkdir()
    program = shutil.which(one.command[0])
    assert program is not None
    script = folder / one.command[0]
    script.write_text(RECORDING.format(python=sys.executable, log=str(log), program=program))
    script.chmod(0o755)
    seen: list[tuple[bytes, bytes]] = []
    play(
        home, [sys.executable, "-m", "ombix", "watch", "--", str(script), *one.command[1:], "text.sh"], one.pressed,
        lambda shown: seen.append((shown, log.read_bytes())),
    )  # fmt: skip
    ((arrived, left),) = seen
    assert len(left) > 300
    assert arrived == left


def test_nothing_that_is_typed_is_in_any_file(tmp_path: Path) -> None:
    chance, home = random.Random(5), tmp_path / "home"
    environment(home)
    words = ["".join(chance.choices(string.ascii_lowercase, k=12)) for _ in range(6)]
    (home / "text.sh").write_text(TEXT)
    pasted = b"\x1b[200~" + words[5].encode() + b"\x1b[201~"
    pressed = (*(f"{word} ".encode() for word in words[:3]), b"\x17", words[3].encode(), b"\r", b"\x0f", words[4].encode(), b"\x03",
               pasted, b"\x1b", b"\x0b", b"\x13", b"\x18", b"n")  # fmt: skip
    play(home, [sys.executable, "-m", "ombix", "watch", "--", "nano", "--ignorercfiles", "text.sh"], pressed)
    used, typed = counted(home)
    assert used["files.save"] == 1
    assert typed >= 12 * 6
    for file in (home / "ombix").rglob("*"):
        data = file.read_bytes() if file.is_file() else b""
        for word in words:
            for length in (12, 8, 5):
                assert word[:length].encode() not in data, file


def test_sizes_signals_and_statuses_are_passed_on(tmp_path: Path) -> None:
    home = tmp_path / "home"
    env = environment(home)
    script = home / "nano"
    script.write_text(
        f"#!{sys.executable}\nimport os, signal, sys, time, tty\n"
        "say = lambda what: os.write(1, f'{what}\\r\\n'.encode())\n"
        "signal.signal(signal.SIGWINCH, lambda *_: say(os.get_terminal_size()))\n"
        "tty.setraw(0)\nsay(os.get_terminal_size())\n"
        "while True:\n    try:\n        got = os.read(0, 1000)\n    except InterruptedError:\n        continue\n"
        "    say(got)\n    if got == b'q':\n        sys.exit(41)\n"
    )
    script.chmod(0o755)
    call = ["-m", "ombix", "watch", "--", str(script)]
    child = pexpect.spawn(sys.executable, call, env=env, cwd=str(home), dimensions=(24, 80), timeout=20)
    child.expect_exact("os.terminal_size(columns=80, lines=24)")
    child.setwinsize(30, 100)
    child.expect_exact("os.terminal_size(columns=100, lines=30)")
    for sent in (b"\x1b[<0;3;4M", b"\x1b[200~a\x1b[201~", b"\x03", b"\x1a", "ß€".encode(), bytes(range(1, 17))):
        child.send(sent)
        child.expect_exact(repr(sent))
    child.send(b"x" * 5000)
    child.expect_exact("x'")
    child.send(b"q")
    child.expect(pexpect.EOF)
    child.close()
    assert child.exitstatus == 41


def test_without_a_terminal_and_of_an_unknown_program(tmp_path: Path) -> None:
    from tests.helpers import ombix

    ran = ombix(tmp_path, "watch", "--", "nano", "x")
    assert ran.status == 2
    assert "there is no terminal" in ran.err
    ran = ombix(tmp_path, "watch", "--", "sh")
    assert ran.status == 2
    assert "sh is no editor that Ombix knows" in ran.err


def wait_for(child: "pexpect.spawn[bytes]", sign: str, seconds: float = 20) -> bytes:
    child.expect(sign, timeout=seconds)
    return bytes(child.before or b"") + bytes(child.after or b"")


@pytest.mark.parametrize(("editor", "stops"), [("nvi", "\x1a"), ("kak -n", "\x1a"), ("joe -nobackups", "\x0bz")])
def test_an_editor_is_stopped_and_goes_on(editor: str, stops: str, tmp_path: Path) -> None:
    """By the shell from which it was started."""
    home = tmp_path / "home"
    env = environment(home) | {"PS1": "quay> "}
    (home / "text.sh").write_text(TEXT)
    shell = pexpect.spawn(
        "bash", ["--norc", "--noediting", "-i"], env=env, cwd=str(home), dimensions=(24, 80), timeout=30
    )
    wait_for(shell, "quay> ")
    shell.send(f"{sys.executable} -m ombix use watch -- {editor} text.sh\n")
    wait_for(shell, "seven")
    time.sleep(1)
    shell.send(stops)
    wait_for(shell, "Stopped")
    wait_for(shell, "quay> ")
    shell.send("echo har''bour\n")
    wait_for(shell, "harbour")
    shell.send("fg\n")
    wait_for(shell, "seven")
    time.sleep(1)
    shell.send({"nvi": ":q!\r", "kak -n": ":q!\r"}.get(editor, "\x03"))
    wait_for(shell, "quay> ")
    shell.send("echo pi''er $?\n")
    assert b"pier 0" in wait_for(shell, "pier [0-9]+")
    shell.close(force=True)


HIDDEN = ("sh -c 'stty -echo; read x'", f"{sys.executable} -c 'import sys, tty; tty.setraw(0); sys.stdin.read(8)'")


@pytest.mark.parametrize("asks", HIDDEN, ids=["a line that is not shown", "another program's keys"])
def test_what_a_program_of_the_editor_reads_is_not_counted(asks: str, tmp_path: Path) -> None:
    home = tmp_path / "home"
    environment(home)
    (home / "text.sh").write_text(TEXT)
    (home / "ask.sh").write_text(f"{asks}\n")
    word = (b"d", b"d", b"j", b"x", b"k", b"i", b"p", b"\r")
    pressed = (b"j", b":", *(bytes([one]) for one in b"!sh ask.sh"), b"\r", *word, b"\r")
    play(home, [sys.executable, "-m", "ombix", "watch", "--", "nvi", "text.sh"], pressed)
    used, typed = counted(home)
    assert used["cursor.down"] == 1 and used["app.command-line"] == 1
    assert sum(used.values()) == 2, used
    assert typed == len("!sh ask.sh")
