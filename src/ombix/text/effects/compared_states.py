"""The small states that programs are compared in, and the words for those in which they differ."""

import random
import re
from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache
from itertools import combinations
from typing import NamedTuple

from ombix.text.effects.buffer import Buffer
from ombix.text.effects.program_words import TESTS

_TEXTS = (
    "", "\n", "a", "a\n", "ab c\n", "a\nb", "ab\nc\n", "  a b\n", "\tab\nc\n", "a\n\n b\n", "\n\n", "(a) b\n", "a.b_c d\n",
    "a \n b", "ab\ncd\nef\n", " \n", "a\n  b\nc", "é b\n(c [d])\n", "a, b; c\n\n\nd e\n", "#a\n# b\n", "\n a\n\n", "ab",
    "one two\n\tthree\n", "x = (y)\n    z\n", "a\tb\nabcdef\n", "long one\nab\nlonger one\n", "((a)\n", "..a..\n",
)  # fmt: skip
_MORE_LINES = ("", "a", "ab cd", "  b", "\tc d", "a.b", "(x)", "y ", "é_1 z", "..", " ", "# k", "[a (b)]", "\t", "word")


class StartState(NamedTuple):
    """A state that is begun from: a text, a cursor, the other end of what is selected, what was kept, and whether the text
    has changes that are not saved."""

    text: str
    cursor: int
    anchor: int | None
    kept: str
    is_changed: bool = False

    @property
    def picture(self) -> str:
        """The text with | for the cursor, and [ or ] for the other end of what is selected; line ends as ⏎."""
        return picture(self.text, self.cursor, self.anchor)


def picture(text: str, cursor: int, anchor: int | None) -> str:
    """A text with | for the cursor, and [ or ] for the other end of what is selected; line ends as ⏎, tabs as →."""
    marks = [(cursor, "|")]
    if anchor is not None and anchor != cursor:
        marks.append((anchor, "[" if anchor < cursor else "]"))
    for at, mark in sorted(marks, reverse=True):
        text = text[:at] + mark + text[at:]
    return text.replace("\n", "⏎").replace("\t", "→")


@lru_cache(maxsize=1)
def small_states() -> tuple[StartState, ...]:
    """States that tell most programs apart: short texts, all places in them, some selections."""
    found: list[StartState] = []
    for index, text in enumerate(_TEXTS):
        kept = ("k", "", "k m\n")[index % 3]
        found += [StartState(text, cursor, None, kept) for cursor in range(len(text) + 1)]
        size = len(text)
        pairs = {
            (0, size),
            (size, 0),
            (min(1, size), min(3, size)),
            (size // 2, min(size, size // 2 + 2)),
            (size, size // 3),
        }
        found += [StartState(text, cursor, anchor, "k") for anchor, cursor in sorted(pairs) if anchor != cursor]
    return tuple(found)


@lru_cache(maxsize=1)
def more_states() -> tuple[StartState, ...]:
    """Many more, larger ones: held against what is equal in the small ones."""
    draw = random.Random(20)
    found: list[StartState] = []
    for number in range(1200):
        text = "\n".join(draw.choice(_MORE_LINES) for _ in range(draw.randint(1, 5))) + "\n" * (draw.random() < 0.8)
        cursor = draw.randint(0, len(text))
        anchor = draw.randint(0, len(text)) if number % 4 == 0 else None
        found.append(
            StartState(text, cursor, None if anchor == cursor else anchor, draw.choice(("k", "k", "", "k m\n")))
        )
    return tuple(found)


def _tested(name: str) -> Callable[[StartState], bool]:
    test = TESTS[name]
    return lambda start: test(Buffer(start.text, start.cursor))


def _column(start: StartState) -> int:
    return start.cursor - start.text.rfind("\n", 0, start.cursor) - 1


def _length(start: StartState, step: int) -> int:
    """The length of the line below or above; of none, more than any has."""
    lines = start.text.split("\n")
    number = start.text.count("\n", 0, start.cursor) + step
    return len(lines[number]) if 0 <= number < len(lines) else 1_000_000


def _matches(pattern: str, ahead: bool) -> Callable[[StartState], bool]:
    """Whether what is behind the cursor begins so, or what is before it ends so."""
    shape = re.compile(pattern)
    if ahead:
        return lambda start: shape.match(start.text, start.cursor) is not None
    return lambda start: shape.search(start.text[: start.cursor]) is not None


def _is_sign(char: str) -> bool:
    return not (char.isalnum() or char.isspace() or char == "_")


FEATURES: dict[str, Callable[[StartState], bool]] = {
    "the text has changes that are not saved": lambda start: start.is_changed,
    "the text has no changes": lambda start: not start.is_changed,
    "nothing is selected": lambda start: start.anchor is None,
    "something is selected": lambda start: start.anchor is not None,
    "the text is empty": lambda start: not start.text,
    "the cursor is at the start of the text": _tested("at-start"),
    "the cursor is at the end of the text": _tested("at-end"),
    "the cursor is on the first line": _tested("first-line"),
    "the cursor is on the last line": _tested("last-line"),
    "the line below is the last one": _tested("second-last-line"),
    "the cursor is at the start of a line": _tested("at-line-start"),
    "the cursor is at the end of a line": _tested("at-line-end"),
    "the line is empty": _tested("empty-line"),
    "the line is blank": _tested("blank-line"),
    "the line is indented": _tested("indented"),
    "the cursor is in the indentation": _tested("in-indentation"),
    "the cursor is on the last character": lambda start: (
        start.cursor + 1 == len(start.text) or start.text[start.cursor + 1 : start.cursor + 2] == "\n"
    ),
    "nothing was kept": lambda start: not start.kept,
    "lines were kept": lambda start: start.kept.endswith("\n"),
    "the selection goes backwards": lambda start: start.anchor is not None and start.anchor > start.cursor,
    "the cursor is not at the start of a line": lambda start: (
        not TESTS["at-line-start"](Buffer(start.text, start.cursor))
    ),
    "the cursor is not at the end of a line": lambda start: not TESTS["at-line-end"](Buffer(start.text, start.cursor)),
    "the line is not empty": lambda start: not TESTS["empty-line"](Buffer(start.text, start.cursor)),
    "the cursor is not on the last line": lambda start: not TESTS["last-line"](Buffer(start.text, start.cursor)),
    "the cursor is on a bracket": _tested("on-bracket"),
    "the cursor is not on a bracket": lambda start: not TESTS["on-bracket"](Buffer(start.text, start.cursor)),
    "the line below is shorter": lambda start: _column(start) > _length(start, 1),
    "the line above is shorter": lambda start: _column(start) > _length(start, -1),
    "a sign is at or before the cursor": lambda start: any(
        map(_is_sign, start.text[max(0, start.cursor - 1) : start.cursor + 1])
    ),
    "the cursor is on a blank": lambda start: start.text[start.cursor : start.cursor + 1] in (" ", "\t"),
    "a blank is before the cursor": lambda start: start.text[max(0, start.cursor - 1) : start.cursor] in (" ", "\t"),
    "a sign comes next": _matches(r"\w*\s*[^\w\s]", True),
    "a sign comes before": _matches(r"[^\w\s]\s*\w*\Z", False),
    "no word follows on the line": _matches(r"\w*[^\w\n]*(?:\n|\Z)", True),
    "no word comes before on the line": _matches(r"(?:\n|\A)[^\w\n]*\w*\Z", False),
    "there are tabs": lambda start: "\t" in start.text,
    "the text has no line end at its end": lambda start: bool(start.text) and not start.text.endswith("\n"),
}
"""What can be said of a state, in the words of a sentence."""


def words_for(different: list[StartState], alike: list[StartState]) -> str:
    """When, in words: the states `different`, and none of `alike` where that can be said; "" for all of them."""
    if not alike:
        return ""
    selected = [start for start in different if start.anchor is not None]
    plain = [start for start in different if start.anchor is None]
    if selected and plain:
        others = [start for start in alike if start.anchor is None]
        said = _words(plain, others)
        if not [start for start in alike if start.anchor is not None]:
            return f"{said or 'with nothing selected'}, and when something is selected"
        more = _words(selected, [start for start in alike if start.anchor is not None], 2)
        if more == said:
            return said
        more = "sometimes" if more.startswith("in some") else f"{more},"
        return f"{said or 'with nothing selected'}, and {more} when something is selected"
    return _words(different, alike)


def _words(different: list[StartState], alike: list[StartState], longest: int = 3) -> str:
    """The fewest features, `longest` at the most, that are there in the different states only; or those in which alone they
    are alike."""
    if not alike:
        return ""
    inside = dict(zip(FEATURES, zip(_by_feature(different), _by_feature(alike), strict=True), strict=True))
    every = (1 << len(different)) - 1
    if terms := _cover(inside, every, longest):
        return f"when {_joined(terms)}"
    others = {name: (within, without) for name, (without, within) in inside.items()}
    if terms := _cover(others, (1 << len(alike)) - 1, longest):
        return f"except when {_joined(terms)}"
    told = [name for name in _TELLING if inside[name][0] == every]
    return f"in some states in which {told[0]}" if told else "in some states"


@lru_cache(maxsize=4096)
def _features(start: StartState) -> tuple[int, ...]:
    """The numbers of the features that are there in a state."""
    return tuple(index for index, test in enumerate(FEATURES.values()) if test(start))


def _by_feature(starts: list[StartState]) -> list[int]:
    """For each feature the states in which it is there, each a bit."""
    found = [0] * len(FEATURES)
    for index, start in enumerate(starts):
        bit = 1 << index
        for number in _features(start):
            found[number] |= bit
    return found


def _joined(terms: list[tuple[str, ...]]) -> str:
    if all(len(term) == 1 for term in terms) and len(terms) > 1:
        said = _shortened([one for (one,) in terms])
        return f"{', '.join(said[:-1])} or {said[-1]}"
    return ", or when ".join(" and ".join(_shortened(sorted(term))) for term in terms)


def _shortened(said: Sequence[str]) -> list[str]:
    """Features without the words that the one before begins with, too."""
    same = "the cursor is "
    return [
        one.removeprefix(same) if index and said[index - 1].startswith(same) else one for index, one in enumerate(said)
    ]


def _cover(inside: Mapping[str, tuple[int, int]], every: int, longest: int) -> list[tuple[str, ...]]:
    """The terms that are true in all states of `every` together, and in none of the others, the most telling ones first:
    `longest` of one feature at the most, or fewer of more. Empty where there are none."""
    names = [name for name, (within, _without) in inside.items() if within]
    terms: dict[tuple[str, ...], int] = {}
    known: set[int] = set()
    for size in range(1, longest + 1):
        for some in combinations(names, size):
            within, without = inside[some[0]]
            for name in some[1:]:
                within, without = within & inside[name][0], without & inside[name][1]
            if within and not without and within not in known:
                known.add(within)
                terms[some] = within
        left, chosen = every, list[tuple[str, ...]]()
        while left and len(chosen) <= longest - size and terms:
            best = max(terms, key=lambda one: (terms[one] & left).bit_count())
            if not terms[best] & left:
                break
            left &= ~terms[best]
            chosen.append(best)
        if not left:
            return chosen
    return []


_TELLING = (
    "something is selected", "the cursor is on the last line", "the cursor is on the first line", "the line is indented",
    "the cursor is at the end of a line", "the cursor is at the start of a line", "the line is blank",
)  # fmt: skip
"""What is worth saying, although it is not the whole of it."""
