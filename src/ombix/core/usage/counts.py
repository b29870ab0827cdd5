"""What was used, how often: counts by day, and nothing of any text."""

import math
from collections import Counter
from collections.abc import Iterator, Sequence
from datetime import date
from typing import Literal, NamedTuple

from ombix.core.errors import InputError

By = Literal["keys", "menu", "mouse", "command line"]
BYS: tuple[By, ...] = ("keys", "menu", "mouse", "command line")
"""The ways in which something is started."""

COLUMNS = ("time", "editor", "platform", "action", "command", "keys", "by", "mode", "count")
"""What a column of a table of use may be."""
LONGEST_RUN = 5
"""Actions of a run that is counted, and"""
RUN_PAUSE = 10.0
"""seconds between two of them at the most: who waits longer does something else."""
MOST_RUNS = 1_000_000
"""Different runs that are kept in memory."""
TAKEN_BACK = 2.0
"""Seconds in which what is taken back was a slip: a press, a look (the Keystroke-Level Model's M, 1.35 s), and a press."""
UNDO = "history.undo"


def check_day(day: str) -> None:
    """Raise InputError for a text that is neither empty nor a day as YYYY-MM-DD."""
    try:
        is_day = not day or date.fromisoformat(day).isoformat() == day
    except ValueError:
        is_day = False
    if not is_day:
        raise InputError(f"{day} is no day", "Write it like 2026-06-01.")


BY_CHANCE = 0.01
"""How likely it may be at the most that any run is taken for a habit that is none."""


def is_habit(actions: Sequence[str], times: int, used: Counter[str]) -> bool:
    """Whether actions follow each other more often than they would if each were done as often as it is, in any order: by
    Chernoff's bound of the Poisson distribution's tail, for as many runs as there can be (Bonferroni)."""
    total = used.total() or 1
    by_chance = float(total)
    for action in actions:
        by_chance *= used[action] / total
    if times <= by_chance or by_chance <= 0:
        return False
    tail = times - by_chance + times * math.log(by_chance / times)
    return tail + len(actions) * math.log(max(2, len(used))) < math.log(BY_CHANCE)


class Used(NamedTuple):
    """What is counted together: the day (`YYYY-MM-DD`), the editor's name, the platform, the action or else the editor's command,
    the keys, the way, and the mode. What is not known is empty."""

    day: str
    editor: str
    platform: str
    action: str
    command: str
    keys: str
    by: str
    mode: str

    @property
    def what(self) -> str:
        """The shortest that tells what was done."""
        return self.action or self.command or self.keys


class UseCounts:
    """Counts that are added to each other.

    `used`: what, how often. `runs`: day, editor and actions one after the other. `slips`: day, editor, keys and what they did that
    was taken back at once. `waits`: day, editor and keys that waited for more in vain. `typed`: day and editor, to characters.
    """

    def __init__(self) -> None:
        self.used: Counter[Used] = Counter()
        self.runs: Counter[tuple[str, str, tuple[str, ...]]] = Counter()
        self.slips: Counter[tuple[str, str, str, str]] = Counter()
        self.waits: Counter[tuple[str, str, str]] = Counter()
        self.typed: Counter[tuple[str, str]] = Counter()

    def add(self, other: "UseCounts") -> None:
        """Add what another one counted."""
        self.used.update(other.used)
        self.runs.update(other.runs)
        self.slips.update(other.slips)
        self.waits.update(other.waits)
        self.typed.update(other.typed)

    def __bool__(self) -> bool:
        return bool(self.used or self.waits or self.typed)


class Moment(NamedTuple):
    """Something that happened: what, at which time (seconds; below 0: not known), how often at once. `kind`: `use`; `wait`, where
    the keys waited for more that did not come; `typed`, where `times` characters were typed."""

    used: Used
    time: float = -1.0
    times: int = 1
    kind: Literal["use", "wait", "typed"] = "use"


class Gathering:
    """Counts moments in the order in which they happened, with runs, slips and waits."""

    def __init__(self) -> None:
        self.counts = UseCounts()
        self._last: dict[str, tuple[float, Used]] = {}
        self._runs: dict[str, list[str]] = {}

    def tally(self, one: Moment, times: int = 1) -> None:
        """Count a moment that happened so often, without regard to when."""
        used, number = one.used, one.times * times
        if one.kind == "typed":
            self.counts.typed[used.day, used.editor] += number
        elif one.kind == "wait":
            self.counts.waits[used.day, used.editor, used.keys] += number
        else:
            self.counts.used[used] += number

    def forget_order(self, editor: str) -> None:
        """What comes next in an editor is not counted as coming behind what came before."""
        self._runs.pop(editor, None)
        self._last.pop(editor, None)

    def note(self, one: Moment) -> None:
        """Count a moment behind the one before."""
        used, editor, counts = one.used, one.used.editor, self.counts
        if one.kind == "typed":
            self.tally(one)
            self.forget_order(editor)
            return
        self.tally(one)
        if one.kind == "wait":
            return
        last = self._last.get(editor)
        gap = one.time - last[0] if last is not None and one.time >= 0 and last[0] >= 0 else 0.0
        if last is not None and used.what == UNDO and 0 <= gap <= TAKEN_BACK and last[1].what != UNDO and last[1].keys:
            counts.slips[used.day, editor, last[1].keys, last[1].what] += 1
        run = self._runs.setdefault(editor, [])
        if not 0 <= gap <= RUN_PAUSE:
            run.clear()
        for _ in range(min(one.times, LONGEST_RUN)):
            run.append(used.what)
            del run[:-LONGEST_RUN]
            for length in range(2, len(run) + 1):
                counts.runs[used.day, editor, tuple(run[-length:])] += 1
        if len(counts.runs) > MOST_RUNS:  # what was done once is no habit yet
            counts.runs = Counter({key: times for key, times in counts.runs.items() if times > 1})
        self._last[editor] = (one.time, used)


def shown_runs(
    runs: Counter[tuple[str, str, tuple[str, ...]]], least: int, most: int
) -> Iterator[tuple[str, tuple[str, ...], int]]:
    """The runs of different actions that were done `least` times or more, by editor, `most` of them, the most presses first;
    without those that only stand in longer ones, and those that take something back."""
    summed: Counter[tuple[str, tuple[str, ...]]] = Counter()
    for (_day, editor, actions), times in runs.items():
        if len(set(actions)) > 1 and UNDO not in actions:  # the same again and again is a count
            summed[editor, actions] += times
    frequent = {key: times for key, times in summed.items() if times >= least}
    ordered = sorted(frequent.items(), key=lambda row: (-row[1] * (len(row[0][1]) - 1), row[0]))
    found = 0
    for (editor, actions), times in ordered:
        if found == most:
            return
        if not any(
            _is_within(actions, other) and times <= frequent[editor, other]
            for other in _longer(editor, actions, frequent)
        ):
            found += 1
            yield editor, actions, times


def _longer(
    editor: str, actions: tuple[str, ...], frequent: dict[tuple[str, tuple[str, ...]], int]
) -> Iterator[tuple[str, ...]]:
    return (other for name, other in frequent if name == editor and len(other) > len(actions))


def _is_within(actions: Sequence[str], other: Sequence[str]) -> bool:
    return any(tuple(other[at : at + len(actions)]) == tuple(actions) for at in range(len(other) - len(actions) + 1))
