"""Keys as people and programs write them elsewhere, put into the portable notation.

`Ctrl-K`, `C-x C-c`, `M-x`, `^K`, `<C-k>`, `Ctrl+K, Ctrl+S`: nobody needs to know which program a page was written for.
Files of Ombix's own stay with the portable notation; this is for what is typed.
"""

import re

from ombix.core.errors import NotationError
from ombix.core.keys.notation import parse

_LETTERS = {"c": "Ctrl", "m": "Alt", "a": "Alt", "s": "Shift", "d": "Meta", "w": "Meta"}
"""One letter before a hyphen: Control, Meta (which terminals send for Alt), Alt, Shift, Super, and the Windows key."""

_CARET = {"[": "Escape", "?": "Backspace", "@": "Ctrl+Space", " ": "Ctrl+Space"}
"""Control characters that have a key of their own, in caret notation (RFC 20, and the usual names of terminals)."""

_HYPHENED = re.compile(r"(?:[^\W\d_]+-)+(?:-|[^-]+)")


def read_loosely(text: str) -> str | None:
    """The text in the portable notation; None where it is in that already, or where no other notation is known."""
    try:
        parse(text)
    except NotationError:
        words = [_read_word(word) for word in _words(text)]
        return " ".join(words) if words else None
    return _with_lone_modifiers_joined(text)


def _words(text: str) -> list[str]:
    """The chords: parted by blanks, or by a comma and a blank; `<C-x><C-s>` are two, and `^X^S`."""
    text = re.sub(r",\s+", " ", text.strip())
    text = re.sub(r">\s*<", "> <", text)
    text = re.sub(r"(\^[^\s^])(?=\^[^\s^])", r"\1 ", text)
    return [word.removesuffix(",") if len(word) > 1 else word for word in text.split()]


def _read_word(word: str) -> str:
    if len(word) > 2 and word[0] == "<" and word[-1] == ">":
        word = word[1:-1]
    if len(word) == 2 and word[0] == "^":
        return _CARET.get(word[1], f"Ctrl+{word[1].upper() if word[1].isalpha() else word[1]}")
    if not _HYPHENED.fullmatch(word):
        return word
    *modifiers, key = [*word[:-2].split("-"), "-"] if word.endswith("--") else word.split("-")
    names = [_LETTERS.get(name.lower(), name) if len(name) == 1 else name for name in modifiers]
    return "+".join([*names, key])


def _with_lone_modifiers_joined(text: str) -> str | None:
    """`Ctrl K`, where a modifier alone stands before a key: nobody means a tap of Ctrl and then K."""
    words = text.split()
    if len(words) < 2 or not all(len(parse(word)) == 1 for word in words):
        return None
    joined: list[str] = []
    for word in words:
        if joined and _is_modifier(joined[-1].rpartition("+")[2]):
            joined[-1] += f"+{word}"
        else:
            joined.append(word)
    return " ".join(joined) if len(joined) < len(words) and not _is_modifier(words[-1]) else None


def _is_modifier(word: str) -> bool:
    return word.lower() in ("ctrl", "control", "cmd", "command", "win", "super", "strg")
