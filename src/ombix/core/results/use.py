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


class Range(NamedTuple):
    """A number that is known so well: the least, the usual, the most."""

    least: float
    usual: float
    most: float


class ActionSavings(NamedTuple):
    """What an action takes by the ways that it is started now, and by keys (seconds each time); how often a day; what is saved by
    its keys already, and what more could be (seconds a day); whether it deserves keys, and after how many days what was spent on
    learning them is back (None: never)."""

    action: str
    a_day: float
    keys: str
    has_keys: bool
    by: dict[str, float]
    now: Range
    by_keys: Range
    saved: Range
    could: Range
    deserves: str
    pays_after: Range | None


class SavingsReport(NamedTuple):
    """What keys save, in seconds a day. `skill` is the typist's; `working_days` a year; `assumed` says what the model leaves open.
    `by_skill`: the usual of what is saved, and of what more could be."""

    skill: str
    working_days: int
    actions: tuple[ActionSavings, ...]
    saved: Range
    could: Range
    by_skill: dict[str, tuple[float, float]]
    assumed: tuple[str, ...]


class Suggestion(NamedTuple):
    """A change for better keys: what it does, why, and the seconds a day that it saves (a range)."""

    does: str
    action: str
    before: str
    after: str
    why: tuple[str, ...]
    saves: Range


class SuggestReport(NamedTuple):
    """Better keys: the changes, the cost of the keymap before and behind them in weighted seconds a day, how far that can be from
    the least at the most (a share), how many actions and keys were considered, and the file that was written (empty: none) with
    the numbers of the changes that were taken. `strain`: finger to its share of the seconds before and behind."""

    changes: tuple[Suggestion, ...]
    before: float
    after: float
    gap: float
    considered: int
    free: int
    file: str
    taken: tuple[int, ...]
    strain: tuple[tuple[str, float, float], ...]


class FingerLoad(NamedTuple):
    """The load of a finger, a hand, a row or a modifier: its share of presses, and of the seconds."""

    name: str
    presses: float
    seconds: float


class StrainReport(NamedTuple):
    """The load a day: presses and seconds, by fingers, hands, rows and modifiers; presses by the finger that pressed the key
    before, and presses while modifiers were held on the same hand, as shares; and uses of keys that cannot be pressed here."""

    days: int
    presses: float
    seconds: float
    fingers: tuple[FingerLoad, ...]
    hands: tuple[FingerLoad, ...]
    rows: tuple[FingerLoad, ...]
    modifiers: tuple[FingerLoad, ...]
    same_finger: float
    held_by_the_same_hand: float
    unknown: int
