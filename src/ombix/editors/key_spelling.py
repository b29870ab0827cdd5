"""How an editor writes keys: a complete table of the chords that it can bind, read and written."""

import re
from collections.abc import Iterable
from functools import cached_property
from itertools import combinations, permutations

from ombix.core.errors import NotationError, nearest
from ombix.core.keys.notation import MODIFIERS, SHIFT, Chord, Trigger, parse, write_chord
from ombix.editors.description import KeyForm, KeySyntax

_SIDE_BY_SIDE = "{chord}"
"""How a sequence is written with nothing around and between its chords."""
_LETTERS = "abcdefghijklmnopqrstuvwxyz"
_ONE_CHARACTER = ("{letter}", "{LETTER}", "{mark}", "{char}")
_MARKS = "".join(chr(code) for code in range(33, 127) if not chr(code).isalpha())


class Spelling:
    """The chords that an editor can bind, each with its spelling in the editor's file."""

    def __init__(self, keys: KeySyntax) -> None:
        self._keys = keys
        self._written: dict[Chord, str] = {}
        self._read: dict[str, Chord] = {}
        for text, spelling in keys.exact.items():
            self._add(parse(text)[0], [spelling])
        known: dict[str, Chord] = {}
        for form in keys.forms:
            for each in _with_held(form, keys):
                for chord, spellings in _members(each, keys.names, known):
                    self._add(chord, spellings)
        for text in keys.read_only:
            self._written.pop(parse(text)[0], None)
        for spelling, text in keys.also.items():
            self._read.setdefault(spelling, parse(text)[0])

    def chords(self) -> list[Chord]:
        """All chords that the editor can bind."""
        return list(self._written)

    def write(self, trigger: Trigger) -> str | None:
        """The trigger as the editor's file has it, or None where the editor cannot bind it."""
        if len(trigger) > self._keys.longest:
            return None
        spelt = [self._written.get(chord) for chord in trigger]
        if None in spelt:
            return None
        if len(spelt) == 1:
            return spelt[0]
        if self._keys.pieces:
            return "".join(map(str, spelt))
        if self._keys.between:
            return self._keys.between.join(map(str, spelt))
        joined = "".join(self._keys.sequence.replace("{chord}", str(one)) for one in spelt)
        return joined if self._keys.sequence != _SIDE_BY_SIDE or self._side_by_side(joined) == spelt else None

    def read_row(self, text: str) -> Trigger:
        """Keys that are pressed one after the other. Raises NotationError."""
        return self.read(text)

    def unquoted(self, text: str) -> str:
        """A text as it is; nothing is quoted here."""
        return text

    def why_not(self, trigger: Trigger, editor: str) -> str:
        """Why the editor cannot bind the trigger."""
        if len(trigger) > self._keys.longest:
            if self._keys.longest == 1:
                return f"{editor} binds single chords only"
            return f"{editor} binds at most {self._keys.longest} chords in a row"
        chord = next((chord for chord in trigger if chord not in self._written), trigger[0])
        return f"{editor} cannot bind {write_chord(chord)}"

    def read(self, text: str) -> Trigger:
        """The trigger that the editor's spelling means. Raises NotationError."""
        if self._keys.pieces:
            return tuple(self._read_chord(part, text) for part in _pieces(text, *self._keys.pieces))
        if self._keys.between and self._keys.between in text.strip():
            parts = text.strip().split(self._keys.between)
            return tuple(self._read_chord(part.strip(), text) for part in parts if part.strip())
        if self._keys.sequence and (parts := self._split(text)):
            return tuple(self._read_chord(part, text) for part in parts)
        return (self._read_chord(text, text),)

    def _side_by_side(self, text: str) -> list[str]:
        """The chords of a text in which nothing stands between them, each as long as it can be; none where it is not of such."""
        parts: list[str] = []
        while text:
            ends = range(min(len(text), self._longest_spelling), 0, -1)
            part = next((text[:end] for end in ends if text[:end] in self._read), "")
            if not part:
                return []
            parts.append(part)
            text = text[len(part) :]
        return parts

    @cached_property
    def _longest_spelling(self) -> int:
        return max(map(len, self._read), default=0)

    def _split(self, text: str) -> list[str]:
        if self._keys.sequence == _SIDE_BY_SIDE:
            return self._side_by_side(text)
        before, after = self._keys.sequence.split("{chord}")
        if not (text.startswith(before) and text.endswith(after) and len(text) > len(before + after)):
            return []
        return text[len(before) : len(text) - len(after)].split(after + before)

    def _read_chord(self, part: str, text: str) -> Chord:
        chord = self._read.get(part)
        if chord is None:
            chord = self._read_loosely(part)
        if chord is None:
            start = max(0, text.find(part))
            found = nearest(part, list(self._read), 2, 70)
            raise NotationError(
                f"not a key that can be bound: {part}", text, start, start + max(1, len(part)),
                f"Did you mean {' or '.join(found)}?" if found else "",
            )  # fmt: skip
        return chord

    def _read_loosely(self, part: str) -> Chord | None:
        """Modifier words in any order, with or without the joiner between them."""
        words, joiner = self._keys.modifiers, self._keys.joiner
        if not words:
            return None
        known = [*((word, name) for name, word in words.items()), *self._keys.also_modifiers.items()]
        held: list[str] = []
        rest = part
        while True:
            word, name = next(
                ((word, name) for word, name in known if rest.startswith(word) and len(rest) > len(word)), ("", "")
            )
            if not name or name in held:
                break
            held.append(name)
            rest = rest[len(word) :]
            if joiner and rest.startswith(joiner) and len(rest) > len(joiner):
                rest = rest[len(joiner) :]
        if not held:
            return None
        for order in permutations(held):
            prefix = [words[name] for name in order]
            for spelling in ("".join(prefix) + rest, "".join(word + joiner for word in prefix) + rest,
                             "".join(prefix) + joiner + rest, joiner.join(prefix) + rest):  # fmt: skip
                if spelling in self._read:
                    return self._read[spelling]
        return None

    def _add(self, chord: Chord, spellings: list[str]) -> None:
        self._written.setdefault(chord, spellings[0])
        for spelling in spellings:
            self._read.setdefault(spelling, chord)


def _pieces(text: str, opening: str, closing: str) -> list[str]:
    """Keys one behind the other: a name in brackets, or one character."""
    pieces, position = [], 0
    while position < len(text):
        end = text.find(closing, position + 2) if text[position] == opening else -1
        if end < 0 or any(char.isspace() or char == opening for char in text[position + 1 : end]):
            end = position
        pieces.append(text[position : end + 1])
        position = end + 1
    return pieces


def _with_held(form: KeyForm, keys: KeySyntax) -> list[KeyForm]:
    """The form beside each group of the modifiers that may be held, the fewest first."""
    if not form.held and not (keys.pieces and form.written in ("{key}", "F{n}")):
        return [form]
    unknown = [name for name in form.held if name not in MODIFIERS or name not in keys.modifiers]
    if unknown or len(set(form.held)) < len(form.held):
        what = f"{unknown[0]} is no modifier of [keys.modifiers]" if unknown else "a modifier stands twice in it"
        raise ValueError(f"in held of the form {form.chord[:40]!r}: {what}")
    found = []
    for count in range(form.at_least, len(form.held) + 1):
        for held in combinations(form.held, count):
            if "Shift" in held and ("{mark}" in form.chord or "{char}" in form.chord):
                continue  # another character, by the layout
            chord = "+".join([*held, form.chord])
            spellings = _spelt(form, held, keys)
            found.append(KeyForm(chord, spellings[0], spellings[1:], form.numbers, [*form.without, *form.shifted]))
            if form.shifted and "Shift" not in held:
                others = [name for name in keys.names if name not in form.shifted]
                with_shift = _spelt(form, [one for one in form.held if one in (*held, "Shift")], keys)
                found.append(KeyForm(chord, with_shift[0], [*with_shift[1:], *spellings], without=others))
    return found


def _spelt(form: KeyForm, held: Iterable[str], keys: KeySyntax) -> list[str]:
    """How the members of a form are spelt beside these modifiers, the written way first; in the brackets of `pieces`, if any."""
    words = [keys.modifiers[name] for name in held]
    spelt = [keys.joiner.join([*words, text]) for text in (form.written, *form.also)]
    if not keys.pieces or (not words and form.written in _ONE_CHARACTER):
        return spelt
    return [f"{keys.pieces[0]}{text}{keys.pieces[1]}" for text in spelt]


def _members(form: KeyForm, names: dict[str, str], known: dict[str, Chord]) -> list[tuple[Chord, list[str]]]:
    """Each chord of the form with its spellings, the written one first. `known` has keys that were read before."""
    match = re.search(r"\{(letter|mark|char|key|n)\}", form.chord)
    if match is None:
        raise ValueError(f"the form {form.chord!r} has no variable")
    kind = match[1]
    if kind == "n":
        values = {str(number): str(number) for number in range(form.numbers[0], form.numbers[1] + 1)}
    elif kind == "key":
        values = names
    else:
        pool = {"letter": _LETTERS, "mark": _MARKS, "char": _LETTERS + _MARKS}[kind]
        values = {char: char for char in pool}
    held, plus, tail = form.chord[: match.start()].rpartition("+")
    modifiers = parse(f"{held}{plus}a")[0].modifiers
    shape = tail + form.chord[match.start() :]
    result = []
    for value, spelt in values.items():
        is_sign = kind == "key" and len(value) == 1 and not value.isalpha()
        if value in form.without or (is_sign and modifiers & SHIFT):
            continue  # what is not in it; or another character, by the layout
        text = shape.replace(match[0], value)
        alone = known.get(text)
        if alone is None:
            alone = known[text] = parse(text)[0]
        chord = Chord(modifiers | alone.modifiers, alone.key)
        if chord.modifiers == SHIFT and len(value) == 1 and not form.chord.startswith("Shift"):
            chord = Chord(0, chord.key)
        spellings = [
            text.replace("{" + kind + "}", spelt).replace("{" + kind.upper() + "}", spelt.upper())
            for text in (form.written, *form.also)
        ]
        result.append((chord, spellings))
    return result
