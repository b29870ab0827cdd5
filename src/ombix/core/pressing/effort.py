"""What keys cost the hands: seconds for a chord or a sequence, by which finger does what and how far it has to go.

The figures, and where they are from, stand in `data/effort.toml`. Distances are in keys, from where a finger rests: a finger that
holds a modifier far away takes its hand along. Of all ways to press a chord (the modifier on the left or on the right, another
finger where the usual one is busy) the quickest counts.
"""

import math
from collections.abc import Iterator, Mapping, Sequence
from itertools import product
from typing import Any, Literal, NamedTuple

from msgspec import Struct

from ombix.core.keys.keyboards import Keyboard, place_of
from ombix.core.keys.notation import ALT, ALTGR, CTRL, META, SHIFT, Chord, Trigger, is_mouse
from ombix.core.pressing.layouts import KeyboardSetup, PhysicalPress

Hands = Literal["both", "left", "right"]
HANDS: tuple[Hands, ...] = ("both", "left", "right")

_SIDES = ("left", "right")
_Point = tuple[float, float]
_STILL = (0.0, 0.0)
_HELD_PLACES = {
    CTRL: ("ControlLeft", "ControlRight"), SHIFT: ("ShiftLeft", "ShiftRight"), META: ("MetaLeft", "MetaRight"),
    ALT: ("AltLeft", "AltRight"), ALTGR: ("AltRight",),
}  # fmt: skip


class Rate(NamedTuple):
    """How fast a part of the arm aims (bits a second), and how far it alone is moved (keys)."""

    part: str
    bits: float
    reach: float


class EffortModel(Struct, frozen=True):
    """The figures. `press`, `homing`, `click` and `other_hand` in seconds; `fingers`: kind of finger to a factor; `keys`: place
    to the fingers that press it; `home`: finger to where it rests."""

    press: float
    homing: float
    click: float
    other_hand: float
    rates: tuple[Rate, ...]
    fingers: Mapping[str, float]
    keys: Mapping[str, tuple[str, ...]]
    home: Mapping[str, str]

    def reach(self, distance: float) -> tuple[str, float]:
        """The part of the arm that moves so far (in keys), and the seconds that it takes: Fitts's law in Shannon's form."""
        if distance <= 0:
            return "", 0.0
        rate = next((rate for rate in self.rates if distance <= rate.reach), self.rates[-1])
        return rate.part, math.log2(distance + 1) / rate.bits


class KeyPress(NamedTuple):
    """One key or button: where, by which finger, how far that goes (keys), what moves, and the seconds of the press, of the way,
    and what the other hand's turn saves (below 0)."""

    place: str
    finger: str
    distance: float
    moves: str
    press: float
    way: float
    turn: float

    @property
    def seconds(self) -> float:
        """All of them."""
        return self.press + self.way + self.turn


class Effort(NamedTuple):
    """What a trigger costs: the presses of each chord."""

    chords: tuple[tuple[KeyPress, ...], ...]

    @property
    def seconds(self) -> float:
        """The sum of all presses."""
        return sum(one.seconds for chord in self.chords for one in chord)


class _Move(NamedTuple):
    """A finger's way to a key: from where, how far (keys), what moves, and the seconds."""

    start: _Point
    way: float
    part: str
    seconds: float


class _Resting(NamedTuple):
    """Where the fingers are that do not rest at home, and whose turn it was last."""

    places: Mapping[str, str]
    hand: str = ""


def effort_model(table: Mapping[str, Any]) -> EffortModel:
    """The model from its data file's table."""
    keys: dict[str, tuple[str, ...]] = {}
    for finger, places in table["keys"].items():
        for place in places.split():
            keys[place_of(place)] = (*keys.get(place_of(place), ()), finger)
    rates = tuple(Rate(name, float(one["bits"]), float(one["reach"])) for name, one in table["rates"].items())
    operators = table["operators"]
    return EffortModel(
        float(operators["press"]), float(operators["homing"]), float(operators["click"]),
        float(table["sequences"]["other-hand"]), rates, dict(table["fingers"]), keys,
        {finger: place_of(place) for finger, place in table["home"].items()},
    )  # fmt: skip


def effortful(model: EffortModel, setup: KeyboardSetup, hands: Hands = "both") -> "Effortful":
    """Reckons what triggers cost on a keyboard; the same one again for the same keyboard, for it keeps what it reckoned."""
    known = setup.notes.get((Effortful, hands))
    if known is None or known.model is not model:
        known = setup.notes[Effortful, hands] = Effortful(model, setup, hands)
    found: Effortful = known
    return found


class Effortful:
    """Reckons what triggers cost on one keyboard, with both hands or with one."""

    def __init__(self, model: EffortModel, setup: KeyboardSetup, hands: Hands = "both") -> None:
        self.model = model
        self._setup = setup
        self._keyboard = setup.keyboard
        self._sides = _SIDES if hands == "both" else (hands,)
        self._home = _homes(model, setup.keyboard)
        self._rests = {f"{side}-thumb": places[0] for side, places in setup.keyboard.thumbs.items()}
        thumbs = {place: (f"{side}-thumb",) for side, places in setup.keyboard.thumbs.items() for place in places}
        self._keys = {**model.keys, **thumbs}
        self._press = {
            f"{side}-{kind}": model.press * factor for side in _SIDES for kind, factor in model.fingers.items()
        }
        self._side_of = {finger: finger.partition("-")[0] for finger in self._press}
        self._homes = frozenset(model.home.values())
        self._usual: dict[str, list[str]] = {}
        self._middles: dict[str, _Point] = {}
        self._moves: dict[tuple[str, str, _Point, str], _Move] = {}
        self._known: dict[Trigger, Effort | str] = {}

    @property
    def keyboard(self) -> Keyboard:
        """The keyboard that is reckoned with."""
        return self._keyboard

    @property
    def least(self) -> float:
        """Seconds for the key that an index finger rests on."""
        return self.model.press * self.model.fingers["index"]

    @property
    def one_more(self) -> float:
        """Seconds for one more press by the slowest finger, as far as it goes while the arm rests: whoever presses that besides
        what was meant may have slipped; whoever moves the arm for it has not."""
        wrist = self.model.rates[1]
        return self.model.press * max(self.model.fingers.values()) + self.model.reach(wrist.reach)[1]

    def effort(self, trigger: Trigger) -> Effort | str:
        """What a trigger costs; a sentence (a str) where it cannot be pressed. Mod and families were replaced before."""
        if trigger not in self._known:
            self._known[trigger] = self._of(trigger)
        return self._known[trigger]

    def _of(self, trigger: Trigger) -> Effort | str:
        resting = _Resting({})
        chords = []
        for chord in trigger:
            found = self._chord(chord, resting)
            if isinstance(found, str):
                return found
            presses, resting = found
            chords.append(presses)
        return Effort(tuple(chords))

    def _chord(self, chord: Chord, resting: _Resting) -> tuple[tuple[KeyPress, ...], _Resting] | str:
        if is_mouse(chord):
            return self._quickest([(self._held(chord.modifiers, False), "")], resting)
        presses = self._setup.presses(chord)
        if isinstance(presses, str):
            return presses
        return self._quickest([way for press in presses for way in self._ways(press)], resting)

    def _ways(self, press: PhysicalPress) -> Iterator[tuple[list[tuple[str, ...]], str]]:
        """The places that are held, each with what else does the same, and the key; a dead key before it is a key of its own."""
        base = self._keyboard.behind_fn.get
        if press.first is not None:
            held = self._held(press.first.held, press.fn)
            yield [*held, (press.first.place,), *self._held(press.stroke.held, False)], press.stroke.place
            return
        place = press.stroke.place
        yield self._held(press.stroke.held, press.fn), base(place, place) if press.fn else place

    def _held(self, modifiers: int, fn: bool) -> list[tuple[str, ...]]:
        has_altgr = self._setup.layout.has_altgr
        found = []
        for bit, places in _HELD_PLACES.items():
            if modifiers & bit:
                usable = places[:1] if bit == ALT and has_altgr else places
                found.append(tuple(one for one in usable if one in self._keyboard.positions) or places[:1])
        return [*found, ("Fn",)] if fn and "Fn" in self._keyboard.positions else found

    def _quickest(
        self, ways: Sequence[tuple[list[tuple[str, ...]], str]], resting: _Resting
    ) -> tuple[tuple[KeyPress, ...], _Resting]:
        best: tuple[tuple[KeyPress, ...], _Resting] | None = None
        for held, key in ways:
            for places in product(*held):
                found = self._pressed((*places, *([key] if key else [])), not key, resting)
                if best is None or _seconds(found[0]) < _seconds(best[0]):
                    best = found
        assert best is not None
        return best

    def _pressed(
        self, places: Sequence[str], by_mouse: bool, resting: _Resting
    ) -> tuple[tuple[KeyPress, ...], _Resting]:
        """Keys held one after the other, the last one pressed, or a mouse button; and where the fingers are then."""
        model, hand = self.model, resting.hand
        moved = dict.fromkeys(_SIDES, _STILL)
        busy: dict[str, str] = {}
        found = []
        for place in places:
            finger, move = self._quickest_finger(place, busy, moved, resting)
            side = self._side_of[finger]
            if len(places) > 1 and place not in self._homes:
                moved[side] = _taken_along(moved[side], move.start, self._at(place), model.rates[0])
            turn = model.other_hand if hand and hand != side else 0.0
            found.append(KeyPress(place, finger, move.way, move.part, self._press[finger], move.seconds, turn))
            busy[finger] = place
            hand = side
        if by_mouse:
            found.append(KeyPress("mouse", "", 0.0, "hand", model.click, model.homing, 0.0))
        return tuple(found), _Resting(busy, hand)

    def _quickest_finger(
        self, place: str, busy: Mapping[str, str], moved: Mapping[str, _Point], resting: _Resting
    ) -> tuple[str, _Move]:
        fingers = self._fingers(place, busy)
        if len(fingers) == 1:
            return fingers[0], self._move(fingers[0], place, moved, resting)
        moves = {finger: self._move(finger, place, moved, resting) for finger in fingers}
        quickest = min(fingers, key=lambda one: (moves[one].seconds + self._press[one], one))
        return quickest, moves[quickest]

    def _fingers(self, place: str, busy: Mapping[str, str]) -> list[str]:
        """The fingers that may press a key, while others are busy."""
        usual = self._usual.get(place)
        if usual is None:
            usual = [one for one in self._keys.get(place, ()) if self._side_of[one] in self._sides]
            if not usual and place not in self._keys and len(self._sides) == 2:
                usual = [f"{self._side(place)}-middle"]
            self._usual[place] = usual
        free = [one for one in usual if one not in busy] if busy else usual
        if free:
            return free
        sides = {self._side_of[one] for one in usual} or self._sides
        hand = [f"{side}-{kind}" for side in sides for kind in self.model.fingers if kind != "thumb"]
        return [one for one in hand if one not in busy] or hand

    def _side(self, place: str) -> str:
        """The side of the keyboard that a key is on."""
        left, right = self._home["left-index"], self._home["right-index"]
        return "left" if self._at(place)[0] < (left[0] + right[0]) / 2 else "right"

    def _move(self, finger: str, place: str, moved: Mapping[str, _Point], resting: _Resting) -> _Move:
        """How a finger gets to a key from where it is, with the hand moved so far."""
        along, rested = moved[self._side_of[finger]], resting.places.get(finger, "")
        key = finger, place, along, rested
        known = self._moves.get(key)
        if known is None:
            x, y = self._home[finger]
            start = self._at(rested) if rested else (x + along[0], y + along[1])
            stays = (
                finger.endswith("thumb") and not rested and place == self._rests.get(finger, self.model.home[finger])
            )
            way = 0.0 if stays else math.dist(start, self._at(place))
            known = self._moves[key] = _Move(start, way, *self.model.reach(way))
        return known

    def _at(self, place: str) -> _Point:
        known = self._middles.get(place)
        if known is None:
            own = place if place in self._keyboard.positions else self._keyboard.behind_fn.get(place, "Space")
            known = self._middles[place] = self._keyboard.middle(own)
        return known


def _homes(model: EffortModel, keyboard: Keyboard) -> dict[str, _Point]:
    """Where each finger rests; a thumb in its half of the space bar."""
    found = {}
    for finger, place in model.home.items():
        side, _, kind = finger.partition("-")
        own = keyboard.thumbs.get(side, (place,))[0] if kind == "thumb" else place
        x, y = keyboard.middle(own)
        width = keyboard.positions[own].width
        if kind == "thumb" and width > 1:
            x += width / 4 if side == "right" else -width / 4
        found[finger] = x, y
    return found


def _taken_along(before: _Point, start: _Point, goal: _Point, finger: Rate) -> _Point:
    """How far a hand has moved once one of its fingers went from one place to another, and farther than it alone reaches."""
    distance = math.dist(start, goal)
    if distance <= finger.reach:
        return before
    share = 1 - finger.reach / distance
    return before[0] + (goal[0] - start[0]) * share, before[1] + (goal[1] - start[1]) * share


def _seconds(presses: Sequence[KeyPress]) -> float:
    return sum(press.seconds for press in presses)
