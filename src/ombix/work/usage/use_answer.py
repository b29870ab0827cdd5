"""What was used, what it takes, and what would be better."""

from typing import NamedTuple


class LogReport(NamedTuple):
    """What became of a log: its lines, how many of them are events, the others by the reason why they were left out, how often
    its clock went back, and whether it was kept (`added`, `known`: it was kept already, or empty). `counted`: the lines at its
    beginning in which no runs and slips were looked for, as it is so large."""

    file: str
    lines: int
    events: int
    left_out: dict[str, int]
    back: int
    kept: str
    counted: int


class UsedAction(NamedTuple):
    """An action, or else an editor's command or keys, with how often it was used, and by which ways; its keys now; and by which
    factor the later half of the days has more or less than the earlier one (None: not to be told)."""

    action: str
    times: int
    by: dict[str, int]
    keys: tuple[str, ...]
    trend: float | None


class UsedKeys(NamedTuple):
    """Keys with what they did, in an editor and a mode (empty: not told), and how often."""

    keys: str
    does: str
    editor: str
    mode: str
    times: int


class UsedDay(NamedTuple):
    """A day (YYYY-MM-DD) with what was used, and the characters that were typed."""

    day: str
    times: int
    typed: int


class OtherWay(NamedTuple):
    """What was started without keys although it has some there: an action, the editor, the way, how often, and the keys."""

    action: str
    editor: str
    by: str
    times: int
    keys: tuple[str, ...]


class UsedSlip(NamedTuple):
    """Keys that were pressed and taken back at once, so often out of so many."""

    keys: str
    does: str
    editor: str
    slips: int
    times: int


class VainWait(NamedTuple):
    """Keys that waited for more which did not come."""

    keys: str
    editor: str
    times: int


class LongWay(NamedTuple):
    """Actions that were often done one after the other; `better` are those of which one alone does the same, proved by effect
    (none: a macro could)."""

    actions: tuple[str, ...]
    editor: str
    times: int
    better: tuple[str, ...]


class UnusedKeys(NamedTuple):
    """An action that the keymap gives keys, and that was never used."""

    action: str
    keys: tuple[str, ...]


class UseReport(NamedTuple):
    """What was used from one day to another (both empty: nothing)."""

    first: str
    last: str
    days: int
    times: int
    typed: int
    logs: tuple[LogReport, ...]
    actions: tuple[UsedAction, ...]
    keys: tuple[UsedKeys, ...]
    by_day: tuple[UsedDay, ...]
    by_editor: dict[str, int]
    other_ways: tuple[OtherWay, ...]
    slips: tuple[UsedSlip, ...]
    waits: tuple[VainWait, ...]
    long_ways: tuple[LongWay, ...]
    unused: tuple[UnusedKeys, ...]
    unknown: dict[str, int]
