"""The states that people are in when they press a key, drawn from a model of their work: see `data/everyday`."""

import random
import re
from collections.abc import Sequence
from typing import Literal, NamedTuple, TypeVar, get_args

from msgspec import Struct

from ombix.text.effects.compared_states import StartState
from ombix.text.effects.execution import CommandRun

Purpose = Literal["clipboard", "line", "paste", "edit", "move", "select"]
"""What a key is for, as far as that tells whether something is selected when it is pressed."""
NextPress = Literal["letter", "movement", "paste"]
_Choice = TypeVar("_Choice")
_SEED = 20
_CUTS = re.compile(r"\b(?:cut|copy) (?:selection|held)\b|\bcopy\b.*\bselection\b|\bkill selection\b")
_PASTES = re.compile(r"\bkept\b|\bput-lines\b|\bput-beside\b|\bpaste-stay\b")
_LINES = re.compile(
    r"\b(?:indent|outdent)[a-z-]*|\bcomment[a-z-]*|\b(?:swap-up|swap-down|duplicate|order|close-line)\b"
    r"|\b(?:cut|copy|delete) line\b"
)
_SELECTS = re.compile(r"\b(?:select|select-[a-z-]+|extend|mark|hold)\b")
_CHANGES = re.compile(r"\b(?:delete|cut|insert|type|remove|kill|fill|rewrite|exchange|surround|unwrap|complete)\b")


class CursorPlaces(Struct, frozen=True, rename="kebab"):
    """How often the cursor is where; the rest of the time it is inside a line."""

    line_end: float
    first_word: float
    line_start: float
    empty_line: float
    first_line: float
    last_line: float
    text_end: float
    empty_text: float


class SelectionShapes(Struct, frozen=True, rename="kebab"):
    """How often what is selected is what; the rest ends at the end of a line. `backwards`: how often it was made going back."""

    part_of_line: float
    whole_lines: float
    several_lines: float
    backwards: float


class KeptTexts(Struct, frozen=True):
    """How often what was copied before is what."""

    nothing: float
    lines: float
    words: float


class TextEnds(Struct, frozen=True, rename="kebab"):
    """How often a text ends without a line break."""

    no_line_end: float


class EverydayModel(Struct, frozen=True):
    """A model of everyday work, as it stands in a file of `data/everyday`: probabilities, from 0 to 1. `selected` is by the
    purpose of a key, `next` by what is pressed behind it, and `facts` by fact and value."""

    title: str
    texts: tuple[str, ...]
    cursor: CursorPlaces
    selected: dict[Purpose, float]
    selection: SelectionShapes
    kept: KeptTexts
    next: dict[NextPress, float]
    text: TextEnds
    facts: dict[str, dict[str, float]]

    def usual(self, fact: str) -> dict[str, float]:
        """How often a fact has which value, where that is known."""
        return self.facts.get(fact, {})


def purpose_of(side: CommandRun) -> Purpose:
    """What commands in a row are for, by the words of their programs."""
    text = "; ".join(one.text for one in side.programs)
    if _LINES.search(text) and not _CUTS.search(text):
        return "line"
    if _CUTS.search(text):
        return "clipboard"
    if _PASTES.search(text):
        return "paste"
    if _SELECTS.search(text):
        return "select"
    return "edit" if _CHANGES.search(text) else "move"


class DrawnState(Struct, frozen=True):
    """A state that was drawn, and what is pressed next in it."""

    start: StartState
    then: NextPress


def drawn_states(model: EverydayModel, purpose: Purpose, count: int, seed: int = _SEED) -> Sequence[DrawnState]:
    """So many states of a model in which a key of that purpose is pressed, the same for the same seed."""
    key = (model.title, purpose, count, seed)
    known = _DRAWN.get(key)
    if known is None or known[0] is not model:
        draw = random.Random(f"{seed} {model.title} {purpose}")
        even = [_even(count, draw) for _decision in _DECISIONS]
        rolls = [_Rolls(draw, dict(zip(_DECISIONS, each, strict=True))) for each in zip(*even, strict=True)]
        known = _DRAWN[key] = (model, [_drawn(model, purpose, each) for each in rolls])
    return known[1]


_DRAWN: dict[tuple[str, Purpose, int, int], tuple[EverydayModel, list[DrawnState]]] = {}


_Decision = Literal["text", "line end", "empty", "kept", "selected", "backwards", "next", "place", "column", "shape"]
_DECISIONS: tuple[_Decision, ...] = get_args(_Decision)


class _Rolls(NamedTuple):
    """What decides of one state: for each decision a number from 0 to 1, which over all states are spread evenly, so that the count
    of what a decision leads to is not left to chance; and chance for the rest."""

    draw: random.Random
    even: dict[_Decision, float]

    def is_in(self, decision: _Decision, share: float) -> bool:
        """Whether what has this share is so."""
        return self.even[decision] < share

    def one_of(self, decision: _Decision, choices: Sequence[tuple[_Choice, float]]) -> _Choice:
        """One of several by their shares, which are one together."""
        left = self.even[decision] * sum(share for _choice, share in choices)
        for choice, share in choices:
            left -= share
            if left < 0:
                return choice
        return choices[-1][0]


def _even(count: int, draw: random.Random) -> list[float]:
    """So many numbers from 0 to 1, one in each part of that length, in no order."""
    found = [(number + draw.random()) / count for number in range(count)]
    draw.shuffle(found)
    return found


def _drawn(model: EverydayModel, purpose: Purpose, rolls: _Rolls) -> DrawnState:
    draw = rolls.draw
    text = rolls.one_of("text", [(text, 1.0) for text in model.texts])
    if rolls.is_in("line end", model.text.no_line_end):
        text = text.rstrip("\n")
    if rolls.is_in("empty", model.cursor.empty_text):
        text = draw.choice(("", "\n"))
    kept = _kept(model, rolls)
    cursor = _cursor(model, text, rolls)
    anchor = None
    if rolls.is_in("selected", model.selected[purpose]):
        start, end = _selection(model, text, cursor, rolls)
        if start == end:  # at the end of a line, or on an empty one
            start, end = _line_at(text, cursor)
        cursor, anchor = (start, end) if rolls.is_in("backwards", model.selection.backwards) else (end, start)
    then = rolls.one_of("next", list(model.next.items()))
    return DrawnState(StartState(text, cursor, None if anchor == cursor else anchor, kept), then)


def _kept(model: EverydayModel, rolls: _Rolls) -> str:
    """What was copied before."""
    draw = rolls.draw
    what = rolls.one_of("kept", [("", model.kept.nothing), ("lines", model.kept.lines), ("words", model.kept.words)])
    if not what:
        return ""
    text = draw.choice(model.texts)
    return draw.choice(text.splitlines(keepends=True) if what == "lines" else text.split())


def _cursor(model: EverydayModel, text: str, rolls: _Rolls) -> int:
    """A place in a text."""
    draw = rolls.draw
    lines = text.split("\n")
    starts = [0]
    for line in lines[:-1]:
        starts.append(starts[-1] + len(line) + 1)
    last = len(lines) - 1 if lines[-1] or len(lines) == 1 else len(lines) - 2
    places = model.cursor
    middle = range(1, last)
    where = rolls.one_of(
        "place",
        [
            ("text end", places.text_end),
            ("first", places.first_line),
            ("last", places.last_line),
            ("empty", places.empty_line),
            ("", 1 - places.text_end - places.first_line - places.last_line - places.empty_line),
        ],
    )
    if where == "text end":
        return len(text)
    empty = [number for number in middle if not lines[number].strip()]
    filled = [number for number in middle if lines[number].strip()]
    number = {"first": 0, "last": last}.get(where)
    if where == "empty" and empty:
        number = draw.choice(empty)
    if number is None:
        number = draw.choice(filled) if filled else 0
    return starts[number] + _column(model, lines[number], rolls)


def _column(model: EverydayModel, line: str, rolls: _Rolls) -> int:
    places = model.cursor
    indented = len(line) - len(line.lstrip())
    inside = 1 - places.line_end - places.first_word - places.line_start
    where = rolls.one_of(
        "column",
        [
            ("end", places.line_end), ("first word", places.first_word), ("start", places.line_start), ("inside", inside),
        ],
    )  # fmt: skip
    if where == "end" or not line.strip():
        return len(line)
    if where == "first word":
        return indented
    if where == "start":
        return 0
    return rolls.draw.randint(min(indented + 1, len(line)), max(len(line) - 1, min(indented + 1, len(line))))


def _selection(model: EverydayModel, text: str, cursor: int, rolls: _Rolls) -> tuple[int, int]:
    """The ends of what is selected about a place."""
    shapes, draw = model.selection, rolls.draw
    shape = rolls.one_of(
        "shape",
        [
            ("part", shapes.part_of_line), ("lines", shapes.whole_lines), ("several", shapes.several_lines),
            ("to end", 1 - shapes.part_of_line - shapes.whole_lines - shapes.several_lines),
        ],
    )  # fmt: skip
    start, behind = _line_at(text, cursor)
    end = behind - 1 if text[start:behind].endswith("\n") else behind
    if shape == "lines":
        return start, behind
    if shape == "several":
        other = text.find("\n", min(len(text), end + 1))
        return cursor, draw.randint(min(end + 1, len(text)), len(text) if other < 0 else other)
    if shape == "to end":
        return cursor, end
    words = [match.span() for match in re.finditer(r"\w+", text[start:end])]
    if not words:
        return start, end
    first, last = draw.choice(words)
    return start + first, start + last


def _line_at(text: str, cursor: int) -> tuple[int, int]:
    """The start of the line at a place, and the place behind its line break."""
    end = text.find("\n", cursor)
    return text.rfind("\n", 0, cursor) + 1, len(text) if end < 0 else end + 1
