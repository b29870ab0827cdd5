"""Regular expressions of ECMAScript, as transformations of snippets have them: run in bounded time.

What is written differently there than in the library that runs them is written anew: `$` is the very end, `[^]` is any
character, `\\d` and `\\w` are those of ASCII, a bracket in a class is a character (ECMA-262, Patterns).
"""

from collections.abc import Callable
from functools import lru_cache
from typing import Any

from ombix.core.errors import InputError

OPTIONS = ("d", "g", "i", "m", "s", "u", "v", "y")
"""The flags of ECMA-262."""
SECONDS = 0.5
"""So long a pattern may take on one value."""
_CLASSES = {"d": "0-9", "w": "A-Za-z0-9_"}


class EcmaPattern:
    """A regular expression with its options. Raises ValueError, with what is wrong, for what is none."""

    def __init__(self, text: str, options: str) -> None:
        self.text, self.options = text, options
        self._compiled = _compiled(text, options)

    def replaced(self, value: str, by: Callable[[Any], str]) -> str:
        """The value with each match, or without the option g the first one, replaced. Raises InputError where that takes
        too long."""
        try:
            if "y" in self.options:  # only at the very start
                found = self._compiled.match(value, timeout=SECONDS)
                return value if found is None else by(found) + value[found.end() :]
            return str(self._compiled.sub(by, value, count=0 if "g" in self.options else 1, timeout=SECONDS))
        except TimeoutError:
            raise InputError(
                f"the pattern {self.text} takes longer than {SECONDS} s", "Write it without repetitions in repetitions."
            ) from None


@lru_cache(256)
def _compiled(text: str, options: str) -> Any:
    import regex

    flags = regex.IGNORECASE * ("i" in options) | regex.MULTILINE * ("m" in options) | regex.DOTALL * ("s" in options)
    try:
        return regex.compile(_rewritten(text, "m" in options), flags)
    except regex.error as error:
        raise ValueError(str(error)) from None


def _rewritten(text: str, multiline: bool) -> str:
    found, at, in_class = "", 0, False
    while at < len(text):
        char, two = text[at], text[at : at + 2]
        if char == "\\":
            if len(two) < 2:
                raise ValueError("it ends with a backslash")
            name = two[1]
            if name in _CLASSES:
                found += _CLASSES[name] if in_class else f"[{_CLASSES[name]}]"
            elif name.lower() in _CLASSES and not in_class:
                found += f"[^{_CLASSES[name.lower()]}]"
            elif name == "/":
                found += "/"
            else:
                found += two
            at += 2
            continue
        if in_class:
            in_class = char != "]"
            found += "\\[" if char == "[" else char
        elif text.startswith("[^]", at):
            found += r"[\s\S]"
            at += 2
        elif two == "[]":
            found += r"(?!)"
            at += 1
        elif char == "[":
            in_class = True
            found += char
            if text[at + 1 : at + 2] == "^":
                found += "^"
                at += 1
        elif char == "$":
            found += r"(?=\n|\Z)" if multiline else r"\Z"
        else:
            found += char
        at += 1
    if in_class:
        raise ValueError("a class is never closed")
    return found
