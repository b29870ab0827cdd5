"""What arrives from a terminal: expected bytes are those of ECMA-48 and of xterm's manual of control sequences."""

import pytest
from hypothesis import given

from ombix.core.keys.notation import parse, write
from tests.core.test_keys import triggers
from tests.helpers import shipped

XTERM = shipped.terminal("xterm")


@pytest.mark.parametrize(
    ("keys", "sent"),
    [
        ("a", b"a"), ("Shift+A", b"A"), ("Ctrl+A", b"\x01"), ("Ctrl+Z", b"\x1a"), ("Ctrl+Shift+A", b"\x01"),
        ("Alt+a", b"\x1ba"), ("Alt+Shift+A", b"\x1bA"), ("Ctrl+Alt+A", b"\x1b\x01"), ("Alt+3", b"\x1b3"),
        ("Ctrl+Space", b"\x00"), ("Ctrl+[", b"\x1b"), ("Ctrl+\\", b"\x1c"), ("Ctrl+]", b"\x1d"), ("Ctrl+^", b"\x1e"),
        ("Ctrl+_", b"\x1f"), ("Enter", b"\r"), ("Tab", b"\t"), ("Shift+Tab", b"\x1b[Z"), ("Backspace", b"\x7f"),
        ("Escape", b"\x1b"), ("ArrowUp", b"\x1bOA"), ("Ctrl+ArrowLeft", b"\x1b[1;5D"),
        ("Alt+Shift+ArrowRight", b"\x1b[1;4C"), ("Ctrl+Alt+Shift+End", b"\x1b[1;8F"), ("Delete", b"\x1b[3~"),
        ("Ctrl+Delete", b"\x1b[3;5~"), ("F1", b"\x1bOP"), ("F5", b"\x1b[15~"), ("Shift+F5", b"\x1b[15;2~"),
        ("F12", b"\x1b[24~"), ("F13", b"\x1b[1;2P"), ("F24", b"\x1b[24;2~"), ("é", "é".encode()),
    ],
)  # fmt: skip
def test_bytes(keys: str, sent: bytes) -> None:
    assert XTERM.send(parse(keys)) == sent


@pytest.mark.parametrize(
    "keys", ["Meta+K", "AltGr+E", "Shift Shift", "Ctrl+[KeyK]", "Ctrl+Click", "Ctrl+,", "PrintScreen"]
)
def test_what_cannot_be_sent_says_why(keys: str) -> None:
    answer = XTERM.send(parse(keys))
    assert isinstance(answer, str)
    assert "terminal" in answer


@pytest.mark.parametrize(
    ("keys", "stands"),
    [
        ("Ctrl+I", "Tab"), ("Ctrl+M", "Enter"), ("Ctrl+[", "Escape"), ("Ctrl+Shift+K", "Ctrl+K"),
        ("Ctrl+Backspace", "Ctrl+H"), ("Ctrl+/", "Ctrl+_"), ("Ctrl+Alt+I", "Alt+Tab"), ("F13", "Shift+F1"),
        ("Shift+Enter", "Enter"), ("Alt+K", "Alt+K"),
    ],
)  # fmt: skip
def test_chords_that_arrive_alike_have_one_that_stands_for_them(keys: str, stands: str) -> None:
    assert write(XTERM.canonical(parse(keys))) == stands


@given(triggers)
def test_what_stands_for_a_trigger_arrives_as_the_same_bytes(trigger: object) -> None:
    stands = XTERM.canonical(trigger)  # type: ignore[arg-type]
    assert XTERM.send(stands) == XTERM.send(trigger)  # type: ignore[arg-type]
    assert XTERM.canonical(stands) == stands
