"""Terminals: which bytes a chord arrives as in a program that runs in one, or why it does not arrive."""

from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property
from itertools import product
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from ombix.core.keymap.bindings import Binding
from ombix.core.keys.notation import (
    ALT,
    ALTGR,
    CTRL,
    META,
    SHIFT,
    Chord,
    Trigger,
    is_mouse,
    is_place,
    is_tap,
    parse,
    write_chord,
)
from ombix.core.keys.platforms import Platform

CONTROL_CODES = {"Enter": 13, "Tab": 9, "Space": 32, "Backspace": 127, "Escape": 27}
"""Keys whose own code stands in the forms that number the key (XTerm Control Sequences, modifyOtherKeys)."""


class Terminal(Struct, frozen=True, dict=True):
    """What a terminal sends. `plain` and `modified` are by key; `chords` go before both; `same` names stand-ins.

    `control` has what Ctrl makes of a sign; `other` the form in which a terminal numbers what has no code, with `{c}` for
    the code and `{m}` for the modifiers, up to the code `other_most`, beyond which nothing is sent; `takes` what the
    terminal itself does with a chord. `escape_ms` is how long programs commonly wait behind an Escape, to tell Alt from
    the Escape key, in milliseconds. `direct`: it is none, but a window of the editor's own, where every chord arrives as
    itself.
    """

    name: str
    title: str
    plain: dict[str, str]
    modified: dict[str, str]
    chords: dict[Chord, str] = {}
    same: dict[str, Chord] = {}
    control: dict[str, str] = {}
    other: str = ""
    other_most: int = 0x10FFFF
    takes: dict[Chord, str] = {}
    escape_ms: int = 0
    direct: bool = False
    _by_bytes: dict[bytes, Chord] = {}
    _standing: dict[Chord, Chord] = {}

    def send(self, trigger: Trigger) -> bytes | str:
        """The bytes that the trigger arrives as, or a sentence on why it cannot be sent (a str)."""
        sent = b""
        for chord in trigger:
            one = self.send_chord(chord)
            if isinstance(one, str):
                return one
            sent += b" " + one if self.direct and sent else one
        return sent

    def send_chord(self, chord: Chord) -> bytes | str:
        """Like `send`, for one chord. What arrives as a character that is typed without modifiers is not sent."""
        modifiers, key = chord
        name = write_chord(chord)
        if self.direct:
            return name.encode()
        if modifiers & META:
            return f"a terminal does not send {name}: it has no code for this modifier"
        sent = self.arrives(chord)
        if isinstance(sent, bytes) and modifiers & CTRL and len(key) == 1:
            rest = sent.removeprefix(b"\x1b") if modifiers & ALT else sent
            if rest == self._typed(key, modifiers):
                return f"a terminal has no code for {name}: it arrives as {rest.decode()}"
        return sent

    def arrives(self, chord: Chord) -> bytes | str:
        """The exact bytes that the program receives, whatever they are taken for; or why none (a str).

        Shift and AltGr beside a sign choose another one, which depends on the layout: see `layouts.as_typed`.
        """
        modifiers, key = chord
        name = write_chord(chord)
        if is_mouse(chord):
            return f"{name} reaches a terminal program only as a mouse report"
        if is_tap(chord):
            return f"a terminal does not tell that {name} was pressed alone"
        if is_place(chord):
            return f"a terminal does not tell which place was pressed for {name}"
        if modifiers & ALTGR:
            return f"a terminal does not send {name}: it has no code for this modifier"
        if modifiers & META:  # left out
            return self.arrives(Chord(modifiers & ~META, key))
        if key in self.same and not modifiers:
            return self.arrives(self.same[key])
        if chord in self.takes:
            return f"{name} does not get out of this terminal: it {self.takes[chord]}"
        if chord in self.chords:
            return self.chords[chord].encode()
        if self.other and modifiers and (len(key) == 1 or key in CONTROL_CODES):
            return self._numbered(modifiers, key)
        if key in self.modified and modifiers:
            return self.modified[key].replace("{m}", str(_modifier_number(modifiers))).encode()
        if modifiers & ALT:
            rest = self.arrives(Chord(modifiers & ~ALT, key))
            return rest if isinstance(rest, str) else b"\x1b" + rest
        if key in self.plain:  # the other modifiers are lost
            return self.plain[key].encode()
        if len(key) != 1:
            return f"a terminal has no code for {name}"
        if modifiers & CTRL:
            if "a" <= key <= "z":  # ECMA-48 has 32 control codes: Shift is lost beside Ctrl and a letter
                return bytes([ord(key) & 0x1F])
            if key in self.control:
                return self.control[key].encode()
        return self._typed(key, modifiers)

    def standing(self) -> Mapping[bytes, Chord]:
        """Bytes to the chord that stands for all those which arrive as them: the canonical one, where it is one chord."""
        return self._stands

    @cached_property
    def _stands(self) -> dict[bytes, Chord]:
        found = {}
        for sent, chords in self._classes.items():
            stands = self._canonical(chords[0])
            found[sent] = stands if self.send_chord(stands) == sent else chords[0]
        return found

    def alike(self, chord: Chord) -> Sequence[Chord]:
        """All chords on characters of ASCII and on named keys that arrive as a chord does; that alone where none are known."""
        sent = self.send_chord(chord)
        return self._classes.get(sent, (chord,)) if isinstance(sent, bytes) else (chord,)

    @cached_property
    def _classes(self) -> dict[bytes, list[Chord]]:
        """Bytes to the chords that arrive as them."""
        found: dict[bytes, list[Chord]] = {}
        signs = [chr(code) for code in range(0x21, 0x7F) if not chr(code).isupper()]
        held = sorted((sum(bits) for bits in product((0, SHIFT), (0, ALT), (0, CTRL))), key=int.bit_count)
        for modifiers in held:
            for key in (*self.plain, *self.modified, *self.same, *signs):
                chord = Chord(modifiers, key)
                if modifiers & SHIFT and len(key) == 1 and not key.isalpha():
                    continue  # another sign, by the layout
                sent = self.send_chord(chord)
                if isinstance(sent, bytes) and chord not in found.get(sent, ()):
                    found.setdefault(sent, []).append(chord)
        return found

    def _typed(self, key: str, modifiers: int) -> bytes:
        return (key.upper() if modifiers & SHIFT else key).encode()

    def _numbered(self, modifiers: int, key: str) -> bytes | str:
        symbol = key.upper() if modifiers & SHIFT and key.upper().lower() == key else key
        code = CONTROL_CODES.get(key) or ord(symbol[0])
        if modifiers == SHIFT and len(key) == 1 and not 0x40 <= code < 0x80:
            return symbol.encode()  # Shift alone is numbered only beside what could be a control code
        if code > self.other_most:
            return f"this terminal does not number {key}"
        return self.other.replace("{c}", str(code)).replace("{m}", str(_modifier_number(modifiers))).encode()

    def canonical(self, trigger: Trigger) -> Trigger:
        """The trigger that stands for all those which arrive as the same bytes; others stand for themselves."""
        return tuple(self._canonical(chord) for chord in trigger)

    def _canonical(self, chord: Chord) -> Chord:
        known = self._standing.get(chord)
        if known is None:
            if self.direct:
                return chord
            modifiers, _key = chord
            sent = self.send_chord(chord)
            if isinstance(sent, str):
                known = chord
            elif sent in self._by_bytes:
                known = self._by_bytes[sent]
            elif modifiers & ALT and sent.startswith(b"\x1b") and sent[1:] in self._by_bytes:
                inner = self._by_bytes[sent[1:]]
                known = Chord(inner.modifiers | ALT, inner.key)
            else:
                known = chord
            self._standing[chord] = known
        return known

    def __post_init__(self) -> None:
        plain = [Chord(0, key) for key in self.plain]
        letters = [Chord(CTRL, chr(code)) for code in range(ord("a"), ord("z") + 1)]
        modified = [Chord(SHIFT, key) for key in self.modified]
        signs = [Chord(CTRL, key) for key in self.control]
        for chord in (*plain, *letters, *modified, *self.chords, *signs):
            sent = self.send_chord(chord)
            if isinstance(sent, bytes):
                self._by_bytes.setdefault(sent, chord)


def _modifier_number(modifiers: int) -> int:
    """1 plus 1 for Shift, 2 for Alt, 4 for Ctrl (XTerm Control Sequences, PC-Style Function Keys)."""
    return 1 + (1 if modifiers & SHIFT else 0) + (2 if modifiers & ALT else 0) + (4 if modifiers & CTRL else 0)


def terminal(name: str, table: dict[str, Any]) -> Terminal:
    """A terminal from its data file's table."""
    return Terminal(
        name=name,
        title=str(table["title"]),
        plain=dict(table["plain"]),
        modified=dict(table["modified"]),
        chords={parse(text)[0]: sent for text, sent in table.get("chords", {}).items()},
        same={key: parse(text)[0] for key, text in table.get("same", {}).items()},
        control=dict(table.get("control", {})),
        other=str(table.get("other", "")),
        other_most=int(table.get("other-most", 0x10FFFF)),
        takes={parse(text)[0]: does for text, does in table.get("takes", {}).items()},
        escape_ms=int(table.get("escape-ms", 0)),
        direct=bool(table.get("direct", False)),
    )


def in_terminal(platform: Platform, terminal: Terminal) -> Platform:
    """The platform as an editor in a terminal has it: where no terminal sends the main modifier, Mod is Ctrl there."""
    if terminal.direct or not platform.main_modifier & META:
        return platform
    return platform._replace(main_modifier=CTRL)


def as_arriving(bindings: Iterable[Binding], terminal: Terminal) -> list[Binding]:
    """The bindings as a program in a terminal tells them apart: chords that arrive alike are one chord."""
    found = []
    for binding in bindings:
        trigger = terminal.canonical(binding.trigger)
        found.append(binding if trigger == binding.trigger else replace(binding, trigger=trigger))
    return found
