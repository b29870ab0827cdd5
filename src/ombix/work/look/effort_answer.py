"""What keys cost the hands."""

from typing import NamedTuple


class PressReport(NamedTuple):
    """One press: the key as it is printed, the finger, how far it goes (in keys) and what moves for that, and seconds: of the
    press itself, of the way, and what it saves (below 0) that the other hand's turn it is."""

    key: str
    finger: str
    distance: float
    moves: str
    press_seconds: float
    way_seconds: float
    turn_seconds: float


class KeysEffort(NamedTuple):
    """What keys cost: seconds, how many times the key under the index finger, and each press. `reason` says why they cannot be
    pressed; then there are no seconds."""

    keys: str
    shown: str
    seconds: float | None
    times: float | None
    presses: tuple[tuple[PressReport, ...], ...]
    """For each chord of the keys."""
    reason: str = ""


class EffortReport(NamedTuple):
    """Efforts, on which layout and keyboard, with which hands."""

    layout: str
    keyboard: str
    hands: str
    efforts: tuple[KeysEffort, ...]
