"""Where two keymaps or editors differ."""

from typing import NamedTuple


class KeyDifference(NamedTuple):
    """In these states keys do one thing in the first, and another in the second (None: they are not bound)."""

    keys: str
    shown: str
    first: str | None
    second: str | None
    when: str
    example: dict[str, str]


class WaitingKeys(NamedTuple):
    """In these states keys do the same in both, but in one they wait for what may follow."""

    keys: str
    shown: str
    action: str
    when: str
    waits: str


class ComparisonReport(NamedTuple):
    """Two keymaps or editors, decision by decision. `same`: how many keys do the same in every state."""

    first: str
    second: str
    platform: str
    platform_title: str
    same: int
    differences: tuple[KeyDifference, ...]
    waits: tuple[WaitingKeys, ...]
