"""The states that people are in when they press a key, drawn from a model of their work: see `data/everyday`."""

import random
import re
from collections.abc import Sequence
from typing import Literal, TypeVar

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
        known = _DRAWN[key] = (model, [_drawn(model, purpose, draw) for _ in range(count)])
    return known[1]


_DRAWN: dict[tuple[str, Purpose, int, int], tuple[EverydayModel, list[DrawnState]]] = {}


def _drawn(model: EverydayModel, purpose: Purpose, draw: random.Random) -> DrawnState:
    text = draw.choice(model.texts)
    if draw.random() < model.text.no_line_end:
        text = text.rstrip("\n")
    if draw.random() < model.cursor.empty_text:
        text = draw.choice(("", "\n"))
    kept = _kept(model, draw)
    cursor = _cursor(model, text, draw)
    anchor = None
    if draw.random() < model.selected[purpose]:
        start, end = _selection(model, text, cursor, draw)
        if start == end:  # at the end of a line, or on an empty one
            start, end = _line_at(text, cursor)
        cursor, anchor = (start, end) if draw.random() < model.selection.backwards else (end, start)
    then = _one_of(draw, list(model.next.items()))
    return DrawnState(StartState(text, cursor, None if anchor == cursor else anchor, kept), then)


def _kept(model: EverydayModel, draw: random.Random) -> str:
    """What was copied before."""
    what = _one_of(draw, [("", model.kept.nothing), ("lines", model.kept.lines), ("words", model.kept.words)])
    if not what:
        return ""
    text = draw.choice(model.texts)
    return draw.choice(text.splitlines(keepends=True) if what == "lines" else text.split())


def _one_of(draw: random.Random, choices: Sequence[tuple[_Choice, float]]) -> _Choice:
    return draw.choices([one for one, _share in choices], [share for _one, share in choices])[0]


def _cursor(model: EverydayModel, text: str, draw: random.Random) -> int:
    """A place in a text."""
    lines = text.split("\n")
    starts = [0]
    for line in lines[:-1]:
        starts.append(starts[-1] + len(line) + 1)
    last = len(lines) - 1 if lines[-1] or len(lines) == 1 else len(lines) - 2
    places = model.cursor
    middle = range(1, last)
    where = _one_of(
        draw,
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
    return starts[number] + _column(model, lines[number], draw)


def _column(model: EverydayModel, line: str, draw: random.Random) -> int:
    places = model.cursor
    indented = len(line) - len(line.lstrip())
    inside = 1 - places.line_end - places.first_word - places.line_start
    where = _one_of(
        draw,
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
    return draw.randint(min(indented + 1, len(line)), max(len(line) - 1, min(indented + 1, len(line))))


def _selection(model: EverydayModel, text: str, cursor: int, draw: random.Random) -> tuple[int, int]:
    """The ends of what is selected about a place."""
    shapes = model.selection
    shape = _one_of(
        draw,
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
