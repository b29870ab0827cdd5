"""Whether two programs do the same, each in its editor: in which states they do not, and the smallest example."""

from collections import Counter
from collections.abc import Iterable
from functools import lru_cache
from typing import NamedTuple

from ombix.text.effects.buffer import Buffer
from ombix.text.effects.compared_states import StartState, more_states, picture, small_states, words_for
from ombix.text.effects.execution import CommandRun, EditorConventions
from ombix.text.effects.step_words import STEPS

on_character = STEPS["settle"]([])
"""Puts the cursor of a buffer on a character, where it is behind the last one of a line."""


class Seen(NamedTuple):
    """What is seen behind a command: the text, the cursor, the ends of what is selected, and what is kept; whether what
    moves from there on selects, and whether what is typed takes the place of what is selected; and what became of the editor
    beside its text."""

    text: str
    cursor: int
    selected: tuple[int, int] | None
    kept: str
    marks: bool = False
    gives_way: bool = False
    facts: tuple[str, ...] = ()


class Comparison(NamedTuple):
    """How two sides compare. `when` are the states in which they differ, in words ("": in all), `what` differs then;
    `start`, `one` and `other` are the smallest example. `loses`: whether the second one throws text away that the first one
    keeps. `is_sure`: whether all is known of both."""

    is_equal: bool
    when: str = ""
    what: str = ""
    start: StartState | None = None
    one: Seen | None = None
    other: Seen | None = None
    loses: bool = False
    is_sure: bool = True

    @property
    def sentence(self) -> str:
        """What differs, when, and an example."""
        if self.is_equal:
            return ""
        said = f"{self.when}, {self.what}" if self.when else self.what
        if self.start is None or self.one is None or self.other is None:
            return said or "whether it does the same is not known for sure"
        if self.one._replace(facts=()) == self.other._replace(facts=()):
            when = f"{self.when}, " if self.when else ""
            return f"{when}{_done(self.other)}; in the source, {_done(self.one)}"
        return (
            f"{said}: {self.start.picture} becomes {_shown(self.other, self.one)}, not {_shown(self.one, self.other)}"
        )


def _shown(one: Seen, other: Seen) -> str:
    start, end = one.selected or (one.cursor, one.cursor)
    anchor = None if one.selected is None else start if one.cursor != start else end
    said = picture(one.text, one.cursor, anchor)
    if one.selected and other.selected and one.gives_way != other.gives_way:
        said += " (typing replaces it)" if one.gives_way else " (typing leaves it)"
    if one.marks != other.marks:
        said += " with the mark set" if one.marks else " without a mark"
    if one.facts != other.facts:
        said += f" where {_done(one)}"
    return said if one.kept == other.kept else f"{said} and {_kept(one.kept)}"


def _done(one: Seen) -> str:
    return " and ".join(said if " is " in said else f"{said} is done" for said in one.facts) or "nothing is done"


def _kept(text: str) -> str:
    return f"keeps {picture(text, len(text), None)[:-1]}" if text else "keeps nothing"


@lru_cache(maxsize=4096)
def compare(one: CommandRun, other: CommandRun) -> Comparison:
    """Compare two sides over small states; where they are equal there, over many larger ones."""
    if one == other:
        return Comparison(True)
    for states in _states(one, other):
        found = compare_over(one, other, states)
        if not found.is_equal:
            return found
    return Comparison(True)


def _states(one: CommandRun, other: CommandRun) -> Iterable[Iterable[StartState]]:
    """The states that two sides are compared in: those that their commands go by."""
    programs = (*one.programs, *other.programs)
    small = small_states()
    if all(program.is_only_facts for program in programs):
        small = tuple(each for each in small if each.text == "a\n" and each.cursor == 0 and each.anchor is None)
    if any("changed" in program.about for program in programs):
        small = (*small, *(each._replace(is_changed=True) for each in small[:: max(1, len(small) // 80)]))
    return (small, more_states()) if len(small) > 10 else (small,)


def compare_over(one: CommandRun, other: CommandRun, states: Iterable[StartState]) -> Comparison:
    """Compare two sides over these states."""
    different: list[StartState] = []
    alike: list[StartState] = []
    unsure: list[StartState] = []
    parts: set[str] = set()
    examples: list[tuple[tuple[bool, int], int, StartState, Seen, Seen]] = []
    loses = plain = False  # what is said to differ is what differs with nothing selected, where something does
    for start in states:
        if not (fits(start, one.manner) and fits(start, other.manner)):
            continue
        first, is_sure = _run(one, start)
        second, is_sure_too = _run(other, start)
        if not (is_sure and is_sure_too):
            unsure.append(start)
            continue
        if first == second:
            alike.append(start)
            continue
        different.append(start)
        if start.anchor is None and not plain:
            plain = True
            parts.clear()
        if start.anchor is None or not plain:
            parts |= {name for name, left, right in zip(_PARTS, first, second, strict=True) if left != right}
        loses = loses or (start.anchor is None and _loses(start, first, second))
        examples.append((_oddness(start), start.cursor, start, first, second))
    if not different and not alike:
        return Comparison(False, is_sure=False)  # nothing was compared
    if not different and not unsure:
        return Comparison(True)
    if not different:
        when = words_for(unsure, alike)
        return Comparison(False, when, "what it does is not known", is_sure=False)
    _size, _at, start, first, second = min(examples, key=lambda found: found[:2])
    what = next((said for said, names in _SAID if parts <= names), "the text becomes another one")
    return Comparison(False, words_for(different, alike), what, start, first, second, loses, not unsure)


def _oddness(start: StartState) -> tuple[bool, int]:
    """How far a state is from one that a reader takes in at once."""
    has_letters = any(char.isalpha() for char in start.text)
    return start.anchor is not None, len(start.text) + 20 * (not has_letters) + 5 * start.text[:1].isspace()


_PARTS = ("text", "cursor", "selection", "clipboard", "selection", "typing", "facts")
_SAID = (
    ("something else is done", {"facts"}),
    ("the cursor comes to stand elsewhere", {"cursor"}),
    ("something else is kept for pasting", {"clipboard"}),
    ("what is typed next replaces what is selected in only one of the two", {"typing"}),
    ("something else is selected", {"selection", "cursor", "typing"}),
    ("the cursor comes to stand elsewhere, and something else is kept", {"cursor", "clipboard"}),
    ("something else is selected and kept", {"cursor", "clipboard", "selection", "typing"}),
)


def fits(start: StartState, manner: EditorConventions) -> bool:
    """Whether an editor can be in a state."""
    if start.anchor is not None and not manner.selects:
        return False
    if manner.ends_lines and not start.text.endswith("\n"):
        return False
    if manner.ends_lines and start.cursor == len(start.text):
        return False
    if manner.on_characters:
        buffer = Buffer(start.text, start.cursor)
        on_character(buffer)
        return buffer.cursor == start.cursor
    return True


def begun(start: StartState, manner: EditorConventions) -> Buffer:
    """The buffer that a state is in an editor."""
    buffer = Buffer(start.text, start.cursor, start.anchor, start.kept, manner.settings)
    buffer.by_lines = start.kept.endswith("\n")
    if start.is_changed:
        buffer.saved = None
    if start.anchor is not None and manner.selects == "mark":
        buffer.marking = True
    if start.anchor is not None and manner.selects == "held":
        buffer.held, buffer.anchor = buffer.selection, None
    return buffer


def seen(buffer: Buffer) -> Seen:
    """What is seen of a buffer."""
    selected = buffer.selection if buffer.has_selection else None
    return Seen(
        buffer.text,
        buffer.cursor,
        selected,
        buffer.clipboard,
        buffer.marking and selected is None,
        selected is not None and buffer.settings.typing_replaces_selection,
        buffer.facts,
    )


def _run(side: CommandRun, start: StartState) -> tuple[Seen, bool]:
    """What is seen behind a side's commands, and whether that is sure."""
    buffer = begun(start, side.manner)
    is_sure = side.run(buffer)
    return seen(buffer), is_sure


def _loses(start: StartState, first: Seen, second: Seen) -> bool:
    """Whether text that was there is gone in the second outcome and not in the first: from the text, or also from what is
    kept."""
    before = Counter(start.text)

    def gone(after: str) -> Counter[str]:
        return before - Counter(after)

    missing = (gone(second.text) - gone(first.text)) | (gone(second.text + second.kept) - gone(first.text + first.kept))
    return any(not char.isspace() for char in missing)
