"""The one small family of errors: what is wrong, where, and what to do about it."""

from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple


class Place(NamedTuple):
    """A place in a file: from `line` and `column` up to, and not with, `end_line` and `end_column`.

    `file` is an absolute path, or a name in words for what is no file. Lines and columns count from 1; a line of 0 means
    the whole file, an end of 0 that only the start is known.
    """

    file: str
    line: int = 0
    column: int = 0
    end_line: int = 0
    end_column: int = 0

    def __str__(self) -> str:
        if not self.line:
            return self.file
        if not self.column:
            return f"{self.file}:{self.line}"
        return f"{self.file}:{self.line}:{self.column}"


class OmbixError(Exception):
    """Something that a user typed, a file holds, or the machine lacks.

    `what` says what is wrong, `advice` what to do, `place` where. `excerpt` is the line concerned and `width` how many
    of its columns, from `place.column` on, are wrong. Subclasses fix the exit status.
    """

    status = 2

    def __init__(
        self, what: str, advice: str = "", place: Place | None = None, excerpt: str | None = None, width: int = 1
    ) -> None:
        super().__init__(what)
        self.what = what
        self.advice = advice
        self.place = place
        self.excerpt = excerpt
        self.width = max(1, width)


class InputError(OmbixError):
    """The call, or a file that was read, is wrong. Exit status 2."""

    status = 2


class NotationError(InputError):
    """A text that should be keys or a condition and is not. `start` and `end` are offsets in that text, from 0."""

    def __init__(self, what: str, text: str, start: int, end: int, advice: str = "") -> None:
        super().__init__(what, advice, None, text, max(1, end - start))
        self.text = text
        self.start = start
        self.end = end


class TangledError(InputError):
    """Conditions whose states are too many to be told apart: what they mean is not decided, and nothing is done."""

    def __init__(self, place: Place | None = None) -> None:
        super().__init__(
            "not decided: the conditions here are too tangled, and together tell apart too many states",
            "Part the longest one into several bindings, or join fewer alternatives with or.", place,
        )  # fmt: skip


class OutsideError(OmbixError):
    """Something outside failed: an editor is not installed, a disk is full, a port does not hold. Exit status 3."""

    status = 3


_XML_ADVICE = {
    "invalid token": "Look for a < or & that is meant as a sign (write &lt; and &amp;), or a quote that is missing.",
    "unclosed token": "Add the > or the quote that is missing.",
    "mismatched tag": "Close what was opened last first.",
    "junk after": "Put all of it into one outermost element.",
    "no element": "Write one outermost element.",
    "declaration": 'Begin the file with <?xml version="1.0" encoding="UTF-8"?>, or leave that out.',
    "encoding": "Save the file as UTF-8, and say so or nothing in its first line.",
    "duplicate attribute": "Take one of the two out.",
    "prefix": "Declare the prefix with xmlns, or leave it out.",
}


def xml_advice(what: str) -> str:
    """What to do about a fault that an XML parser names in these words."""
    found = (advice for words, advice in _XML_ADVICE.items() if words in what)
    return next(found, "Look at the signs before this place, too.")


def nearest(word: str, names: Sequence[str], most: int = 3, least_score: float = 60) -> list[str]:
    """The `names` nearest to `word`, the best first; none scores below `least_score` (0 to 100)."""
    return list(_nearest(word.lower(), tuple(dict.fromkeys(names)), most, least_score))


@lru_cache(1000)
def _nearest(word: str, names: tuple[str, ...], most: int, least_score: float) -> tuple[str, ...]:
    from rapidfuzz import fuzz, process

    found = process.extract(word, _in_small_letters(names), scorer=fuzz.ratio, limit=most, score_cutoff=least_score)
    return tuple(names[index] for _name, _score, index in found)


@lru_cache(100)
def _in_small_letters(names: tuple[str, ...]) -> tuple[str, ...]:
    return tuple(name.lower() for name in names)


class Offer(str):
    """An advice that offers names, the best first, in place of a word."""

    word: str
    names: tuple[str, ...]


def did_you_mean(word: str, names: Sequence[str]) -> str:
    """A sentence that offers the nearest names (an `Offer`), or an empty string."""
    found = nearest(word, names)
    if not found:
        return ""
    offer = Offer(f"Did you mean {' or '.join(found)}?")
    offer.word, offer.names = word, tuple(found)
    return offer
