"""Keyboard layouts: which physical press gives which character, and how a chord is pressed on one.

A layout gives each place of the keyboard (a W3C UI Events `code` value, without brackets) up to four or more levels:
alone, with Shift, with AltGr, with both. A level is a character, an X11 keysym name like `dead_acute` for what is not a
character, or an empty text. Where AltGr stands for other modifiers (Control and Alt, or Option), the platform says so.
"""

import unicodedata
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import cached_property
from typing import Any, NamedTuple

from msgspec import Struct
from msgspec.structs import replace

from ombix.core.keymap.bindings import Binding
from ombix.core.keys.keyboards import Keyboard
from ombix.core.keys.notation import (
    ALT,
    ALTGR,
    CTRL,
    META,
    MODIFIERS,
    NAMED_KEYS,
    PLACES,
    SHIFT,
    Chord,
    Trigger,
    is_mouse,
    is_place,
    is_tap,
    write_chord,
)
from ombix.core.keys.platforms import Platform

LEVELS = (0, SHIFT, ALTGR, SHIFT | ALTGR)
"""The modifiers that choose each level; levels beyond the fourth have no modifier of their own here."""

DEAD_MARKS: dict[str, tuple[str, str]] = {
    "dead_grave": ("`", "\u0300"), "dead_acute": ("´", "\u0301"), "dead_circumflex": ("^", "\u0302"),
    "dead_tilde": ("~", "\u0303"), "dead_macron": ("¯", "\u0304"), "dead_breve": ("˘", "\u0306"),
    "dead_abovedot": ("˙", "\u0307"), "dead_diaeresis": ("¨", "\u0308"), "dead_abovering": ("°", "\u030a"),
    "dead_doubleacute": ("˝", "\u030b"), "dead_caron": ("ˇ", "\u030c"), "dead_belowdot": ("", "\u0323"),
    "dead_cedilla": ("¸", "\u0327"), "dead_ogonek": ("˛", "\u0328"), "dead_hook": ("", "\u0309"),
    "dead_horn": ("", "\u031b"), "dead_belowcomma": ("", "\u0326"), "dead_belowmacron": ("", "\u0331"),
}  # fmt: skip
"""Dead key to the character that it gives before the space bar, and to its combining character.

Source: the Compose file of libX11 for UTF-8, and the Unicode Standard's combining diacritical marks.
"""

_NAMED_PLACES = {
    "Enter": ("Enter", "NumpadEnter"), "Alt": ("AltLeft", "AltRight"), "Shift": ("ShiftLeft", "ShiftRight"),
    "Ctrl": ("ControlLeft", "ControlRight"), "Meta": ("MetaLeft", "MetaRight"), "AltGr": ("AltRight",),
}  # fmt: skip
_KEYPAD_CHARACTERS = {
    **{str(digit): f"Numpad{digit}" for digit in range(10)},
    "+": "NumpadAdd", "-": "NumpadSubtract", "*": "NumpadMultiply", "/": "NumpadDivide",
}  # fmt: skip
_ARROWS = {"ArrowUp": "↑", "ArrowDown": "↓", "ArrowLeft": "←", "ArrowRight": "→"}
"""What is printed on the keys that others are behind."""
_KEYPAD_SIGNS = {place: sign for sign, place in _KEYPAD_CHARACTERS.items()} | {"NumpadDecimal": "the point"}

_LATIN_PLACES: dict[str, tuple[str, int]] = {
    **{letter: (f"Key{letter.upper()}", 0) for letter in "abcdefghijklmnopqrstuvwxyz"},
    **{str(digit): (f"Digit{digit}", 0) for digit in range(10)},
    **{char: (place, level) for place, pair in {
        "Backquote": "`~", "Minus": "-_", "Equal": "=+", "BracketLeft": "[{", "BracketRight": "]}", "Backslash": "\\|",
        "Semicolon": ";:", "Quote": "'\"", "Comma": ",<", "Period": ".>", "Slash": "/?",
    }.items() for level, char in enumerate(pair)},
}  # fmt: skip
"""Character to the place and level that a layout of another script lends it: UI Events names each place by what it
has on a US keyboard."""


class Stroke(NamedTuple):
    """One key going down at a place, with these modifiers held (a sum of CTRL, SHIFT, …)."""

    place: str
    held: int


class PhysicalPress(NamedTuple):
    """A physical press that produces a chord.

    `first` is a dead key to strike before; `is_dead`: the key is a dead key itself, so that programs see the dead key and
    not the character; `is_borrowed`: the layout has no such letter, and the key is taken by its Latin place, as
    platforms do; `third`: a third level is chosen with AltGr; `fn`: the key is behind Fn.
    """

    stroke: Stroke
    first: Stroke | None = None
    is_dead: bool = False
    is_borrowed: bool = False
    third: bool = False
    fn: bool = False


class Layout(Struct, frozen=True, dict=True):
    """A keyboard layout. `keys` has the levels of each place that writes; see the module."""

    name: str
    title: str
    keys: dict[str, tuple[str, ...]]
    has_altgr: bool
    shape: str = "ansi"
    source: str = ""
    printed: dict[str, str] = {}
    """Place to what is printed on its key, where that is a word of the layout's country."""
    knows_third_level: bool = True
    """Whether it is known what is on the levels beyond the second; where it is not, none is given."""

    @cached_property
    def levels_of(self) -> dict[str, list[tuple[str, int]]]:
        """Character or dead key to the places and levels (from 0) that have it."""
        found: dict[str, list[tuple[str, int]]] = {}
        reachable = 4 if self.has_altgr else 2
        for place, levels in self.keys.items():
            for level, symbol in enumerate(levels[:reachable]):
                if symbol:
                    found.setdefault(symbol, []).append((place, level))
        return found

    @cached_property
    def is_latin(self) -> bool:
        """Whether the basic Latin letters are on it."""
        return all(letter in self.levels_of for letter in "aeiou")

    def with_third_level(self, levels: Mapping[str, Sequence[str]] | None) -> "Layout":
        """The layout with other third and fourth levels, by place (None: it is not known what they are)."""
        places = {place: (*self.keys.get(place, ("", ""))[:2], *(levels or {}).get(place, ())) for place in self.keys}
        has_altgr = self.has_altgr if levels is None else any(levels.values())
        return replace(self, keys=places, has_altgr=has_altgr, knows_third_level=levels is not None)

    def symbol(self, stroke: Stroke) -> str:
        """What is at a place with these of SHIFT and ALTGR held; the other modifiers choose no level."""
        levels = self.keys.get(stroke.place, ())
        held = stroke.held & (SHIFT | ALTGR) if self.has_altgr else stroke.held & SHIFT
        index = LEVELS.index(held)
        return levels[index] if index < len(levels) else (levels[-1] if levels and not index & 2 else "")


class NotKnown(str):
    """A sentence on why it is not known here whether keys can be pressed; they may well be."""

    __slots__ = ()


class KeyboardSetup:
    """What is under the hands: a layout on a keyboard, with what the platform makes of it."""

    def __init__(self, layout: Layout, keyboard: Keyboard, platform: Platform) -> None:
        self.layout = layout
        self.keyboard = keyboard
        self.platform = platform
        self._presses: dict[Chord, list[PhysicalPress] | str] = {}
        self.notes: dict[object, Any] = {}
        """What was worked out for it, and is asked for again."""

    def presses(self, chord: Chord) -> list[PhysicalPress] | str:
        """Every press that produces a chord, the easiest first; or a sentence (a str) on why there is none, or why that
        is `NotKnown`.

        Mod has been replaced by the platform's modifier before. A click or a wheel is no key: it has no press.
        """
        found = self._presses.get(chord)
        if found is None:
            found = self._presses[chord] = _presses(chord, self.layout, self.keyboard, self.platform)
        return found

    def press_sequence(self, trigger: Trigger) -> list[PhysicalPress] | str:
        """The easiest press for each chord of a trigger, or a sentence (a str) on why there is none."""
        result = []
        for chord in trigger:
            found = self.presses(chord)
            if isinstance(found, str):
                return found
            result.append(found[0])
        return result

    def strokes(self, chord: Chord) -> list[Stroke]:
        """The single strokes that produce a chord, without those that need a dead key before them."""
        found = self.presses(chord)
        return [] if isinstance(found, str) else [press.stroke for press in found if press.first is None]

    def swallowed(self, chord: Chord) -> str:
        """What the strokes of a chord type with the third level, which is not the chord's own character; empty where nothing."""
        found = next((text for stroke in self.strokes(chord) if (text := self._third_level(stroke))), "")
        return "" if found == chord.key else found

    def _third_level(self, stroke: Stroke) -> str:
        if not self.layout.has_altgr or stroke.held & ~SHIFT != self.platform.third_level:
            return ""
        symbol = self.layout.symbol(Stroke(stroke.place, ALTGR | stroke.held & SHIFT))
        if symbol in DEAD_MARKS:
            return DEAD_MARKS[symbol][0] or symbol.removeprefix("dead_")
        levels = self.layout.keys.get(stroke.place, ())
        return symbol if len(symbol) == 1 and symbol not in levels[:2] else ""

    def typed(self, chord: Chord) -> Chord:
        """The chord by the character that its easiest stroke gives on this layout, where that is another way to say it:
        a place, or Shift beside a sign. Other chords, and those that cannot be pressed, stand for themselves."""
        if not is_place(chord) and not (chord.modifiers & SHIFT and _is_sign(chord.key)):
            return chord
        strokes = self.strokes(chord)
        if not strokes:
            return chord
        same = as_typed(strokes[0], self.layout)
        if len(same.key) == 1 or same.key in NAMED_KEYS:
            return same
        return chord

    def typed_all(self, trigger: Trigger) -> Trigger:
        """`typed` for each chord of a trigger."""
        for modifiers, key in trigger:
            if (modifiers & SHIFT and len(key) == 1) or key[0] == "[":
                return tuple(self.typed(chord) for chord in trigger)
        return trigger

    def is_plain(self, trigger: Trigger) -> bool:
        """Whether a trigger is pressed just as it reads: each key by what is printed on it, with the modifiers named."""
        found = self.press_sequence(trigger)
        if isinstance(found, str):
            return False
        for press, (modifiers, key) in zip(found, trigger, strict=True):
            if press.first is not None or press.fn or press.is_dead or press.third:
                return False
            if is_tap(Chord(modifiers, key)):
                continue
            name = self.printed(press.stroke.place)
            shown = key.upper() if len(key) == 1 and len(key.upper()) == 1 else key
            same = press.is_borrowed or name in (key, shown, self.platform.key_symbols.get(key))
            if not same or press.stroke.held != _held(modifiers, self.platform):
                return False
        return True

    def show(self, trigger: Trigger) -> str:
        """How to press a trigger, as its user reads it from the keys; a sentence where that is impossible."""
        found = self.press_sequence(trigger)
        return found if isinstance(found, str) else " ".join(self.show_press(press) for press in found)

    def show_press(self, press: PhysicalPress) -> str:
        """A press as its user reads it from the keys: what is printed on them, joined by plus signs."""
        text = self._show_stroke(press.stroke, press)
        return (
            f"{self._show_stroke(press.first, PhysicalPress(press.first))}, then {text}"
            if press.first is not None
            else text
        )

    def _show_stroke(self, stroke: Stroke, press: PhysicalPress) -> str:
        platform, keyboard = self.platform, self.keyboard
        # On a Mac the third level is chosen with Option, which is Alt: there is no key AltGr to name.
        altgr = bool(press.third or stroke.held & ALTGR) and platform.third_level != ALT
        held = stroke.held & ~platform.third_level if altgr else stroke.held
        words = [
            keyboard.printed.get(modifier) or self._legend(modifier)
            for modifier in platform.order
            if held & MODIFIERS[modifier]
        ]
        words += ["AltGr"] if altgr else []
        words += ["Fn"] if press.fn and stroke.place in keyboard.behind_fn else []
        place = keyboard.behind_fn.get(stroke.place, stroke.place) if press.fn else stroke.place
        # Keyboards of another script have the Latin letters printed beside their own.
        if press.fn and place in _ARROWS:
            return "+".join([*words, _ARROWS[place]])
        return "+".join([*words, place.removeprefix("Key") if press.is_borrowed else self.printed(place)])

    def _legend(self, modifier: str) -> str:
        """What a modifier's key is called: in the country of the layout, but on a Mac, where it has a sign."""
        usual = self.platform.names.get(modifier, modifier)
        return usual if self.platform.symbols else self.layout.printed.get(modifier, usual)

    def printed(self, place: str) -> str:
        """What is printed on the key at a place: its character on the layout, or its name on the keyboard."""
        if place in self.keyboard.printed:
            return self.keyboard.printed[place]
        if place in self.layout.printed:
            return self.layout.printed[place]
        levels = self.layout.keys.get(place)
        if place.startswith("Numpad"):
            return f"{_KEYPAD_SIGNS.get(place, place.removeprefix('Numpad'))} on the numeric pad"
        if levels and place != "Space":
            symbol = levels[0]
            if symbol in DEAD_MARKS:
                return DEAD_MARKS[symbol][0] or symbol.removeprefix("dead_")
            if symbol:
                return levels[1] if len(levels) > 1 and levels[1] == symbol.upper() else symbol
        side = next((side for side in ("Left", "Right") if place.endswith(side)), "")
        if side and place[:3] in ("Alt", "Shi", "Con", "Met"):
            return self._legend({"Con": "Ctrl"}.get(place[:3], place.removesuffix(side)))
        return place


def as_pressed(bindings: Iterable[Binding], setup: KeyboardSetup) -> list[Binding]:
    """The bindings with what a setup's layout has at a place, or with Shift, in place of the place: keys that are the same
    press have the same trigger, so that one decision is made for them."""
    return [
        binding if trigger is binding.trigger else replace(binding, trigger=trigger, as_written=binding.keys)
        for binding in bindings
        for trigger in (setup.typed_all(binding.trigger),)
    ]


def _has_capital(key: str) -> bool:
    """Whether the key is a small letter with a capital of its own."""
    return key.upper() != key and key.upper().lower() == key


def _is_sign(key: str) -> bool:
    """Whether the key is a character without upper and lower case."""
    return len(key) == 1 and key.upper() == key.lower()


def _presses(chord: Chord, layout: Layout, keyboard: Keyboard, platform: Platform) -> list[PhysicalPress] | str:
    modifiers, key = chord
    name = write_chord(chord)
    if is_mouse(chord):
        return f"{name} is done with the mouse"
    if modifiers & ALTGR and not layout.has_altgr:
        return f"the layout {layout.title} has no AltGr"
    held = _held(modifiers, platform)
    if is_tap(chord):
        found = [PhysicalPress(Stroke(place, held)) for place in _NAMED_PLACES[key]]
    elif is_place(chord):
        found = [PhysicalPress(Stroke(key[1:-1], held))]
    elif len(key) == 1:
        found = list(_character_presses(chord, held, layout, platform))
        if not found:
            if key in layout.levels_of and _is_swallowed(modifiers, platform):
                third = "+".join(word for word, bit in MODIFIERS.items() if platform.third_level & bit)
                return (
                    f"on {platform.title} {third} chooses {key} on the layout {layout.title}, so {name} only types it"
                )
            if not layout.knows_third_level:
                return NotKnown(
                    f"what the layout {layout.title} has on its third level on {platform.title} is not known"
                )
            return f"the layout {layout.title} has no {key}"
    else:
        places = _NAMED_PLACES.get(key, (key,))
        if not any(place in PLACES for place in places):
            return f"no keyboard has a key {key}"
        found = [PhysicalPress(Stroke(place, held)) for place in places]
    there = [on for press in found if (on := _on_keyboard(press, keyboard)) is not None]
    if not there:
        where = f"the place {found[0].stroke.place}" if len(key) == 1 or is_place(chord) else f"the key {key}"
        return f"a keyboard of the kind {keyboard.title} does not have {where}"
    return sorted(dict.fromkeys(there), key=_effort)


def as_typed(stroke: Stroke, layout: Layout, keep_shift: bool = False) -> Chord:
    """A stroke as a terminal takes it: the character at its level, and the modifiers that did not choose the level; with
    `keep_shift` Shift is kept all the same, as some terminals do.

    What is not a character (a dead key, an empty level) is returned under its keysym's name, or as an empty key.
    """
    held = stroke.held & ~ALTGR if layout.has_altgr else stroke.held
    if stroke.place not in layout.keys or stroke.place == "Space":
        return Chord(held, stroke.place)
    held = held if keep_shift else held & ~SHIFT
    symbol = layout.symbol(stroke)
    if len(symbol) == 1 and _has_capital(symbol.lower()) and symbol.lower().upper() == symbol:
        return Chord(held | SHIFT, symbol.lower())
    return Chord(held, symbol)


def _held(modifiers: int, platform: Platform) -> int:
    """The modifiers that are held, AltGr being what it is on the platform."""
    return modifiers & ~ALTGR | platform.third_level if modifiers & ALTGR else modifiers


def _character_presses(chord: Chord, held: int, layout: Layout, platform: Platform) -> Iterator[PhysicalPress]:
    modifiers, key = chord
    upper = key.upper() if _has_capital(key) else ""
    for place, level in layout.levels_of.get(key, ()):
        if level & 1 and modifiers & SHIFT and upper:
            continue
        if level & 2 and (modifiers & ALTGR or _is_swallowed(modifiers, platform)):
            continue
        if modifiers & SHIFT and upper and layout.symbol(Stroke(place, LEVELS[level] | SHIFT)) not in (upper, ""):
            continue
        yield _level_press(place, level, held, platform)
    if modifiers & SHIFT and upper:
        for place, level in layout.levels_of.get(upper, ()):
            if not (level & 2 and (modifiers & ALTGR or _is_swallowed(modifiers, platform))):
                yield _level_press(place, level, held & ~SHIFT, platform)
    if not modifiers & SHIFT and key in _KEYPAD_CHARACTERS:
        yield PhysicalPress(Stroke(_KEYPAD_CHARACTERS[key], held))
    if modifiers & (CTRL | ALT | META):
        for dead, (spacing, _mark) in DEAD_MARKS.items():
            if spacing == key:
                for place, level in layout.levels_of.get(dead, ()):
                    yield _level_press(place, level, held, platform)._replace(is_dead=True)
        if not layout.is_latin and key in _LATIN_PLACES and key not in layout.levels_of:
            place, level = _LATIN_PLACES[key]
            yield _level_press(place, level, held, platform)._replace(is_borrowed=True)
    else:
        yield from _composed(upper if modifiers & SHIFT and upper else key, layout, platform)


def _is_swallowed(modifiers: int, platform: Platform) -> bool:
    """Whether the modifiers go into choosing the third level, so that they are not seen beside its character."""
    return platform.third_level != ALTGR and bool(modifiers & platform.third_level)


def _level_press(place: str, level: int, held: int, platform: Platform) -> PhysicalPress:
    chosen = _held(LEVELS[level], platform)
    return PhysicalPress(Stroke(place, held | chosen), third=bool(level & 2))


def _composed(character: str, layout: Layout, platform: Platform) -> Iterator[PhysicalPress]:
    """A character of a dead key and its base, or of a dead key and the space bar."""
    parts = unicodedata.normalize("NFD", character)
    for dead, (spacing, mark) in DEAD_MARKS.items():
        base = " " if character == spacing else parts[0] if len(parts) == 2 and parts[1] == mark else ""
        if not base or dead not in layout.levels_of:
            continue
        dead_place, dead_level = layout.levels_of[dead][0]
        first = Stroke(dead_place, _held(LEVELS[dead_level], platform))
        for place, level in [("Space", 0)] if base == " " else layout.levels_of.get(base, [])[:1]:
            yield PhysicalPress(Stroke(place, _held(LEVELS[level], platform)), first)


def _on_keyboard(press: PhysicalPress, keyboard: Keyboard) -> PhysicalPress | None:
    """The press on a keyboard, where it has the keys; with Fn, where that is needed."""
    fn = False
    for stroke in (press.stroke, press.first):
        if stroke is not None and stroke.place in keyboard.behind_fn:
            fn = True
        elif stroke is not None and stroke.place not in keyboard.positions:
            return None
    return press._replace(fn=fn)


def _effort(press: PhysicalPress) -> tuple[bool, bool, bool, bool, bool, int, int]:
    place = press.stroke.place
    return (
        press.is_borrowed, press.is_dead, press.first is not None, press.fn, place.startswith("Numpad"),
        press.stroke.held.bit_count(), PLACES.index(place) if place in PLACES else len(PLACES),
    )  # fmt: skip
