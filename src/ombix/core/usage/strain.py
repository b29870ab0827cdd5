"""What keys that are used load on fingers, hands, rows and modifiers."""

from collections import Counter
from collections.abc import Iterable
from typing import NamedTuple

from ombix.core.keys.keyboards import Keyboard, place_of
from ombix.core.keys.notation import Trigger
from ombix.core.pressing.effort import Effortful

_MODIFIER_PLACES = {
    "ControlLeft": "Ctrl", "ControlRight": "Ctrl", "ShiftLeft": "Shift", "ShiftRight": "Shift", "AltLeft": "Alt",
    "AltRight": "right Alt", "MetaLeft": "logo key", "MetaRight": "logo key", "Fn": "Fn",
}  # fmt: skip
_ROWS = ("function keys", "digits", "upper letters", "home", "lower letters", "bottom")
_HOME = 3
"""The row that the fingers rest on, in `_ROWS`."""


class Strain(NamedTuple):
    """Presses and seconds by finger, hand, row and modifier; presses by the finger that pressed the key before, and presses while
    the same hand holds a modifier; and how often keys were used that cannot be pressed."""

    presses: dict[str, Counter[str]]
    seconds: dict[str, Counter[str]]
    total_presses: float
    total_seconds: float
    same_finger: float
    held_by_the_same_hand: float
    unknown: int

    def share(self, kind: str, name: str) -> float:
        """The part of all seconds that a finger, hand, row or modifier has."""
        return self.seconds[kind][name] / self.total_seconds if self.total_seconds else 0.0


KINDS = ("finger", "hand", "row", "modifier")


def strain(used: Iterable[tuple[Trigger, float]], effortful: Effortful, keyboard: Keyboard) -> Strain:
    """The strain of triggers (with the main modifier and families replaced) that are used so often."""
    presses: dict[str, Counter[str]] = {kind: Counter() for kind in KINDS}
    seconds: dict[str, Counter[str]] = {kind: Counter() for kind in KINDS}
    total = time = same = held = 0.0
    unknown = 0
    for trigger, times in used:
        found = effortful.effort(trigger)
        if isinstance(found, str):
            unknown += int(times)
            continue
        before = ""
        for chord in found.chords:
            holding: set[str] = set()
            for one in chord:
                hand = one.finger.partition("-")[0]
                names = {"finger": one.finger or "mouse", "hand": hand or "mouse", "row": row_of(one.place, keyboard)}
                if one.place in _MODIFIER_PLACES and one is not chord[-1]:
                    names["modifier"] = _MODIFIER_PLACES[one.place]
                for kind, name in names.items():
                    presses[kind][name] += times  # type: ignore[assignment]
                    seconds[kind][name] += times * one.seconds  # type: ignore[assignment]
                total += times
                time += times * one.seconds
                same += times * (one.finger == before and bool(before))
                held += times * (hand in holding)
                holding |= {hand} if one.place in _MODIFIER_PLACES else set()
                before = one.finger
    return Strain(presses, seconds, total, time, same, held, unknown)


def row_of(place: str, keyboard: Keyboard) -> str:
    """The row that a key is in, counted from that which the fingers rest on."""
    if place == "mouse":
        return "mouse"
    place = place if place in keyboard.positions else keyboard.behind_fn.get(place, "Space")
    away = round(keyboard.middle(place)[1] - keyboard.middle(place_of("F"))[1])
    return _ROWS[min(max(0, _HOME + away), len(_ROWS) - 1)]
