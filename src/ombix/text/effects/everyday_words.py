"""Everyday differences in plain words: when, and what happens then."""

import re
from collections import Counter
from collections.abc import Callable, Sequence
from typing import Protocol, TypeVar

from ombix.core.porting.everyday import WEIGHTS, DifferenceKind
from ombix.text.effects.compared_states import StartState
from ombix.text.effects.program_comparison import Seen


class ShownDifference(Protocol):
    """A state in which two sides differ; see `everyday_comparison.Shown`."""

    @property
    def start(self) -> StartState:
        """The state before."""

    @property
    def one(self) -> Seen:
        """What is wanted."""

    @property
    def other(self) -> Seen:
        """What is seen."""

    @property
    def kind(self) -> DifferenceKind:
        """Of which kind it is."""

    @property
    def is_replaced(self) -> bool:
        """Whether the next letter takes the place of what only one of the two leaves selected."""


_D = TypeVar("_D", bound=ShownDifference)
_NEARLY = 0.85
"""So much of what is meant has a feature, and of what has it is meant, at the least, where it is named as the condition."""
_ALWAYS = 0.97
_MOST = 0.7
"""Of the cursors so many are at a place, at the least, for it to be named."""
_ALSO = 0.2
"""Of what differs so much has another sentence, at the least, for that to be said as well."""


def said_of(shown: Sequence[_D], alike: Sequence[StartState]) -> tuple[str, _D]:
    """A sentence for differences, with {editor} for the editor, and the plainest of them as an example. Where they are of two
    sorts, both are said, the one that bites more often first."""
    by_phrase: dict[str, list[_D]] = {}
    places: dict[str, Counter[str]] = {}
    for each in shown:
        phrase = phrase_of(each)
        by_phrase.setdefault(phrase, []).append(each)
        if "{place}" in phrase:
            places.setdefault(phrase, Counter())[_place(each.one, each.other)] += 1
    order = sorted(by_phrase, key=lambda phrase: -sum(WEIGHTS[each.kind] for each in by_phrase[phrase]))
    told = [phrase for phrase in order if phrase == order[0] or len(by_phrase[phrase]) >= _ALSO * len(shown)][:2]
    placed = {phrase: _placed(phrase, places.get(phrase)) for phrase in told}
    example = min(by_phrase[order[0]], key=lambda each: _oddness(each.start))
    starts = [each.start for each in shown]
    together = condition_of(starts, alike)
    if together not in _VAGUE and len(set(map(_subject, told))) == 1:
        return _sentence(together, ", or ".join(_shared(list(placed.values())))), example
    conditions = []
    for phrase in told:
        here = [each.start for each in by_phrase[phrase]]
        others = [*alike, *(each.start for other in order if other != phrase for each in by_phrase[other])]
        conditions.append(condition_of(here, others))
    if set(conditions) == {_VAGUE[1]} and len(told) > 1 and len(set(map(_subject, told))) == 1:
        return _sentence(_VAGUE[1], ", or ".join(_shared(list(placed.values())))), example
    return " ".join(_sentence(when, placed[phrase]) for when, phrase in zip(conditions, told, strict=True)), example


_READABLE = 24
"""Characters of a line that is taken in at once."""
_VAGUE = ("mostly", "sometimes")


def _sentence(when: str, phrase: str) -> str:
    said = f"{when}, {phrase}." if when and when not in _VAGUE else f"{when} {phrase}." if when else f"{phrase}."
    return said if said.startswith("{") else said[:1].upper() + said[1:]


def _placed(phrase: str, places: Counter[str] | None) -> str:
    """A phrase with the place where the cursor mostly ends up."""
    if not places:
        return phrase
    place, count = places.most_common(1)[0]
    return phrase.replace("{place}", place if count >= _MOST * places.total() else "elsewhere")


def _subject(phrase: str) -> str:
    return phrase.split()[0]


def _shared(phrases: list[str]) -> list[str]:
    """Phrases of one subject, which the first one names."""
    return [phrases[0], *(phrase.removeprefix("{editor} ") for phrase in phrases[1:])]


def _oddness(start: StartState) -> tuple[bool, int, int]:
    """How far a state is from one that a reader takes in at once."""
    selected = abs(start.cursor - start.anchor) if start.anchor is not None else 0
    line = _line(start)
    is_edge = _is_last(start) or "\n" not in start.text[: start.cursor]
    return not line.strip() or is_edge, selected, abs(len(line) - _READABLE)


# --- when


def _line(start: StartState) -> str:
    begin = start.text.rfind("\n", 0, start.cursor) + 1
    end = start.text.find("\n", start.cursor)
    return start.text[begin : len(start.text) if end < 0 else end]


def _column(start: StartState) -> int:
    return start.cursor - start.text.rfind("\n", 0, start.cursor) - 1


def _is_last(start: StartState) -> bool:
    return "\n" not in start.text[start.cursor :].removesuffix("\n")


def _selects_lines(start: StartState) -> bool:
    if start.anchor is None:
        return False
    first, last = sorted((start.cursor, start.anchor))
    return start.text[first:last].endswith("\n")


CONDITIONS: dict[str, Callable[[StartState], bool]] = {
    "with text selected": lambda start: start.anchor is not None,
    "with nothing selected": lambda start: start.anchor is None,
    "at the end of a line": lambda start: _column(start) == len(_line(start)),
    "on an empty line": lambda start: not _line(start).strip(),
    "at the start of a line": lambda start: _column(start) == 0,
    "on the last line": _is_last,
    "on the first line": lambda start: "\n" not in start.text[: start.cursor],
    "on an indented line": lambda start: _line(start)[:1].isspace(),
    "on a line without indentation": lambda start: not _line(start)[:1].isspace(),
    "in the indentation": lambda start: not _line(start)[: _column(start)].strip() and _line(start)[:1].isspace(),
    "inside a line": lambda start: 0 < _column(start) < len(_line(start)),
    "after copying whole lines": lambda start: start.kept.endswith("\n"),
    "with nothing copied before": lambda start: not start.kept,
    "beside a sign": lambda start: any(
        not (char.isalnum() or char.isspace() or char == "_")
        for char in start.text[max(0, start.cursor - 1) : start.cursor + 1]
    ),
    "inside a word": lambda start: re.fullmatch(r"\w\w", start.text[max(0, start.cursor - 1) : start.cursor + 1]) is not None,
    "before a blank": lambda start: start.text[start.cursor : start.cursor + 1] in (" ", "\t"),
    "behind a blank": lambda start: start.text[max(0, start.cursor - 1) : start.cursor] in (" ", "\t"),
    "with whole lines selected": _selects_lines,
    "with the selection made backwards": lambda start: start.anchor is not None and start.cursor < start.anchor,
    "in an empty text": lambda start: not start.text.strip("\n"),
    "where the text has tabs": lambda start: "\t" in start.text,
    "where the text has no line break at its end": lambda start: bool(start.text) and not start.text.endswith("\n"),
}  # fmt: skip
"""What can be said of an everyday state, in plain words; the plainest first."""


def condition_of(here: Sequence[StartState], others: Sequence[StartState]) -> str:
    """When, in plain words: what nearly all of these states have, and nearly none of the others; "" for always, and "sometimes"
    where there are no words for it."""
    if len(here) >= _ALWAYS * (len(here) + len(others)):
        return ""
    found = {name: (_bits(here, test), _bits(others, test)) for name, test in CONDITIONS.items()}
    best, score = "", 0.0
    for name, (inside, outside) in found.items():
        value = _fit(inside, outside, here, others)
        if value > score + 0.02:
            best, score = name, value
    if score >= _NEARLY:
        return best
    names = [name for name, (inside, _outside) in found.items() if inside]
    for index, first in enumerate(names):
        for second in names[index + 1 :]:
            both = _fit(found[first][0] & found[second][0], found[first][1] & found[second][1], here, others)
            either = _fit(found[first][0] | found[second][0], found[first][1] | found[second][1], here, others)
            if both > score + 0.04:
                best, score = _joined(first, second), both
            if either > score + 0.04:
                best, score = f"{first} or {second}", either
    if score >= _NEARLY:
        return best
    return "mostly" if len(here) >= 0.6 * (len(here) + len(others)) else "sometimes"


def _joined(first: str, second: str) -> str:
    return f"{first} and {second}" if first.split()[0] == second.split()[0] == "with" else f"{second}, {first}"


def _bits(states: Sequence[StartState], test: Callable[[StartState], bool]) -> int:
    found = 0
    for number, start in enumerate(states):
        if test(start):
            found |= 1 << number
    return found


def _fit(inside: int, outside: int, here: Sequence[StartState], others: Sequence[StartState]) -> float:
    """How well a feature says which states are meant: the less of the share of these that have it and the share of those that
    have it which are meant; 0 to 1. 0 where most of the others have it as well."""
    hit, miss = inside.bit_count(), outside.bit_count()
    return min(hit / len(here), hit / (hit + miss)) if hit and miss <= len(others) / 2 else 0.0


# --- what


def phrase_of(shown: ShownDifference) -> str:
    """What happens, with {editor} for the editor; without a full stop."""
    start, one, other = shown.start, shown.one, shown.other
    if one.facts != other.facts:
        return "{editor} does something else"
    if one.text != other.text:
        return _of_text(start, one, other)
    if one.selected != other.selected:
        return _of_selection(shown)
    if one.kept != other.kept:
        return _of_kept(start, one, other)
    if one.cursor != other.cursor:
        return "the cursor ends up {place}"
    if one.marks != other.marks:
        return "the mark stays set, and moving selects" if other.marks else "the mark is taken away"
    return "typing replaces the selection" if other.gives_way else "typing does not replace the selection"


def without_blanks(text: str) -> str:
    """A text without its blanks and line breaks."""
    return "".join(text.split())


def _of_text(start: StartState, one: Seen, other: Seen) -> str:
    begin, end = sorted((start.cursor, start.anchor)) if start.anchor is not None else (start.cursor, start.cursor)
    selected = start.text[begin:end]
    if selected.strip():
        wanted = len(one.text) + len(selected) <= len(start.text) + max(
            len(one.text) - len(start.text) + len(selected), 0
        )
        without = start.text[:begin] + start.text[end:]
        kept_in_one = _holds(one.text, start.text)
        if other.text != start.text and _holds(other.text, start.text) and not kept_in_one and wanted:
            return "{editor} does not replace what is selected"
        if kept_in_one and not _holds(other.text, start.text) and _holds(other.text, without):
            return "{editor} deletes what is selected"
        if other.text == without:
            return f"{{editor}} {'cuts' if other.kept == selected else 'deletes'} only what is selected"
        if one.text == without:
            return "{editor} does not delete what is selected"
    if other.text == start.text:
        return "nothing changes in {editor}"
    tab, blanks = ("\t" in _put_in(each.text, start.text) for each in (other, one))
    if tab != blanks and not (_put_in(one.text, start.text) + _put_in(other.text, start.text)).strip():
        return "{editor} puts in a tab, not blanks" if tab else "{editor} puts in blanks, not a tab"
    if one.text == start.text:
        return "{editor} changes the text, and yours did not"
    if one.text.rstrip("\n") == other.text.rstrip("\n"):
        return "only the line break at the end of the text is different"
    if without_blanks(one.text) == without_blanks(other.text):
        return "{editor} leaves other blanks or line breaks"
    if Counter(one.text) == Counter(other.text):
        return "{editor} puts the text at another place"
    if len(one.text) < len(start.text) and len(other.text) < len(start.text) and one.text[:1]:
        return "{editor} deletes more" if len(other.text) < len(one.text) else "{editor} deletes less"
    return "{editor} makes another text of it"


def _put_in(text: str, before: str) -> str:
    """What was put into a text at one place; empty where that is not what was done."""
    if not _holds(text, before):
        return ""
    head = 0
    while head < len(before) and text[head] == before[head]:
        head += 1
    return text[head : head + len(text) - len(before)]


def _holds(text: str, part: str) -> bool:
    """Whether a text has all characters of another one, in their order, with something put in at one place at the most."""
    if len(text) < len(part):
        return False
    head = 0
    while head < len(part) and text[head] == part[head]:
        head += 1
    return head == len(part) or text.endswith(part[head:])


def _of_selection(shown: ShownDifference) -> str:
    start, one, other = shown.start, shown.one, shown.other
    if other.selected and not one.selected:
        stays = "the selection stays" if start.anchor is not None else "the text stays selected"
        return f"{stays}, and the next letter replaces it" if shown.is_replaced else stays
    if one.selected and not other.selected:
        return "nothing is left selected" if start.anchor is not None else "nothing gets selected"
    size = [end - begin for begin, end in (one.selected or (0, 0), other.selected or (0, 0))]
    more = "something else" if size[0] == size[1] else "more" if size[1] > size[0] else "less"
    is_replaced = ", and the next letter replaces it" if shown.is_replaced and more == "more" else ""
    return f"{more} is selected{is_replaced}"


def _of_kept(start: StartState, one: Seen, other: Seen) -> str:
    moved = ", and the cursor ends up {place}" if one.cursor != other.cursor else ""
    if other.kept == start.kept:
        return f"the clipboard keeps what it had{moved}"
    if one.kept == start.kept:
        return "{editor} also copies the text" + moved
    if one.kept.rstrip("\n") == other.kept.rstrip("\n"):
        return f"the clipboard gets it {'with' if other.kept.endswith(chr(10)) else 'without'} its line break{moved}"
    if start.kept and other.kept in (start.kept + one.kept, start.kept + "\n" + one.kept):
        return f"it is added to what was copied before{moved}"
    return f"the clipboard ends up different{moved}"


def _place(one: Seen, other: Seen) -> str:
    """Where the second cursor is, as seen from the first."""
    text = other.text
    rows = [text.count("\n", 0, seen.cursor) for seen in (one, other)]
    begin = text.rfind("\n", 0, other.cursor) + 1
    end = text.find("\n", other.cursor)
    line = text[begin : len(text) if end < 0 else end]
    column = other.cursor - begin
    if rows[0] != rows[1]:
        step = rows[1] - rows[0]
        where = "a line" if abs(step) == 1 else "some lines"
        return f"{where} further {'down' if step > 0 else 'up'}"
    if column == len(line):
        return "at the end of the line"
    if column == 0:
        return "at the start of the line"
    if column == len(line) - len(line.lstrip()):
        return "at the first word of the line"
    step = other.cursor - one.cursor
    if abs(step) == 1:
        return f"one character further {'right' if step > 0 else 'left'}"
    return f"further {'right' if step > 0 else 'left'}"
