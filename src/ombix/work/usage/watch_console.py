"""A terminal program run as it is, in a terminal of its own between it and the user's: all that passes is passed on unchanged."""

import contextlib
import fcntl
import os
import select
import signal
import struct
import sys
import termios
import time
import tty
from collections.abc import Callable, Sequence
from datetime import datetime
from pathlib import Path

from ombix.core.errors import InputError, OutsideError
from ombix.work.usage.watch import WatchedKeys

_AT_ONCE = 65536
_GLANCE = 0.05
"""Seconds that are waited for the rest of what a key sends."""
_KEPT_EVERY = 60.0
"""Seconds after which what was counted is kept, so that little is lost with the power."""


def run_watched(command: Sequence[str], watched: WatchedKeys, keep: Callable[[], None]) -> int:
    """Run a program, and count the keys on their way to it; the status that it ended with. Raises InputError without a terminal,
    and OutsideError where the program cannot be started."""
    if not (sys.stdin.isatty() and sys.stdout.isatty()):
        raise InputError("there is no terminal for the editor", "Call it in a terminal.")
    return _Between(command, watched, keep).run()


class _Between:
    def __init__(self, command: Sequence[str], watched: WatchedKeys, keep: Callable[[], None]) -> None:
        self._command = list(command)
        self._watched = watched
        self._keep = keep
        self._in, self._out = sys.stdin.fileno(), sys.stdout.fileno()
        self._before = termios.tcgetattr(self._in)
        self._to_program = self._to_user = b""
        self._status: int | None = None
        self._is_over = False
        """Whether nothing comes from the user any more."""
        self._last_key = self._last_kept = time.monotonic()

    def run(self) -> int:
        self._program, self._terminal = self._start()
        woken, wake = os.pipe()
        for end in (woken, wake):
            os.set_blocking(end, False)
        handled = (signal.SIGWINCH, signal.SIGTERM, signal.SIGHUP)
        known = {number: signal.signal(number, self._signalled) for number in handled}
        old_wake = signal.set_wakeup_fd(wake, warn_on_full_buffer=False)
        try:
            tty.setraw(self._in)
            self._take_size()  # it may have changed before anyone listened
            self._pass_on(woken)
        finally:
            with contextlib.suppress(termios.error):
                termios.tcsetattr(self._in, termios.TCSADRAIN, self._before)
            signal.set_wakeup_fd(old_wake)
            for number, handler in known.items():
                signal.signal(number, handler)
            for end in (woken, wake, self._terminal, self._said):
                os.close(end)
            with contextlib.suppress(ChildProcessError):
                os.waitpid(self._keeper, 0)
        return self._status if self._status is not None else 0

    def _start(self) -> tuple[int, int]:
        """The program in a terminal of its own, which is like the user's from the beginning; its process and that terminal.

        Between this process and the program stands a keeper, which leads the session. Without it nobody of the program's own
        session would be there to continue it, and the system does not let such a process group be stopped from the terminal
        (POSIX.1, orphaned process group): Ctrl+Z would do nothing. The keeper says what became of the program.
        """
        size = self._size()
        self._said, says = os.pipe()
        keeper, terminal = os.forkpty()
        if keeper == 0:  # pragma: no cover (the keeper's own process)
            try:
                os.close(self._said)
                fcntl.ioctl(0, termios.TIOCSWINSZ, size)
                termios.tcsetattr(0, termios.TCSANOW, self._before)
                _keep(self._command, says)
            finally:
                os._exit(127)
        os.close(says)
        self._keeper = keeper
        first = self._said_next()
        if not first.startswith("started "):
            os.waitpid(keeper, 0)
            os.close(terminal)
            os.close(self._said)
            raise OutsideError(f"{self._command[0]} cannot be started: {first}", "Check its name.")
        return int(first.split()[1]), terminal

    def _said_next(self) -> str:
        """The next line that the keeper says, once it is there; empty where there is no keeper any more."""
        found = b""
        while not found.endswith(b"\n"):
            sign = os.read(self._said, 1)
            if not sign:
                break
            found += sign
        return found.decode("utf-8", "replace").strip()

    def _size(self) -> bytes:
        return fcntl.ioctl(self._out, termios.TIOCGWINSZ, struct.pack("HHHH", 0, 0, 0, 0))

    def _take_size(self) -> None:
        with contextlib.suppress(OSError):
            fcntl.ioctl(self._terminal, termios.TIOCSWINSZ, self._size())

    def _signalled(self, number: int, _frame: object) -> None:
        """What is told to this program is told to the other one."""
        if number == signal.SIGWINCH:
            self._take_size()
        elif number in (signal.SIGTERM, signal.SIGHUP):
            self._last_kept = -_KEPT_EVERY  # what was counted is kept at once: there may be no later
            with contextlib.suppress(ProcessLookupError):
                os.killpg(self._program, number)

    def _pass_on(self, woken: int) -> None:
        is_open = True
        while True:
            self._keep_from_time_to_time()
            if not is_open and self._status is not None and not self._to_user:
                return
            takes = len(self._to_program) < _AT_ONCE and self._status is None and not self._is_over
            readers = [woken, *([self._said] if self._status is None else []), *([self._in] if takes else [])]
            readers += [self._terminal] if is_open and len(self._to_user) < _AT_ONCE else []
            writers = [self._terminal] if self._to_program and is_open else []
            writers += [self._out] if self._to_user else []
            ready, free, _ = select.select(readers, writers, [], self._patience())
            if woken in ready:
                with contextlib.suppress(BlockingIOError):
                    os.read(woken, _AT_ONCE)
            if self._said in ready:
                self._take_what_became()
            if self._terminal in ready:
                is_open = self._from_program()
            if self._in in ready:
                self._from_user()
            if self._terminal in free and is_open:
                with contextlib.suppress(OSError):
                    self._to_program = self._to_program[os.write(self._terminal, self._to_program[:1024]) :]
            if self._out in free:
                try:
                    self._to_user = self._to_user[os.write(self._out, self._to_user) :]
                except OSError:  # the terminal has gone
                    self._to_user = b""
            if not ready and not free:
                idle = time.monotonic() - self._last_key
                self._watched.pause(int(idle * 1000), datetime.now().astimezone())

    def _patience(self) -> float:
        """How long nothing may come until something is done."""
        if self._status is not None:
            return _GLANCE
        return _GLANCE if self._watched.is_unfinished else _KEPT_EVERY

    def _from_program(self) -> bool:
        """Take what the program shows; whether there may be more."""
        try:
            data = os.read(self._terminal, _AT_ONCE)
        except OSError:  # the program has closed its terminal
            return False
        self._to_user += data
        return bool(data)

    def _from_user(self) -> None:
        """Take what the user pressed, pass it on, and then count it: nobody waits for that."""
        try:
            data = os.read(self._in, _AT_ONCE)
        except OSError:  # the terminal has gone
            data = b""
        if not data:
            self._is_over = True
            with contextlib.suppress(ProcessLookupError):
                os.killpg(self._program, signal.SIGHUP)
            return
        # Asked before the keys are passed on: one that ends the editor gives the terminal back to lines.
        is_hidden = self._is_read_by_another()
        self._to_program += data
        with contextlib.suppress(OSError):
            self._to_program = self._to_program[os.write(self._terminal, self._to_program[:1024]) :]
        self._last_key = time.monotonic()
        self._watched.hide(is_hidden)
        self._watched.note(data, datetime.now().astimezone())

    def _is_read_by_another(self) -> bool:
        """Whether what is pressed now goes to a program that the editor started, or into a line that is not shown, as where a
        password is asked for. An editor reads keys one by one, and shows them itself."""
        try:
            reads_lines = bool(termios.tcgetattr(self._terminal)[3] & termios.ICANON)
            return reads_lines or os.tcgetpgrp(self._terminal) != self._program or self._has_child_at_terminal()
        except (OSError, termios.error):  # the editor has gone
            return True

    def _has_child_at_terminal(self) -> bool:
        """Whether a process that the editor started reads from its terminal, as far as the system tells (Linux's proc(5))."""
        try:
            with open(f"/proc/{self._program}/task/{self._program}/children", encoding="ascii") as file:
                children = file.read().split()
            own = Path(f"/proc/{self._program}/fd/0").readlink()
        except OSError:
            return False
        for child in children:
            with contextlib.suppress(OSError):
                if Path(f"/proc/{child}/fd/0").readlink() == own and _is_running_another(child, self._program):
                    return True
        return False

    def _keep_from_time_to_time(self) -> None:
        if time.monotonic() - self._last_kept > _KEPT_EVERY:
            self._last_kept = time.monotonic()
            self._keep()

    def _take_what_became(self) -> None:
        """Take what the keeper says of the program: it stopped itself, or it ended."""
        said = self._said_next()
        if said == "stopped":
            self._stop()
        else:
            kind, _, number = said.partition(" ")
            self._status = int(number) if kind == "ended" else 128 + signal.SIGHUP

    def _stop(self) -> None:
        """The program stopped itself: stop, too, so that the shell comes back; and go on with it afterwards."""
        while self._to_user:
            self._to_user = self._to_user[os.write(self._out, self._to_user) :]
        termios.tcsetattr(self._in, termios.TCSADRAIN, self._before)
        os.kill(os.getpid(), signal.SIGSTOP)
        tty.setraw(self._in)
        with contextlib.suppress(OSError):
            fcntl.ioctl(self._terminal, termios.TIOCSWINSZ, self._size())
            os.killpg(self._program, signal.SIGCONT)


def _is_running_another(child: str, parent: int) -> bool:
    """Whether a process runs another program than the one that started it, which a part of the same program does not."""
    return Path(f"/proc/{child}/exe").readlink() != Path(f"/proc/{parent}/exe").readlink()


def _keep(command: list[str], says: int) -> None:  # pragma: no cover (the keeper's own process)
    """Start a program in the foreground of this terminal, and say on a pipe how it fares, a line each time."""
    failed, fails = os.pipe()
    program = os.fork()
    if program == 0:
        try:
            os.setpgid(0, 0)
            signal.signal(signal.SIGTTOU, signal.SIG_IGN)  # it is not in the foreground yet
            os.tcsetpgrp(0, os.getpgrp())
            signal.signal(signal.SIGTTOU, signal.SIG_DFL)
            os.close(failed)
            os.close(says)
            os.execvp(command[0], command)
        except OSError as error:
            os.write(fails, str(error.strerror).encode())
        finally:
            os._exit(127)
    os.close(fails)
    with os.fdopen(failed, "rb") as file:
        fault = file.read()
    os.write(says, fault + b"\n" if fault else f"started {program}\n".encode())
    # What is pressed or told to stop the program is not for the keeper, which has to outlive it.
    for number in (signal.SIGINT, signal.SIGQUIT, signal.SIGTSTP, signal.SIGTTOU, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, signal.SIG_IGN)
    while not fault:
        _, status = os.waitpid(program, os.WUNTRACED)
        if os.WIFSTOPPED(status):
            os.write(says, b"stopped\n")
            continue
        code = os.waitstatus_to_exitcode(status)
        os.write(says, f"ended {code if code >= 0 else 128 - code}\n".encode())
        break
    os._exit(0)
