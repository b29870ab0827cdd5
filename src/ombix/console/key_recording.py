"""Keys read as they are pressed: at this terminal, or on their way into a program that runs in it."""

import os
import sys
from collections.abc import Sequence

from ombix.console.environment import Environment
from ombix.core.errors import InputError, OutsideError

_END = b"\x1d"
"""Control and the closing bracket: ends a recording."""
_MOST_BYTES = 100_000


def keys_at_terminal(environment: Environment) -> bytes:
    """The bytes of the keys that are pressed at this terminal, up to Ctrl+]. Raises InputError where there is none."""
    if not environment.can_ask:
        raise InputError("there are no keys, and no terminal to read them from", "Give keys, or --keys-file FILE.")
    import termios
    import tty

    environment.say("Press the keys. Ctrl+] ends it.")
    number = sys.stdin.fileno()
    before = termios.tcgetattr(number)
    found = b""
    try:
        tty.setraw(number)
        while _END not in found and len(found) < _MOST_BYTES:
            data = os.read(number, 4096)
            if not data:
                break
            found += data
    finally:
        termios.tcsetattr(number, termios.TCSADRAIN, before)
    return found.split(_END)[0]


def keys_into(command: Sequence[str], environment: Environment) -> bytes:
    """The bytes of the keys that are pressed in a program, which runs in this terminal as ever, until it ends. Raises
    InputError without a terminal, OutsideError where the program cannot be started."""
    if not environment.can_ask:
        raise InputError("there is no terminal for the program to run in", "Call it at a terminal, or give keys.")
    if not command:
        raise InputError("which program?", "Write it behind --: ombix macro record NAME --inside -- nano text.txt")
    try:
        import pexpect
    except ImportError:
        raise OutsideError(
            "recording inside a program needs more packages", "Install them with: pip install 'ombix[prove]'"
        ) from None
    found: list[bytes] = []

    def note(data: bytes) -> bytes:
        if sum(map(len, found)) < _MOST_BYTES:
            found.append(data)
        return data

    size = os.get_terminal_size()
    try:
        child = pexpect.spawn(command[0], list(command[1:]), dimensions=(size.lines, size.columns))
    except pexpect.ExceptionPexpect:
        raise OutsideError(f"{command[0]} cannot be started", "Check that it is installed.") from None
    try:
        child.interact(escape_character=None, input_filter=note)
    finally:
        child.close(force=True)
    return b"".join(found)
