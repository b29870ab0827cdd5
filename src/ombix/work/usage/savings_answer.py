"""What keys save, and could save."""

from typing import NamedTuple


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
