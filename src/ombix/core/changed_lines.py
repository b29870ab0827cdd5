"""The lines in which two texts differ."""

from collections.abc import Sequence
from typing import NamedTuple


class ChangedLines(NamedTuple):
    """The first line that differs (an index), and the ends of what differs in the old and in the new lines."""

    first: int
    old_end: int
    new_end: int


def changed_lines(old: Sequence[str], new: Sequence[str]) -> ChangedLines:
    """Where lines differ: those before and behind are the same."""
    least = min(len(old), len(new))
    first = next((number for number in range(least) if old[number] != new[number]), least)
    rest = least - first
    same = next((number for number in range(rest) if old[-1 - number] != new[-1 - number]), rest)
    return ChangedLines(first, len(old) - same, len(new) - same)
