"""Terminals: which bytes a chord arrives as in a program that runs in one, or why it does not arrive."""

from dataclasses import dataclass, field

from ombix.core.keys import (
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


@dataclass(frozen=True, slots=True)
class Terminal:
    """What a terminal sends. `plain` and `modified` are by key; `chords` go before both; `same` names stand-ins."""

    name: str
    title: str
    plain: dict[str, str]
    modified: dict[str, str]
    chords: dict[Chord, str] = field(default_factory=dict)
    same: dict[str, Chord] = field(default_factory=dict)
    _by_bytes: dict[bytes, Chord] = field(default_factory=dict, repr=False)
    _standing: dict[Chord, Chord] = field(default_factory=dict, repr=False)

    def send(self, trigger: Trigger) -> bytes | str:
        """The bytes that the trigger arrives as, or a sentence on why it cannot be sent (a str)."""
        sent = b""
        for chord in trigger:
            one = self.send_chord(chord)
            if isinstance(one, str):
                return one
            sent += one
        return sent

    def send_chord(self, chord: Chord) -> bytes | str:
        """Like `send`, for one chord."""
        modifiers, key = chord
        name = write_chord(chord)
        if is_mouse(chord):
            return f"{name} reaches a terminal program only as a mouse report"
        if is_tap(chord):
            return f"a terminal does not tell that {name} was pressed alone"
        if is_place(chord):
            return f"a terminal does not tell which place was pressed for {name}"
        if modifiers & (META | ALTGR):
            return f"a terminal does not send {name}: it has no code for this modifier"
        if key in self.same and not modifiers:
            return self.send_chord(self.same[key])
        if chord in self.chords:
            return self.chords[chord].encode()
        if key in self.modified and modifiers:
            number = (
                1 + (1 if modifiers & SHIFT else 0) + (2 if modifiers & ALT else 0) + (4 if modifiers & CTRL else 0)
            )
            return self.modified[key].replace("{m}", str(number)).encode()
        if modifiers & ALT:
            rest = self.send_chord(Chord(modifiers & ~ALT, key))
            return rest if isinstance(rest, str) else b"\x1b" + rest
        if key in self.plain:
            return self.plain[key].encode() if not modifiers else f"a terminal has no code of its own for {name}"
        if len(key) != 1:
            return f"a terminal has no code for {name}"
        if modifiers & CTRL:
            if "a" <= key <= "z":  # ECMA-48 has 32 control codes: Shift is lost beside Ctrl and a letter
                return bytes([ord(key) & 0x1F])
            return f"a terminal has no code for {name}"
        return (key.upper() if modifiers & SHIFT else key).encode()

    def canonical(self, trigger: Trigger) -> Trigger:
        """The trigger that stands for all those which arrive as the same bytes; others stand for themselves."""
        return tuple(self._canonical(chord) for chord in trigger)

    def _canonical(self, chord: Chord) -> Chord:
        known = self._standing.get(chord)
        if known is None:
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
        for chord in (*plain, *letters, *modified, *self.chords):
            sent = self.send_chord(chord)
            if isinstance(sent, bytes):
                self._by_bytes.setdefault(sent, chord)


def terminal(name: str, table: dict[str, dict[str, str]]) -> Terminal:
    """A terminal from its data file's table."""
    return Terminal(
        name=name,
        title=str(table["title"]),
        plain=dict(table["plain"]),
        modified=dict(table["modified"]),
        chords={parse(text)[0]: sent for text, sent in table.get("chords", {}).items()},
        same={key: parse(text)[0] for key, text in table.get("same", {}).items()},
    )
