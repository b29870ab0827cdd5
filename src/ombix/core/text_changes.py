"""What differs between two texts: by lines, and by places in them."""

from collections.abc import Callable, Sequence
from difflib import SequenceMatcher
from typing import NamedTuple

_MANY = 2000
"""Lines from which on frequent ones are not compared one by one."""
_LONG = 4000
"""Characters of two lines, as far as they differ, from which on their places are not told apart."""


class ChangedLines(NamedTuple):
    """Lines of the one text (numbers from 0, the last one not included) that became lines of the other."""

    start: int
    end: int
    new_start: int
    new_end: int


class TextChanges(NamedTuple):
    """How a text became another one: the lines, in groups; in how many places; and how many lines were changed, added, removed."""

    groups: tuple[ChangedLines, ...]
    places: int
    changed: int
    added: int
    removed: int


def changes_between(before: str, after: str) -> TextChanges:
    """What differs between two texts."""
    old, new = before.split("\n"), after.split("\n")
    groups = _groups(old, new)
    places = changed = added = removed = 0
    for start, end, new_start, new_end in groups:
        both = min(end - start, new_end - new_start)
        changed += both
        removed += end - start - both
        added += new_end - new_start - both
        places += sum(map(_places, old[start:end], new[new_start:new_end])) if end - start == new_end - new_start else 1
    return TextChanges(groups, places, changed, added, removed)


def _groups(old: Sequence[str], new: Sequence[str]) -> tuple[ChangedLines, ...]:
    """The lines that became others."""
    first, last = alike(old, new)
    left, right = old[first : len(old) - last], new[first : len(new) - last]
    if not left or not right:
        found = ChangedLines(first, first + len(left), first, first + len(right))
        return (found,) if left or right else ()
    matcher = SequenceMatcher(None, left, right, autojunk=len(left) > _MANY)
    return tuple(
        ChangedLines(first + start, first + end, first + new_start, first + new_end)
        for kind, start, end, new_start, new_end in matcher.get_opcodes()
        if kind != "equal"
    )


def alike(old: Sequence[str], new: Sequence[str], most: int | None = None) -> tuple[int, int]:
    """How many members are alike at the start of both, `most` of them, and at the end of the rest. Two texts are compared in
    pieces, without a step for each character."""
    both = min(len(old), len(new))
    first = _alike_up_to(both if most is None else min(both, most), lambda low, high: old[low:high] == new[low:high])
    end, new_end = len(old), len(new)
    last = _alike_up_to(
        both - first, lambda low, high: old[end - high : end - low] == new[new_end - high : new_end - low]
    )
    return first, last


def _alike_up_to(most: int, are_alike: Callable[[int, int], bool]) -> int:
    """How many are alike, found by halves."""
    low, high = 0, most
    while low < high:
        middle = (low + high + 1) // 2
        if are_alike(low, middle):
            low = middle
        else:
            high = middle - 1
    return low


def _places(old: str, new: str) -> int:
    """In how many places a line became another one."""
    first, last = alike(old, new)
    left, right = old[first : len(old) - last], new[first : len(new) - last]
    if not left or not right:
        return int(bool(left or right))
    if len(left) + len(right) > _LONG:
        return 1
    return sum(kind != "equal" for kind, *_span in SequenceMatcher(None, left, right, autojunk=False).get_opcodes())


def as_lines(before: str, after: str, most: int = 12) -> tuple[str, ...]:
    """The lines that differ, with their numbers: those taken away behind `-`, those put in behind `+`; `most` of them."""
    old, new = before.split("\n"), after.split("\n")
    found: list[str] = []
    for start, end, new_start, new_end in _groups(old, new):
        found += [f"- {number + 1}: {old[number]}" for number in range(start, end)]
        found += [f"+ {number + 1}: {new[number]}" for number in range(new_start, new_end)]
    return tuple(found if len(found) <= most else [*found[: most - 1], f"… and {len(found) - most + 1} more lines"])
