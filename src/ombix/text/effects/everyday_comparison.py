"""How two sides compare in everyday states: how often a press shows a difference, of which kind, and how that is said.

Kind and share are taken after the press and one more: a letter, a movement or pasting. What is left selected is lost to the
next letter.
"""

import math
from collections import Counter
from collections.abc import Sequence
from typing import NamedTuple

from msgspec import Struct

from ombix.core.porting.everyday import KINDS, WEIGHTS, DifferenceKind, EverydayDifference, EverydayExample
from ombix.text.effects.buffer import Buffer
from ombix.text.effects.compared_states import StartState, picture
from ombix.text.effects.everyday_states import EverydayModel, NextPress, drawn_states, purpose_of
from ombix.text.effects.everyday_words import said_of, without_blanks
from ombix.text.effects.execution import CommandRun, EditorConventions
from ombix.text.effects.program_comparison import Seen, begun, fits, on_character, seen
from ombix.text.effects.program_language import program

_LINES = 6
"""Lines of an example that are shown."""
DRAWS = 500
"""States of each model that are drawn."""
FEWER_DRAWS = 150
"""So many where somebody waits for it."""
_TOLD = 0.01
"""Of all presses so many show a kind, at the least, for the difference to be called by it."""
_TYPES = "if typing-replaces { type kept } else { insert kept }"
_NEXT = {
    "letter": program(_TYPES.replace("kept", '"x"')), "movement": program("go right"), "paste": program(_TYPES),
}  # fmt: skip


class Shown(NamedTuple):
    """A state in which two sides differ: what is seen behind the press, and of which kind that is behind one more."""

    start: StartState
    one: Seen
    other: Seen
    kind: DifferenceKind
    is_replaced: bool
    """Whether the next letter takes the place of what only one side leaves selected."""
    is_at_once: bool = False
    """Whether the text is another one before the next press, in more than blanks."""


class _Count(Struct):
    """What was counted in the states of a model."""

    model: EverydayModel
    count: int = 0
    unknown: int = 0
    shown: list[Shown] = []
    alike: list[StartState] = []

    @property
    def weight(self) -> float:
        return sum(WEIGHTS[each.kind] for each in self.shown) / max(1, self.count)


def everyday_difference(
    one: CommandRun, other: CommandRun, models: Sequence[EverydayModel], draws: int = DRAWS, seed: int | None = None
) -> EverydayDifference | None:
    """How two sides differ in everyday states; None where they do not, or cannot be in any. `one` is what is wanted."""
    counts = [_counted(one, other, model, draws, seed) for model in models]
    worst = max(counts, key=lambda count: (count.weight, count.unknown))
    if not worst.count or not (worst.shown or worst.unknown):
        return None
    kinds = Counter(each.kind for each in worst.shown)
    low, high = interval(len(worst.shown), worst.count)
    unknown = worst.unknown / worst.count
    shares = tuple((kind, kinds[kind] / worst.count) for kind in KINDS if kinds[kind])
    told = [kind for kind, share in shares if share >= _TOLD or kind == "text lost"]
    share = len(worst.shown) / worst.count
    if not worst.shown:
        return EverydayDifference(0, low, high, "selection", (), unknown, worst.model.title, "")
    kind = told[0] if told else shares[0][0]
    said, example = said_of(worst.shown, worst.alike)
    return EverydayDifference(
        share,
        low,
        high,
        kind,
        shares,
        unknown,
        worst.model.title,
        said,
        _example(example),
        sum(each.is_at_once for each in worst.shown) / worst.count,
    )


def _example(shown: Shown) -> EverydayExample:
    """The lines that an example is about, one before and one behind them."""
    start, one, other = shown.start, shown.one, shown.other
    texts = [
        picture(start.text, start.cursor, start.anchor),
        *(picture(each.text, each.cursor, _anchor(each)) for each in (one, other)),
    ]
    every = [text.replace("⏎", "\n").split("\n") for text in texts]
    head = 0
    while (
        all(head < len(lines) - 1 for lines in every)
        and len({lines[head] for lines in every}) == 1
        and not any(mark in every[0][head] for mark in "|")
    ):
        head += 1
    tail = 0
    while all(tail < len(lines) - head - 1 for lines in every) and len({lines[-1 - tail] for lines in every}) == 1:
        tail += 1
    head, tail = max(0, head - 1), max(0, tail - 1)
    cut = [lines[head : len(lines) - tail][:_LINES] for lines in every]
    if one.kept != other.kept:
        for lines, kept in zip(cut, (start.kept, one.kept, other.kept), strict=True):
            lines.append(f"clipboard: {picture(kept, len(kept), None)[:-1] or 'nothing'}")
    return EverydayExample(*map(tuple, cut))


def _anchor(one: Seen) -> int | None:
    if one.selected is None:
        return None
    start, end = one.selected
    return start if one.cursor != start else end


def interval(found: int, count: int) -> tuple[float, float]:
    """The interval of a share that was counted, at 95 % (Wilson, Journal of the American Statistical Association 22, 1927)."""
    if not count:
        return 0.0, 1.0
    z = 1.96
    share, spread = found / count, z * z / count
    middle = (share + spread / 2) / (1 + spread)
    half = z / (1 + spread) * math.sqrt(share * (1 - share) / count + spread / (4 * count))
    # At the ends the formula gives just these, but for the rounding.
    return (0.0 if not found else middle - half), (1.0 if found == count else middle + half)


def _counted(one: CommandRun, other: CommandRun, model: EverydayModel, draws: int, seed: int | None) -> _Count:
    found = _Count(model)
    states = drawn_states(model, purpose_of(one), draws, *(() if seed is None else (seed,)))
    for drawn in states:
        start = _standing(drawn.start, one.manner, other.manner)
        if start is None:
            continue
        found.count += 1
        first, second = begun(start, one.manner), begun(start, other.manner)
        is_sure = one.run(first)
        is_sure = other.run(second) and is_sure
        if not is_sure:
            found.unknown += 1
            continue
        shown = _shown(start, (first, one.manner), (second, other.manner), drawn.then)
        if shown is None:
            found.alike.append(start)
        else:
            found.shown.append(shown)
    return found


def _standing(start: StartState, one: EditorConventions, other: EditorConventions) -> StartState | None:
    """A state as both editors can be in it; None where they cannot."""
    if (one.ends_lines or other.ends_lines) and not start.text.endswith("\n"):
        start = start._replace(text=start.text + "\n")
    if start.anchor is not None and not (one.selects and other.selects):
        start = start._replace(anchor=None)
    if one.on_characters or other.on_characters or one.ends_lines or other.ends_lines:
        buffer = Buffer(start.text, start.cursor)
        if one.on_characters or other.on_characters or start.cursor == len(start.text):
            on_character(buffer)
        start = start._replace(cursor=buffer.cursor, anchor=None if start.anchor == buffer.cursor else start.anchor)
    return start if fits(start, one) and fits(start, other) else None


def _shown(
    start: StartState, first: tuple[Buffer, EditorConventions], second: tuple[Buffer, EditorConventions], then: NextPress
) -> Shown | None:  # fmt: skip
    """What is seen of a difference behind a press, and one more."""
    one, other = seen(first[0]), seen(second[0])
    if one == other:
        return None
    kind = kind_of(start, one, other)
    if kind == "text lost":
        return Shown(start, one, other, kind, False, True)
    is_at_once = kind == "another text"
    is_typed = not (first[1].on_characters or second[1].on_characters)
    # What is lost by the next press is what the first one has left, and its user did not select.
    begin, end = other.selected if _selects_the_same(start, other) and other.selected else (other.cursor, other.cursor)
    left = StartState(other.text, end, begin if begin != end else None, other.kept)
    press: NextPress = then if is_typed else "movement"
    after = kind_of(left, _next(*first, press), _next(*second, press))
    is_replaced = False
    if is_typed and one.selected != other.selected:
        is_replaced = kind_of(left, _next(*first, "letter"), _next(*second, "letter")) == "text lost"
    if after == "text lost" or (kind == "selection" and after in ("another text", "blanks")):
        kind = after
    return Shown(start, one, other, kind, is_replaced, is_at_once)


def _selects_the_same(start: StartState, other: Seen) -> bool:
    """Whether the text that was selected is selected behind a press, wherever it stands then."""
    if start.anchor is None or other.selected is None:
        return False
    (before, after), (begin, end) = sorted((start.cursor, start.anchor)), other.selected
    return start.text[before:after] == other.text[begin:end]


def _next(buffer: Buffer, manner: EditorConventions, then: NextPress) -> Seen:
    """What is seen behind one more press."""
    copy = buffer.copy()
    manner.run(_NEXT[then], copy)
    return seen(copy)


def kind_of(start: StartState, one: Seen, other: Seen) -> DifferenceKind:
    """Of which kind a difference between two outcomes is; `one` is what is wanted."""
    if _loses(start, one, other):
        return "text lost"
    if one.facts != other.facts:
        return "another text"
    if one.text != other.text:
        return "blanks" if without_blanks(one.text) == without_blanks(other.text) else "another text"
    if one.kept != other.kept:
        return "clipboard"
    return "cursor" if one.cursor != other.cursor else "selection"


def _loses(start: StartState, one: Seen, other: Seen) -> bool:
    """Whether letters or digits that were there are in neither the text nor what is kept in the second outcome, and in the first
    are. What stands in lines that were selected, and goes with the press, was meant to go; and where the first one deletes as
    much, that other text goes is another text and no loss."""
    if start.text == other.text:
        return False
    texts = [start.text, one.text, other.text]
    head = _common(texts)
    tail = _common([text[: head - 1 if head else None : -1] for text in texts])
    before, first, second = (
        text[head : len(text) - tail] for text in texts
    )  # what is the same in all three is not lost
    if len(before) <= len(second) and before in second:
        return False
    gone = Counter(before) - Counter(second + other.kept)
    missing = gone - (Counter(before) - Counter(first + one.kept))
    if start.anchor is not None and missing:
        begin, end = sorted((start.cursor, start.anchor))
        behind = start.text.find("\n", end)
        missing -= Counter(start.text[start.text.rfind("\n", 0, begin) + 1 : behind if behind >= 0 else None])
    lost = sum(count for char, count in missing.items() if char.isalnum())
    deleted = sum(map(str.isalnum, start.text)) - sum(map(str.isalnum, one.text))
    return lost > max(0, deleted)


def _common(texts: list[str]) -> int:
    """How many characters texts begin alike with."""
    low, high = 0, min(map(len, texts))
    while low < high:
        middle = (low + high + 1) // 2
        if texts[0][:middle] == texts[1][:middle] == texts[2][:middle]:
            low = middle
        else:
            high = middle - 1
    return low
