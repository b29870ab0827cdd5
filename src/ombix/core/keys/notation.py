"""Keys, chords and sequences: their notation, read and written, and its one canonical form.

A trigger is a tuple of chords. A chord is a set of modifiers and one key. The key is one of

- a character, in lower case where it has a case: `k`, `?`, `é`;
- a key named by its W3C UI Events `key` value: `ArrowUp`, `F8`; the space bar is `Space`;
- a place on the keyboard, its W3C UI Events `code` value in brackets: `[KeyK]`;
- a bare modifier, pressed and let go (a tap): `Shift`;
- a mouse button or wheel: `Click`, `WheelUp`;
- a family, with a variable: `{n:1-5}`, `F{n:1-4}`.

A letter's case does not matter beside a modifier (`Ctrl+k` is `Ctrl+K`); alone, a capital is Shift and the letter.
"""

import re
from collections.abc import Iterator
from itertools import product
from typing import NamedTuple

from ombix.core.errors import NotationError, did_you_mean

MOD, CTRL, META, ALT, ALTGR, SHIFT = 1, 2, 4, 8, 16, 32

MODIFIERS: dict[str, int] = {"Mod": MOD, "Ctrl": CTRL, "Meta": META, "Alt": ALT, "AltGr": ALTGR, "Shift": SHIFT}
"""Modifier name to bit, in the order in which they are written."""

_OTHER_MODIFIER_NAMES = {
    "control": CTRL, "ctl": CTRL, "option": ALT, "opt": ALT, "altgraph": ALTGR, "command": META, "cmd": META,
    "win": META, "windows": META, "super": META, "os": META,
    # As they are printed on German, French, Spanish and Italian keyboards.
    "strg": CTRL, "umschalt": SHIFT, "maj": SHIFT, "mayús": SHIFT, "maiusc": SHIFT,
    "⌃": CTRL, "⌥": ALT, "⌘": META, "⇧": SHIFT,
}  # fmt: skip
_MODIFIER_OF = {name.lower(): bit for name, bit in MODIFIERS.items()} | _OTHER_MODIFIER_NAMES
_HELD = tuple(
    "".join(f"{name}+" for name, bit in MODIFIERS.items() if held & bit) for held in range(sum(MODIFIERS.values()) + 1)
)
"""What is written before a key, by the sum of the modifiers that are held."""

MOUSE = (
    "Click", "DoubleClick", "TripleClick", "MiddleClick", "RightClick", "BackClick", "ForwardClick", "Drag",
    "WheelUp", "WheelDown", "WheelLeft", "WheelRight",
)  # fmt: skip

FUNCTION_KEY_COUNT = 64
"""UI Events sets no upper end to F1, F2, …; the X11 protocol and terminfo know at most 63, and 64 is the next round."""

# W3C, UI Events KeyboardEvent key Values, sections 3.2 to 3.15. The keys of phones, television sets and media
# controllers (3.16 to 3.18) are not on a keyboard and are left out; so are "Dead", "Process" and "Unidentified",
# which no key is named after. Modifier keys that hold (Control, Shift, …) are taps here and stand in MODIFIERS.
NAMED_KEYS = (
    "Space",
    "CapsLock", "Fn", "FnLock", "NumLock", "ScrollLock", "Symbol", "SymbolLock", "Hyper",
    "Enter", "Tab",
    "ArrowDown", "ArrowLeft", "ArrowRight", "ArrowUp", "End", "Home", "PageDown", "PageUp",
    "Backspace", "Clear", "Copy", "CrSel", "Cut", "Delete", "EraseEof", "ExSel", "Insert", "Paste", "Redo", "Undo",
    "Accept", "Again", "Attn", "Cancel", "ContextMenu", "Escape", "Execute", "Exit", "Find", "Help", "Pause", "Play",
    "Props", "Select", "ZoomIn", "ZoomOut",
    "BrightnessDown", "BrightnessUp", "Eject", "LogOff", "Power", "PowerOff", "PrintScreen", "Hibernate", "Standby",
    "WakeUp",
    "AllCandidates", "Alphanumeric", "CodeInput", "Compose", "Convert", "FinalMode", "GroupFirst", "GroupLast",
    "GroupNext", "GroupPrevious", "ModeChange", "NextCandidate", "NonConvert", "PreviousCandidate", "SingleCandidate",
    "HangulMode", "HanjaMode", "JunjaMode",
    "Eisu", "Hankaku", "Hiragana", "HiraganaKatakana", "KanaMode", "KanjiMode", "Katakana", "Romaji", "Zenkaku",
    "ZenkakuHankaku",
    *(f"F{number}" for number in range(1, FUNCTION_KEY_COUNT + 1)),
    "Soft1", "Soft2", "Soft3", "Soft4",
    "ChannelDown", "ChannelUp", "Close", "MailForward", "MailReply", "MailSend", "MediaClose", "MediaFastForward",
    "MediaPause", "MediaPlay", "MediaPlayPause", "MediaRecord", "MediaRewind", "MediaStop", "MediaTrackNext",
    "MediaTrackPrevious", "New", "Open", "Print", "Save", "SpellCheck",
    "Key11", "Key12",
    "AudioBalanceLeft", "AudioBalanceRight", "AudioBassBoostDown", "AudioBassBoostToggle", "AudioBassBoostUp",
    "AudioFaderFront", "AudioFaderRear", "AudioSurroundModeNext", "AudioTrebleDown", "AudioTrebleUp",
    "AudioVolumeDown", "AudioVolumeUp", "AudioVolumeMute", "MicrophoneToggle", "MicrophoneVolumeDown",
    "MicrophoneVolumeUp", "MicrophoneVolumeMute",
    "SpeechCorrectionList", "SpeechInputToggle",
    "LaunchApplication1", "LaunchApplication2", "LaunchCalendar", "LaunchContacts", "LaunchMail",
    "LaunchMediaPlayer", "LaunchMusicPlayer", "LaunchPhone", "LaunchScreenSaver", "LaunchSpreadsheet",
    "LaunchWebBrowser", "LaunchWebCam", "LaunchWordProcessor",
    "BrowserBack", "BrowserFavorites", "BrowserForward", "BrowserHome", "BrowserRefresh", "BrowserSearch",
    "BrowserStop",
)  # fmt: skip

# W3C, UI Events KeyboardEvent code Values, section 3.
PLACES = (
    "Backquote", "Backslash", "BracketLeft", "BracketRight", "Comma", *(f"Digit{digit}" for digit in range(10)),
    "Equal", "IntlBackslash", "IntlRo", "IntlYen", *(f"Key{letter}" for letter in "ABCDEFGHIJKLMNOPQRSTUVWXYZ"),
    "Minus", "Period", "Quote", "Semicolon", "Slash",
    "AltLeft", "AltRight", "Backspace", "CapsLock", "ContextMenu", "ControlLeft", "ControlRight", "Enter", "MetaLeft",
    "MetaRight", "ShiftLeft", "ShiftRight", "Space", "Tab",
    "Convert", "KanaMode", "Lang1", "Lang2", "Lang3", "Lang4", "Lang5", "NonConvert",
    "Delete", "End", "Help", "Home", "Insert", "PageDown", "PageUp",
    "ArrowDown", "ArrowLeft", "ArrowRight", "ArrowUp",
    "NumLock", *(f"Numpad{digit}" for digit in range(10)), "NumpadAdd", "NumpadBackspace", "NumpadClear",
    "NumpadClearEntry", "NumpadComma", "NumpadDecimal", "NumpadDivide", "NumpadEnter", "NumpadEqual", "NumpadHash",
    "NumpadMemoryAdd", "NumpadMemoryClear", "NumpadMemoryRecall", "NumpadMemoryStore", "NumpadMemorySubtract",
    "NumpadMultiply", "NumpadParenLeft", "NumpadParenRight", "NumpadStar", "NumpadSubtract",
    "Escape", *(f"F{number}" for number in range(1, 25)), "Fn", "FnLock", "PrintScreen", "ScrollLock", "Pause",
    "BrowserBack", "BrowserFavorites", "BrowserForward", "BrowserHome", "BrowserRefresh", "BrowserSearch",
    "BrowserStop", "Eject", "LaunchApp1", "LaunchApp2", "LaunchMail", "MediaPlayPause", "MediaSelect", "MediaStop",
    "MediaTrackNext", "MediaTrackPrevious", "Power", "Sleep", "AudioVolumeDown", "AudioVolumeMute",
    "AudioVolumeUp", "WakeUp",
)  # fmt: skip

_OTHER_KEY_NAMES = {
    "esc": "Escape", "return": "Enter", "ret": "Enter", "up": "ArrowUp", "down": "ArrowDown", "left": "ArrowLeft",
    "right": "ArrowRight", "pgup": "PageUp", "pgdn": "PageDown", "pgdown": "PageDown", "ins": "Insert",
    "del": "Delete", "entf": "Delete", "suppr": "Delete", "supr": "Delete", "canc": "Delete", "einfg": "Insert",
    "inser": "Insert", "pos1": "Home", "inicio": "Home", "inizio": "Home", "ende": "End", "fin": "End", "fine": "End",
    "bild↑": "PageUp", "bild↓": "PageDown", "repág": "PageUp", "avpág": "PageDown", "pag↑": "PageUp", "pag↓": "PageDown",
    "eingabe": "Enter", "entrée": "Enter", "intro": "Enter", "invio": "Enter", "échap": "Escape", "druck": "PrintScreen",
    "rollen": "ScrollLock", "leertaste": "Space", "bksp": "Backspace", "spacebar": "Space",
    "plus": "+", "minus": "-", "menu": "ContextMenu",
    "⏎": "Enter", "⇥": "Tab", "⌫": "Backspace", "⌦": "Delete", "⎋": "Escape", "↑": "ArrowUp", "↓": "ArrowDown",
    "←": "ArrowLeft", "→": "ArrowRight", "⇞": "PageUp", "⇟": "PageDown", "↖": "Home", "↘": "End", "␣": "Space",
}  # fmt: skip
_NAMED_OF = {name.lower(): name for name in (*NAMED_KEYS, *MOUSE)} | _OTHER_KEY_NAMES
_PLACE_OF = {name.lower(): f"[{name}]" for name in PLACES}
_SYMBOL_MODIFIERS = "⌃⌥⌘⇧"
_FAMILY = re.compile(r"([A-Za-z]*)\{([a-z][a-z0-9]*):([^{}\s]+)\}")
MAX_FAMILY_MEMBERS = 1000
MAX_NOTATION_LENGTH = 500


class Chord(NamedTuple):
    """Modifiers (a sum of MOD, CTRL, …) and one key, in canonical form."""

    modifiers: int
    key: str


Trigger = tuple[Chord, ...]
"""Chords one after the other; never empty."""


def parse(text: str, known: dict[str, Chord] | None = None) -> Trigger:
    """Read the notation of a trigger. Raises NotationError with the place of the first fault.

    `known` is for whoever reads many: chords that were read before, by how they were written; new ones are added.
    """
    if len(text) > MAX_NOTATION_LENGTH:
        raise NotationError(
            f"keys are longer than {MAX_NOTATION_LENGTH} characters", text[:60] + "…", 0, 1, "Check the quotes."
        )
    if known is None:
        known = {}
    try:
        chords = tuple([known.get(token) or _read_token(token, known) for token in text.split()])
    except NotationError:  # once more, for the place in the whole text
        chords = tuple(_parse_chord(match[0], text, match.start()) for match in re.finditer(r"\S+", text))
    if not chords:
        raise NotationError("no keys are given", text, 0, 1, "Write keys like Ctrl+Shift+K or Space o f.")
    if "{" in text:
        _check_size(chords, text)
    return chords


def write(trigger: Trigger) -> str:
    """The canonical notation of a trigger."""
    return " ".join([write_chord(chord) for chord in trigger])


def write_chord(chord: Chord) -> str:
    """The canonical notation of one chord."""
    modifiers, key = chord
    return _HELD[modifiers] + _upper(key) if modifiers else key


def modifier_names(modifiers: int) -> list[str]:
    """The names of a sum of modifiers, in the order in which they are written."""
    return [name for name, bit in MODIFIERS.items() if modifiers & bit]


def is_tap(chord: Chord) -> bool:
    """Whether the chord is a bare modifier pressed and let go."""
    return chord.key in MODIFIERS


def is_mouse(chord: Chord) -> bool:
    """Whether the chord ends in a mouse button or wheel."""
    return chord.key in MOUSE


def is_place(chord: Chord) -> bool:
    """Whether the chord means a place on the keyboard, not a character."""
    return len(chord.key) > 1 and chord.key[0] == "["


def types_text(chord: Chord) -> bool:
    """Whether the chord types a character where nothing is bound: a character, perhaps with Shift, or the space bar."""
    return (len(chord.key) == 1 or chord.key == "Space") and not chord.modifiers & ~SHIFT


def is_family(trigger: Trigger) -> bool:
    """Whether the trigger has a variable in it."""
    return any(len(chord.key) > 1 and "{" in chord.key for chord in trigger)


def variables(trigger: Trigger) -> set[str]:
    """The names of the variables of a family; empty for a plain trigger."""
    return {match[2] for chord in trigger if (match := _FAMILY.fullmatch(chord.key))}


def expand(trigger: Trigger) -> Iterator[tuple[Trigger, dict[str, str]]]:
    """Each member of a family with the values of its variables; a plain trigger is its own only member."""
    domains: dict[str, list[str]] = {}
    for chord in trigger:
        if match := _FAMILY.fullmatch(chord.key):
            domains.setdefault(match[2], _members(match[3]) or [])
    for values in product(*domains.values()):
        chosen = dict(zip(domains, values, strict=True))
        yield tuple(_member(chord, chosen) for chord in trigger), chosen


def resolve(trigger: Trigger, main_modifier: int) -> Trigger:
    """The trigger with Mod replaced by a platform's main shortcut modifier (one of CTRL, META, …)."""
    if not any(chord.modifiers & MOD or chord.key == "Mod" for chord in trigger):
        return trigger
    name = next(name for name, bit in MODIFIERS.items() if bit == main_modifier)
    return tuple(
        Chord(
            chord.modifiers & ~MOD | main_modifier if chord.modifiers & MOD else chord.modifiers,
            name if chord.key == "Mod" else chord.key,
        )
        for chord in trigger
    )


def _read_token(token: str, known: dict[str, Chord]) -> Chord:
    chord = known[token] = _parse_chord(token, token, 0)
    return chord


def _check_size(chords: Trigger, text: str) -> None:
    """Raise NotationError where a family has too many members."""
    members = 1
    seen: set[str] = set()
    for chord in chords:
        if (match := _FAMILY.fullmatch(chord.key)) and match[2] not in seen:
            seen.add(match[2])
            members *= len(_members(match[3]) or [])
    if members > MAX_FAMILY_MEMBERS:
        raise NotationError(
            f"the family has {members} members; at most {MAX_FAMILY_MEMBERS} are allowed", text, 0, len(text)
        )


def _parse_chord(token: str, text: str, offset: int) -> Chord:
    modifiers = 0
    position = 0
    while position < len(token):
        if token[position] in _SYMBOL_MODIFIERS and position + 1 < len(token):  # ⌘K has no plus signs
            modifiers |= _MODIFIER_OF[token[position]]
            position += 2 if token[position + 1] == "+" and position + 2 < len(token) else 1
            continue
        plus = token.find("+", position + 1)
        if plus < 0 or plus + 1 >= len(token):
            break
        word = token[position:plus]
        bit = _MODIFIER_OF.get(word.lower())
        if bit is None:
            known = list(MODIFIERS)
            start = offset + position
            if word.lower() in _NAMED_OF or len(word) == 1:
                raise NotationError(
                    f"{word} is a key, not a modifier", text, start, start + len(word),
                    "Write the modifiers first and one key last; chords one after the other are separated by spaces.",
                )  # fmt: skip
            raise NotationError(
                f"unknown modifier: {word}", text, start, start + len(word),
                did_you_mean(word, known) or f"Modifiers are {', '.join(known)}.",
            )  # fmt: skip
        if modifiers & bit:
            raise NotationError(
                f"{word} stands twice in one chord", text, offset + position, offset + plus,
                "Write it once; for a double tap, part the two with a space.",
            )  # fmt: skip
        modifiers |= bit
        position = plus + 1
    return _with_key(modifiers, token[position:], text, offset + position)


def _with_key(modifiers: int, word: str, text: str, offset: int) -> Chord:
    end = offset + max(1, len(word))
    if len(word) == 1 and word not in _NAMED_OF and word not in _SYMBOL_MODIFIERS:
        if not word.isprintable() or "\ud800" <= word <= "\udfff" or word == "\ufeff":
            raise NotationError(f"U+{ord(word):04X} is not a key", text, offset, end, "Use the key's name.")
        lower = word.lower()
        if lower != word and _upper(lower) == word:
            return Chord(modifiers or SHIFT, lower)
        return Chord(modifiers, word)
    folded = word.lower()
    if (bit := _MODIFIER_OF.get(folded)) is not None:
        return _tap(modifiers, bit, word, text, offset)
    if (named := _NAMED_OF.get(folded)) is not None:
        return Chord(modifiers, named)
    if word.startswith("[") and word.endswith("]"):
        if (place := _PLACE_OF.get(folded[1:-1])) is not None:
            return Chord(modifiers, place)
        raise NotationError(
            f"unknown place on the keyboard: {word}", text, offset, end,
            did_you_mean(word[1:-1], PLACES) or "Places are W3C UI Events code values, like [KeyK] or [Slash].",
        )  # fmt: skip
    if (match := _FAMILY.fullmatch(word)) is not None:
        return _family(modifiers, match, text, offset, end)
    if word.endswith("+") and _MODIFIER_OF.get(folded[:-1]) is not None:
        raise NotationError("the key after the last + is missing", text, end - 1, end, "Add the key: Ctrl+K.")
    if "{" in word and len(word) > 1:
        raise NotationError(
            f"not a family of keys: {word}", text, offset, end, "Write a family like {n:1-5} or F{n:1,3,5}."
        )
    raise NotationError(
        f"unknown key: {word}", text, offset, end,
        did_you_mean(word, [*NAMED_KEYS, *MOUSE, *MODIFIERS])
        or "A key is one character or a name like Enter, ArrowUp or F8; a sequence is separated by spaces.",
    )  # fmt: skip


def _tap(modifiers: int, bit: int, word: str, text: str, offset: int) -> Chord:
    if modifiers & bit:
        raise NotationError(
            f"{word} stands twice in one chord", text, offset, offset + len(word),
            "For a double tap, part the two with a space.",
        )  # fmt: skip
    together = modifiers | bit
    name = modifier_names(together)[-1]
    return Chord(together & ~MODIFIERS[name], name)


def _family(modifiers: int, match: re.Match[str], text: str, offset: int, end: int) -> Chord:
    prefix, name, members = match[1], match[2], _members(match[3])
    if members is None:
        raise NotationError(
            f"not a range or a list: {match[3]}", text, offset, end, "Write {n:1-5}, {c:a-f} or {n:1,3,5}."
        )
    for member in members:
        try:
            chord = _with_key(modifiers, prefix + member, prefix + member, 0)
        except NotationError as error:
            raise NotationError(
                f"the family has a member that is no key: {prefix}{member}", text, offset, end, error.advice
            ) from None
        if chord.modifiers != modifiers:
            raise NotationError(
                f"the family has a capital letter in it: {member}", text, offset, end, "Write Shift+ before it."
            )
    named = _NAMED_OF.get((prefix + members[0]).lower(), "")
    return Chord(modifiers, f"{named[: len(prefix)] if prefix else ''}{{{name}:{match[3]}}}")


def _members(text: str) -> list[str] | None:
    if match := re.fullmatch(r"(\d{1,3})-(\d{1,3})", text):
        low, high = int(match[1]), int(match[2])
        return [str(number) for number in range(low, high + 1)] if low <= high else None
    if match := re.fullmatch(r"([a-z])-([a-z])", text):
        low, high = ord(match[1]), ord(match[2])
        return [chr(code) for code in range(low, high + 1)] if low <= high else None
    members = text.split(",")
    return members if all(members) and len(set(members)) == len(members) else None


def _member(chord: Chord, chosen: dict[str, str]) -> Chord:
    match = _FAMILY.fullmatch(chord.key)
    return _with_key(chord.modifiers, match[1] + chosen[match[2]], "", 0) if match else chord


def _upper(key: str) -> str:
    upper = key.upper()
    return upper if len(key) == 1 and len(upper) == 1 and upper.lower() == key else key
