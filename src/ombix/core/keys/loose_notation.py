"""Keys as people and programs write them elsewhere, put into the portable notation.

`Ctrl-K`, `C-x C-c`, `M-x`, `^K`, `<C-k>`, `Ctrl+K, Ctrl+S`: nobody needs to know which program a page was written for.
Files of Ombix's own stay with the portable notation; this is for what is typed.
"""

import re

from ombix.core.errors import NotationError
from ombix.core.keys.notation import parse

_LETTERS = {"c": "Ctrl", "m": "Alt", "a": "Alt", "s": "Shift", "d": "Meta", "w": "Meta"}
"""One letter before a hyphen: Control, Meta (which terminals send for Alt), Alt, Shift, Super, and the Windows key."""

_SIGNS = {
    "slash": "/", "comma": ",", "period": ".", "dot": ".", "backtick": "`", "backquote": "`", "grave": "`", "equal": "=",
    "equals": "=", "semicolon": ";", "quote": "'", "apostrophe": "'", "doublequote": '"', "bracketleft": "[",
    "leftbracket": "[", "bracketright": "]", "rightbracket": "]", "braceleft": "{", "leftbrace": "{", "braceright": "}",
    "rightbrace": "}", "backslash": "\\", "underscore": "_", "asterisk": "*", "star": "*", "colon": ":", "hash": "#",
    "numbersign": "#", "at": "@", "question": "?", "questionmark": "?", "exclamation": "!", "exclam": "!", "dollar": "$",
    "percent": "%", "ampersand": "&", "pipe": "|", "bar": "|", "tilde": "~", "less": "<", "lessthan": "<", "greater": ">",
    "greaterthan": ">", "caret": "^", "parenleft": "(", "leftparen": "(", "parenright": ")", "rightparen": ")", "hyphen": "-",
}  # fmt: skip
"""What signs are called: the names of Unicode and of X11 keysyms without their blanks, and the short ones that people use."""
_KEYPAD = re.compile(r"(?i)(?:kp_?|keypad_?|numpad_?|num_?)(\d|[a-z]+)")
_ON_KEYPAD = {
    "add": "Add", "plus": "Add", "subtract": "Subtract", "minus": "Subtract", "multiply": "Multiply", "star": "Multiply",
    "divide": "Divide", "slash": "Divide", "decimal": "Decimal", "dot": "Decimal", "period": "Decimal", "enter": "Enter",
    "equal": "Equal", "equals": "Equal",
}  # fmt: skip
"""The keys of the keypad as they are called, to their places (W3C UI Events `code`, without `Numpad`)."""

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
    """The chords: separated by blanks, or by a comma and a blank; `<C-x><C-s>` are two, and `^X^S`."""
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
        return _with_named_sign(re.sub(r"(?i)(^|\+)(kp|keypad|numpad|num)\+", r"\1\2", word))
    *modifiers, key = [*word[:-2].split("-"), "-"] if word.endswith("--") else word.split("-")
    names = [_LETTERS.get(name.lower(), name) if len(name) == 1 else name for name in modifiers]
    return _with_named_sign("+".join([*names, key]))


def _with_named_sign(word: str) -> str:
    """A chord whose key is a sign by its name, or a key of the keypad, in the portable notation."""
    held, plus, key = word.rpartition("+")
    if key.lower() in _SIGNS and (held or len(key) > 3):
        return f"{held}{plus}{_SIGNS[key.lower()]}"
    match = _KEYPAD.fullmatch(key)
    if match is None:
        return word
    name = match[1] if match[1].isdigit() else _ON_KEYPAD.get(match[1].lower(), "")
    return f"{held}{plus}[Numpad{name}]" if name else word


def capital_note(text: str) -> str:
    """What a capital letter behind other keys stands for, in a sentence; empty where there is none. Some write all letters as
    capitals, and mean no Shift."""
    words = text.split()
    capitals = [word for word in words[1:] if len(word) == 1 and word.isalpha() and word != word.lower()]
    if not capitals or "+" not in words[0]:
        return ""
    return f"{capitals[0]} is read as Shift+{capitals[0]}: write {capitals[0].lower()} for the key without Shift."


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
