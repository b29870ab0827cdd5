"""What differs between two texts: by lines, and by places in them."""

from difflib import SequenceMatcher
from typing import NamedTuple

_MANY = 2000
"""Lines from which on frequent ones are not compared one by one."""


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
    first = next(
        (at for at, pair in enumerate(zip(old, new, strict=False)) if pair[0] != pair[1]), min(len(old), len(new))
    )
    most = min(len(old), len(new)) - first
    last = next((at for at in range(most) if old[-1 - at] != new[-1 - at]), most)
    left, right = old[first : len(old) - last], new[first : len(new) - last]
    matcher = SequenceMatcher(None, left, right, autojunk=len(left) > _MANY)
    groups: list[ChangedLines] = []
    places = changed = added = removed = 0
    for kind, start, end, new_start, new_end in matcher.get_opcodes():
        if kind == "equal":
            continue
        groups.append(ChangedLines(first + start, first + end, first + new_start, first + new_end))
        both = min(end - start, new_end - new_start)
        changed += both
        removed += end - start - both
        added += new_end - new_start - both
        if end - start == new_end - new_start:
            places += sum(map(_places, left[start:end], right[new_start:new_end]))
        else:
            places += 1
    return TextChanges(tuple(groups), places, changed, added, removed)


def _places(old: str, new: str) -> int:
    matcher = SequenceMatcher(None, old, new, autojunk=len(old) > _MANY)
    return sum(kind != "equal" for kind, *_span in matcher.get_opcodes())


def as_lines(before: str, after: str, most: int = 12) -> tuple[str, ...]:
    """The lines that differ, with their numbers: those taken away behind `-`, those put in behind `+`; `most` of them."""
    old, new = before.split("\n"), after.split("\n")
    found: list[str] = []
    for start, end, new_start, new_end in changes_between(before, after).groups:
        found += [f"- {number + 1}: {old[number]}" for number in range(start, end)]
        found += [f"+ {number + 1}: {new[number]}" for number in range(new_start, new_end)]
    return tuple(found if len(found) <= most else [*found[: most - 1], f"… and {len(found) - most + 1} more lines"])
