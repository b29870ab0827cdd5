"""The tokens of a text one by one, with errors that have their place."""

import re
from bisect import bisect_right
from collections.abc import Iterator
from typing import NoReturn

from ombix.core.errors import InputError, Place
from ombix.editors.formats.trees.nodes import MOST_PARTS, too_many_parts


class Scanner:
    """The tokens of a text one by one, with errors that have their place."""

    def __init__(self, text: str, file: str, token: re.Pattern[str]) -> None:
        self.text = text
        self.file = file
        self._token = token
        self.end = 0
        """Where the token that was taken last ends."""
        self._ahead: tuple[str, str, int] | None = None
        self._tokens = self._scan()
        self._starts = [0, *(match.end() for match in re.finditer("\n", text))]

    def _scan(self) -> Iterator[tuple[str, str, int]]:
        position = count = 0
        while position < len(self.text):
            match = self._token.match(self.text, position)
            if match is None:
                rest = self.text[position]
                if rest in "\"'":
                    self.fail("this text is never closed", position, 1, "Add the closing quote on the same line.")
                self.fail(f"unexpected character: {rest!r}", position, 1)
            position = match.end()
            kind = str(match.lastgroup)
            if kind not in ("space", "comment"):
                count += 1
                if count > MOST_PARTS:
                    raise too_many_parts(self.place(match.start()))
                yield kind, match[0], match.start()
        yield "end", "", len(self.text)

    def peek(self) -> tuple[str, str, int]:
        """The next token: its kind, its text and its offset."""
        if self._ahead is None:
            self._ahead = next(self._tokens)
        return self._ahead

    def take(self) -> tuple[str, str, int]:
        """The next token, which is behind us then."""
        token = self.peek()
        if token[0] != "end":
            self._ahead = None
        self.end = token[2] + len(token[1])
        return token

    def place(self, position: int) -> Place:
        """An offset as a place."""
        line = bisect_right(self._starts, position)
        return Place(self.file, line, position - self._starts[line - 1] + 1)

    def fail(self, what: str, position: int, width: int, advice: str = "") -> NoReturn:
        """Raise InputError at an offset."""
        place = self.place(position)
        end = self.text.find("\n", position)
        line = self.text[self._starts[place.line - 1] : end if end >= 0 else None]
        advice = advice or "Look at the brackets, quotes and signs before this place."
        raise InputError(what, advice, place, line, max(1, width))
