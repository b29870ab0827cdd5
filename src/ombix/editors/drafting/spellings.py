"""Finds out how keys are spelt: what joins modifiers and keys, what parts the chords of a sequence, and the words for both."""

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from functools import lru_cache
from itertools import product

from msgspec import Struct

from ombix.editors.split_modifiers import PARTING

MODIFIER_WORDS = {
    "Ctrl": ("ctrl", "control", "ctl", "primary", "strg", "c", "⌃"),
    "Alt": ("alt", "option", "opt", "mod1", "a", "m", "meta", "⌥"),
    "Shift": ("shift", "shft", "s", "⇧"),
    "Meta": ("super", "cmd", "command", "win", "windows", "mod4", "d", "⌘"),
}
"""Words that programs have for modifiers, in small letters."""
_KEY_WORDS = {
    "ArrowUp": "up arrowup uparrow", "ArrowDown": "down arrowdown downarrow down arrow", "ArrowLeft": "left arrowleft leftarrow",
    "ArrowRight": "right arrowright rightarrow", "Home": "home", "End": "end", "PageUp": "pageup pgup prior",
    "PageDown": "pagedown pgdn pgdown next", "Insert": "insert ins", "Delete": "delete del", "Backspace": "backspace bs bspace",
    "Tab": "tab", "Enter": "enter return ret cr", "Escape": "escape esc", "Space": "space spc spacebar",
    "/": "slash", "\\": "backslash", ".": "period dot", ",": "comma", ";": "semicolon", "-": "minus hyphen", "+": "plus",
    "=": "equal equals", "[": "bracketleft leftbracket", "]": "bracketright rightbracket", "'": "apostrophe quote",
    "`": "grave backquote backtick", "_": "underscore",
}  # fmt: skip
"""Keys to words that programs have for them, in small letters and without signs."""
_KEY_OF = {word: key for key, words in _KEY_WORDS.items() for word in words.split()}
_FAMILIES = (
    ("ArrowUp", "ArrowDown", "ArrowLeft", "ArrowRight"), ("Home", "End"), ("PageUp", "PageDown"), ("Insert", "Delete"),
)  # fmt: skip
_JOINERS = ("+", "-", ":", ".", "_", "~", " ", "", PARTING, " + ", " - ")
IN_BRACKETS = "<>"
"""In the place of what stands between chords: they stand one behind the other, in these brackets if they are not one character."""
SIDE_BY_SIDE = "{chord}"
"""In the place of what stands between chords: they stand one behind the other, and each modifier has a sign of its own."""
_BETWEEN = ("", " ", PARTING, IN_BRACKETS, SIDE_BY_SIDE, ",", ", ", " then ", " & ", ">", " > ", ";", "|", "~", "\\")
_ENOUGH = 200
"""So many keys tell how all are spelt."""
_LONGEST = 200
"""What has more characters is no keys."""
_LEAST = 0.85
"""The part of the spellings that have to be understood."""
_FUNCTION_KEY = re.compile(r"(<?[a-zA-Z]*?[fF])(\d{1,2})(>?)")

_CHORD = re.compile(r"(?:\^|[A-Za-z]-|[⌃⌥⇧⌘])*.")
_SIDE_BY_SIDE = re.compile(
    r"(?:(?:\^|[A-Za-z]-|[⌃⌥⇧⌘])+[\w\[\]\\])*(?:\^|[A-Za-z]-|[⌃⌥⇧⌘])+(?:[\w\[\]\\][^\s<>]|[^\s<>])"
)
"""Chords with nothing between them: of one character each, and but for the last one with a modifier. What stands before others is
no sign: that could be a modifier as well."""
_AROUND_WORD = re.compile(r"^[a-z]+[_.](?=[a-z]{3})|mask$")
"""What may stand around a word for a modifier in a program's own table of keys."""
_OWN_SIGN = re.compile(r"<(\w+)>|([⌃⌥⇧⌘])(?=.)|([A-Za-z]+)[-+](?=.)|([\^!+#])(?=.)")
"""A modifier with the sign that is its own, where nothing else joins it to a key."""
_SIGNS = {"^": "ctrl", "!": "alt", "+": "shift", "#": "cmd"}
"""Such signs of one character that are on keys themselves, and what they mostly stand for."""


class SpeltChord(Struct, frozen=True):
    """A chord as it was understood: its modifiers with their words, and the key with its word (that before the number of a
    function key)."""

    modifiers: tuple[tuple[str, str], ...]
    key: str
    word: str

    @property
    def is_function_key(self) -> bool:
        """Whether it is F1, F2, …"""
        return len(self.key) > 1 and self.key[1:].isdigit()

    @property
    def portable(self) -> str:
        """The chord in the notation of keymaps."""
        return "+".join([*(name for name, _word in self.modifiers), self.key])


class SpellingGuess(Struct):
    """How keys are spelt: `chords` by their spelling; what was not understood is in `unread`."""

    joiner: str
    between: str
    chords: dict[str, tuple[SpeltChord, ...]]
    unread: list[str]

    @property
    def modifiers(self) -> dict[str, str]:
        """The modifiers and the word for each that is used most."""
        return {name: found.most_common(1)[0][0] for name, found in self._words().items()}

    @property
    def other_modifiers(self) -> dict[str, str]:
        """Other words for modifiers."""
        first = set(self.modifiers.values())
        return {word: name for name, found in self._words().items() for word in found if word not in first}

    @property
    def guessed(self) -> dict[str, str]:
        """The signs for modifiers that programs do not agree about, each with what it is taken for."""
        return {word: name for name, found in self._words().items() for word in found if word in _SIGNS and word != "^"}

    def _words(self) -> dict[str, Counter[str]]:
        found: dict[str, Counter[str]] = {}
        for chord in self._all():
            for name, word in chord.modifiers:
                found.setdefault(name, Counter())[word] += 1
        return dict(sorted(found.items(), key=lambda pair: list(MODIFIER_WORDS).index(pair[0])))

    @property
    def names(self) -> dict[str, str]:
        """Named keys and the word for each."""
        found: dict[str, Counter[str]] = {}
        for chord in self._all():
            if len(chord.word) > 1 and not chord.is_function_key:
                found.setdefault(chord.key, Counter())[chord.word] += 1
        return {key: words.most_common(1)[0][0] for key, words in found.items()}

    @property
    def function_key(self) -> str:
        """How a function key is spelt, with `{n}` for its number; empty where there was none."""
        return next((chord.word for chord in self._all() if chord.is_function_key), "")

    @property
    def capitals(self) -> str:
        """How letters beside modifiers are written: `small`, `capital`, `both`, or `none` where there are none."""
        letters = {
            chord.word.isupper()
            for chord in self._all()
            if chord.modifiers and len(chord.key) == 1 and chord.key.isalpha()
        }
        return "none" if not letters else "both" if len(letters) > 1 else "capital" if letters == {True} else "small"

    @property
    def capital_modifiers(self) -> tuple[str, ...]:
        """The modifiers beside which letters are capitals, where beside the others they are small; none where that is not so, or
        letters are written alike beside all."""
        shapes: dict[str, set[bool]] = {}
        for chord in self._all():
            if chord.modifiers and len(chord.key) == 1 and chord.key.isalpha():
                shapes.setdefault(chord.modifiers[0][0], set()).add(chord.word.isupper())
        if any(len(found) > 1 for found in shapes.values()):
            return ()
        capital = tuple(name for name, found in shapes.items() if True in found)
        return capital if len(capital) < len(shapes) else ()

    @property
    def longest(self) -> int:
        """Chords in a row, at the most."""
        return max((len(chords) for chords in self.chords.values()), default=1)

    @property
    def plain(self) -> str:
        """The characters that stand alone as keys, without modifiers."""
        return "".join(
            sorted(
                {
                    chord.key
                    for chord in self._all()
                    if not chord.modifiers and len(chord.word) == 1 and len(chord.key) == 1
                }
            )
        )

    def portable(self, spelt: str) -> str:
        """Keys in the notation of keymaps; empty where they were not understood."""
        return " ".join(chord.portable for chord in self.chords.get(spelt.strip(), ()))

    def reads(self, spelt: str) -> bool:
        """Whether this can be keys that are spelt in the same way."""
        return _read(spelt.strip(), self.joiner, self.between) is not None

    def _all(self) -> Iterator[SpeltChord]:
        return (chord for chords in self.chords.values() for chord in chords)

    def relatives(self) -> dict[str, str]:
        """Keys that were not seen, spelt as their relatives are: what `Up` is called tells how `Down` may be."""
        known, found = self.names, {}
        for family in _FAMILIES:
            seen = next((key for key in family if key in known), None)
            if seen is None:
                continue
            for key in family:
                if key not in known and (word := _alike(seen, known[seen], key)):
                    found[key] = word
        return found


def _alike(seen: str, word: str, other: str) -> str:
    """The word for another key, made as `word` is for `seen`; empty where that cannot be told."""
    for one, another in zip(_KEY_WORDS[seen].split(), _KEY_WORDS[other].split(), strict=False):
        for shaped in (str.lower, str.upper, str.capitalize, str.title):
            for parted in (lambda text: text, lambda text: _parted(text, "_"), lambda text: _parted(text, "-")):
                if shaped(parted(one)) == word:
                    return shaped(parted(another))
    return ""


def _parted(text: str, sign: str) -> str:
    return re.sub(
        r"^(page|arrow)(?=.)|(?<=.)(arrow)$",
        lambda match: f"{match[1]}{sign}" if match[1] else f"{sign}{match[2]}",
        text,
    )


def guess(values: Sequence[str]) -> SpellingGuess | None:
    """How these keys are spelt; None where they are hardly keys: most of them have to be understood, and some of them to have
    a modifier or a name that only a key has."""
    wanted = list(dict.fromkeys(value.strip() for value in values if value.strip()))
    some = wanted[:: max(1, len(wanted) // _ENOUGH)]
    text = "".join(f" {one} " for one in some)
    guesses = (
        _spelt(some, joiner, between)
        for joiner, between in product(_there(_JOINERS, text), _there(_BETWEEN, text))
        if joiner != between or not joiner
    )
    best = max(guesses, key=lambda one: (_is_of_keys(one), *_rank(one)))
    if len(some) < len(wanted):
        best = _spelt(wanted, best.joiner, best.between)
    return best if _is_of_keys(best) else None


def _there(signs: Sequence[str], text: str) -> list[str]:
    """The signs that stand in a text, and those for none."""
    return [sign for index, sign in enumerate(signs) if not sign or sign in text or sign in (IN_BRACKETS, SIDE_BY_SIDE)]


def is_one_key(word: str) -> bool:
    """Whether a word is a key without modifiers."""
    return _key(word) is not None


def _spelt(values: Sequence[str], joiner: str, between: str) -> SpellingGuess:
    """What is understood of keys that are taken to be spelt in one way."""
    found = SpellingGuess(joiner, between, {}, [])
    for value in values:
        chords = _read(value, joiner, between)
        if chords is None:
            found.unread.append(value)
        else:
            found.chords[value] = chords
    return found


def _rank(found: SpellingGuess) -> tuple[int, int, int, int]:
    """The more is understood, with the fewer signs, the better."""
    between = found.between if found.longest > 1 else ""
    return len(found.chords), int(found.between == between), -found.longest, -len(found.between)


def _is_of_keys(found: SpellingGuess) -> bool:
    """Whether nearly all is understood, as keys, and not as words that could be such."""
    if not found.chords or len(found.chords) < _LEAST * (len(found.chords) + len(found.unread)):
        return False
    held = [chords for chords in found.chords.values() if any(chord.modifiers for chord in chords)]
    named = [chords for chords in found.chords.values() if any(len(chord.key) > 1 for chord in chords)]
    return len(held) >= 0.3 * len(found.chords) or (bool(held) and len(held) + len(named) >= 0.6 * len(found.chords))


def _read(value: str, joiner: str, between: str) -> tuple[SpeltChord, ...] | None:
    if len(value) > _LONGEST:
        return None
    parts = [value]
    if between == IN_BRACKETS:
        if re.search(r"\s", value):
            return None
        parts = [inner or char for inner, char in re.findall(r"<([^<>\s]+)>|(\S)", value)]
    elif between == SIDE_BY_SIDE:
        if not joiner and _read_chord(value, "") is None and _SIDE_BY_SIDE.fullmatch(value):
            parts = _CHORD.findall(value)
    elif between and between in value.strip(between) and len(value) > 1:
        parts = [part.strip() for part in value.split(between)]
    chords = [_read_chord(part, joiner) for part in parts]
    return None if any(chord is None for chord in chords) else tuple(chord for chord in chords if chord is not None)


@lru_cache(maxsize=8192)
def _read_chord(text: str, joiner: str) -> SpeltChord | None:
    """A chord: modifiers, each with the joiner behind it, and a key."""
    held: list[tuple[str, str]] = []
    rest = text
    while joiner and joiner in rest[:-1]:
        word, _, behind = rest.partition(joiner)
        name = modifier_of(word)
        if not name or not behind or any(name == one for one, _word in held):
            break
        held.append((name, word))
        rest = behind
    if not joiner:
        while (match := _OWN_SIGN.match(rest)) and (
            name := modifier_of(match[1] or match[2] or match[3] or _SIGNS[match[4]])
        ):
            is_behind_word = match[4] and any(len(word) > 1 for _name, word in held)
            if is_behind_word or any(name == one for one, _word in held):
                break
            held.append((name, match[0]))
            rest = rest[match.end() :]
    found = _key(rest)
    return SpeltChord(tuple(held), *found) if found is not None else None


def modifier_of(word: str) -> str:
    """The modifier that a word stands for; empty where it stands for none."""
    plain = word.lower()
    bare = _AROUND_WORD.sub("", plain)
    return next(
        (name for name, words in MODIFIER_WORDS.items() if plain in words or (len(bare) > 2 and bare in words)), ""
    )


def _key(word: str) -> tuple[str, str] | None:
    if len(word) == 1 and word.isprintable() and not word.isspace():
        return word.lower(), word
    if (match := _FUNCTION_KEY.fullmatch(word)) and 1 <= int(match[2]) <= 35 and len(match[1]) <= 6:
        return f"F{match[2]}", f"{match[1]}{{n}}{match[3]}"
    inner = word[1:-1] if word[:1] == "<" and word[-1:] == ">" else word
    folded = re.sub(r"[\s_-]", "", inner.lower()).removeprefix("key")
    known = _KEY_OF.get(folded)
    return (known, word) if known is not None else None
