"""Which keys would be better."""

from typing import NamedTuple

from ombix.work.usage.savings_answer import Range


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
