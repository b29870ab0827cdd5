"""How an editor writes keys whose file has them as the bytes that a terminal sends."""

from collections.abc import Mapping
from functools import cached_property

from ombix.core.errors import NotationError, nearest
from ombix.core.keys.notation import Chord, Trigger, parse, write_chord
from ombix.core.pressing.terminals import Terminal
from ombix.editors.description import KeySyntax


class NotSent(NotationError):
    """Bytes that are keys on another terminal, or an event that is no key. No mistake, but nothing to bind here."""


class ByteSpelling:
    """The chords that a terminal sends, each with its spelling in the editor's file: the bytes, or a name for the key.

    With a joiner each byte is a word of its own; without one, the bytes stand as they are, those that would end the
    word behind a quoting character.
    """

    def __init__(self, keys: KeySyntax, terminal: Terminal) -> None:
        assert keys.bytes is not None
        self._keys = keys
        self._bytes = keys.bytes
        self._terminal = terminal
        self._names = {word: parse(text)[0] for word, text in keys.bytes.named.items()}
        self._word_of = {chord: word for word, chord in reversed(self._names.items())}

    @cached_property
    def _known(self) -> Mapping[bytes, Chord]:
        return self._terminal.standing()

    @cached_property
    def _chord_of(self) -> Mapping[bytes, Chord]:
        unwanted = {self._terminal.send(parse(text)) for text in self._bytes.without}
        return {sent: chord for sent, chord in self._known.items() if sent not in unwanted}

    @cached_property
    def _longest(self) -> int:
        return max(map(len, self._known))

    def chords(self) -> list[Chord]:
        """All chords that the editor can bind, one for each group that arrives alike."""
        return list(dict.fromkeys([*self._chord_of.values(), *self._names.values()]))

    def write(self, trigger: Trigger) -> str | None:
        """The trigger as the editor's file has it, or None where the editor cannot bind it."""
        if len(trigger) > self._keys.longest:
            return None
        words = []
        has_words = bool(self._bytes.joiner) or len(trigger) == 1
        for chord in trigger:
            sent = self._terminal.send((chord,))
            stands = self._chord_of.get(sent, chord) if isinstance(sent, bytes) else chord
            word = self._word_of.get(chord) or self._word_of.get(stands)
            if word and has_words:
                words.append(word)
            elif isinstance(sent, str) or sent not in self._chord_of:
                return None
            else:
                words.append(self._spelt(sent))
        if len(trigger) > 1 and self.read(self._bytes.joiner.join(words)) != self._terminal.canonical(trigger):
            return None  # the bytes of one key go on into those of the next
        return self._bytes.joiner.join(words)

    def why_not(self, trigger: Trigger, editor: str) -> str:
        """Why the editor cannot bind the trigger."""
        if len(trigger) > self._keys.longest:
            return f"{editor} binds at most {self._keys.longest} chords in a row"
        for chord in trigger:
            sent = self._terminal.send((chord,))
            if isinstance(sent, str):
                return f"{editor} cannot bind {write_chord(chord)}: {sent}"
            if sent not in self._chord_of:
                return f"{editor} cannot bind {write_chord(chord)}"
        return f"{editor} cannot bind these keys"

    def read(self, text: str) -> Trigger:
        """The trigger that the editor's spelling means. Raises NotationError."""
        trigger = self._read(text)
        if (
            len(trigger) > 1
            and self._terminal.send(trigger[:1]) not in self._chord_of
            and trigger[0] not in self._word_of
        ):
            raise NotSent(f"the terminal {self._terminal.name} sends no such key", text, 0, len(text))
        return trigger

    def _read(self, text: str) -> Trigger:
        if not text:
            raise NotationError("no keys are given", text, 0, 1)
        if text in self._bytes.events:
            raise NotSent("an event that is no key here", text, 0, len(text))
        if not self._bytes.joiner:
            if text in self._names:
                return (self._names[text],)
            return self.decode(self.unquoted(text).encode(), text)
        chords: list[Chord] = []
        raw = b""
        for word in text.split(self._bytes.joiner):
            if word in self._names:
                chords += self.decode(raw, text) if raw else ()
                chords.append(self._names[word])
                raw = b""
            else:
                raw += self._byte(word, text)
        return (*chords, *(self.decode(raw, text) if raw else ()))

    def decode(self, sent: bytes, text: str) -> Trigger:
        """The chords that these bytes are, the longest known piece first. Raises NotationError."""
        chords = []
        position = 0
        while position < len(sent):
            for length in range(min(self._longest, len(sent) - position), 0, -1):
                chord = self._known.get(sent[position : position + length])
                if chord is not None:
                    chords.append(chord)
                    position += length
                    break
            else:
                rest = sent[position:].decode("utf-8", "replace")[:1]
                if not rest.isprintable() or rest == "\ufffd":
                    raise NotationError(f"no key sends the byte {sent[position]}", text, 0, len(text))
                chords.append(parse(rest)[0])
                position += len(rest.encode())
        return tuple(chords)

    def _spelt(self, sent: bytes) -> str:
        names, quote = self._bytes.names, self._bytes.quote
        words = []
        for char in sent.decode():
            if char in names:
                words.append(names[char])
            elif quote:
                words.append(quote + char if not char.isprintable() or char in self._bytes.quoted else char)
            elif ord(char) < 32:
                words.append(self._bytes.control.replace("{char}", chr(ord(char) + 64)))
            else:
                words.append(char)
        return self._bytes.joiner.join(words)

    def read_row(self, text: str) -> Trigger:
        """Keys that are pressed one after the other, each a character of a text, not quoted. Raises NotationError."""
        return tuple(chord for char in text for chord in self.decode(char.encode(), text))

    def unquoted(self, text: str) -> str:
        """A text as it is, without the signs that quote what is in it."""
        quote = self._bytes.quote
        found, position = "", 0
        while position < len(text):
            if quote and text[position] == quote and position + 1 < len(text):
                position += 1
            found += text[position]
            position += 1
        return found

    def _byte(self, word: str, text: str) -> bytes:
        for char, name in self._bytes.names.items():
            if word == name:
                return char.encode()
        before, after = self._bytes.control.split("{char}")
        inner = word[len(before) : len(word) - len(after)]
        if len(word) == len(before) + len(after) + 1 and word.startswith(before) and word.endswith(after):
            code = ord(inner.upper()) - 64
            if 0 <= code < 32:
                return bytes([code])
        if len(word) == 1:
            return word.encode()
        start = max(0, text.find(word))
        found = nearest(word, [*self._names, *self._bytes.names.values()], 2, 70)
        raise NotationError(
            f"not a key: {word}",
            text,
            start,
            start + max(1, len(word)),
            f"Did you mean {' or '.join(found)}?" if found else "",
        )
