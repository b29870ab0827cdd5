"""Where two keymaps or editors differ."""

from collections.abc import Mapping
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


class AlikeKeys(NamedTuple):
    """In these states keys do the same in both."""

    keys: str
    shown: str
    does: str
    when: str


class ComparisonReport(NamedTuple):
    """Two keymaps or editors, decision by decision, in the states of the condition `within` (empty: in all). `same`: how many keys
    do the same in some of these states, and `alike` which, and in which of them."""

    first: str
    second: str
    platform: str
    platform_title: str
    same: int
    differences: tuple[KeyDifference, ...]
    waits: tuple[WaitingKeys, ...]
    within: str = ""
    alike: tuple[AlikeKeys, ...] = ()
    titles: Mapping[str, str] = {}
    """What people call the actions and macros that are named in it."""
