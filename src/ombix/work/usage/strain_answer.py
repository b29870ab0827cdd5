"""What the keys that are used load on fingers and hands."""

from typing import NamedTuple


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
