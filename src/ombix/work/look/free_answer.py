"""Which keys are free."""

from typing import NamedTuple


class Displaced(NamedTuple):
    """An editor's default that keys would take the place of."""

    editor: str
    does: str


class FreeKeysRow(NamedTuple):
    """Keys that are free: what pressing costs (seconds), what else speaks for them, and the defaults that they displace."""

    keys: str
    shown: str
    seconds: float
    reasons: tuple[str, ...]
    displaces: tuple[Displaced, ...]


class TakenOn(NamedTuple):
    """Why keys are not free on a platform."""

    platform: str
    reason: str


class FreeReport(NamedTuple):
    """Free keys, the best first, for an action (empty: for none), and what was looked at. `in_all` is how many there are in all.

    Where keys were asked for by name, `asked` has them, and `taken` why they are not free."""

    action: str
    title: str
    where: str
    platforms: tuple[str, ...]
    layouts: tuple[str, ...]
    editors: tuple[str, ...]
    in_all: int
    keys: tuple[FreeKeysRow, ...]
    asked: str = ""
    taken: tuple[TakenOn, ...] = ()
