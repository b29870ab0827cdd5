"""The keys behind the bytes that a terminal sent."""

from ombix.core.keys.notation import Chord
from ombix.core.pressing.terminals import Terminal


def keys_sent(data: bytes, terminal: Terminal) -> tuple[list[Chord], int]:
    """The keys that a terminal sent as bytes, the longest first, and how many bytes stand for none."""
    known = terminal.standing()
    longest = max(map(len, known), default=1)
    found: list[Chord] = []
    lost = at = 0
    while at < len(data):
        size = next((size for size in range(min(longest, len(data) - at), 0, -1) if data[at : at + size] in known), 0)
        if size:
            found.append(known[data[at : at + size]])
            at += size
            continue
        size = _character(data[at : at + 4])
        if size:
            found.append(Chord(0, data[at : at + size].decode("utf-8")))
        else:
            lost, size = lost + 1, 1
        at += size
    return found, lost


def _character(data: bytes) -> int:
    """How many bytes of UTF-8 a character takes at the start of some; 0 where there is none."""
    for size in range(1, len(data) + 1):
        try:
            text = data[:size].decode("utf-8")
        except UnicodeDecodeError:
            continue
        return size if text.isprintable() else 0
    return 0
