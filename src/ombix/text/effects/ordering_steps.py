"""Steps by which lines and other things change places, go, or get something around them."""

import re
from collections.abc import Callable, Iterable, Sequence

from ombix.text.effects import text_motions, text_units
from ombix.text.effects.buffer import Buffer
from ombix.text.effects.edit_steps import change
from ombix.text.effects.program_words import Run, Stop, range_of, unquoted

Ordering = Callable[[list[str]], list[int]]
"""Which lines of several are left, by their numbers from 0, in their new order."""


def _sorted_by(key: Callable[[str], object], reverse: bool = False) -> Ordering:
    return lambda lines: sorted(range(len(lines)), key=lambda number: key(lines[number]), reverse=reverse)  # type: ignore[arg-type,return-value]


def _natural(line: str) -> list[tuple[int, int, str]]:
    """What a line is sorted by where numbers in it go by their value, however long they are."""
    pieces = re.split(r"(\d+)", line)
    return [_by_value(piece) if at % 2 else (1, 0, piece) for at, piece in enumerate(pieces)]


def _by_value(digits: str) -> tuple[int, int, str]:
    value = "".join(str(int(digit)) for digit in digits).lstrip("0")
    return 0, len(value), value


def _once(numbers: Iterable[int], lines: Sequence[str]) -> list[int]:
    seen: set[str] = set()
    return [number for number in numbers if not (lines[number] in seen or seen.add(lines[number]))]  # type: ignore[func-returns-value]


def _one_blank(lines: list[str]) -> list[int]:
    return [at for at, line in enumerate(lines) if line.strip() or not at or lines[at - 1].strip()]


ORDERINGS: dict[str, Ordering] = {
    "sorted": _sorted_by(lambda line: line),
    "sorted-down": _sorted_by(lambda line: line, reverse=True),
    "by-length": _sorted_by(len),
    "naturally": _sorted_by(_natural),
    "sorted-once": lambda lines: _once(sorted(range(len(lines)), key=lines.__getitem__), lines),
    "reversed": lambda lines: list(range(len(lines)))[::-1],
    "once": lambda lines: _once(range(len(lines)), lines),
    "without-empty": lambda lines: [at for at, line in enumerate(lines) if line],
    "one-blank": _one_blank,
}


def order(words: Sequence[str]) -> Run:
    """The lines of a range come in another order, or some of them go: `with` or `without` a text, or by name. What was
    selected stays so, as whole lines; else the cursor stays in its line, or in the one that takes its place."""
    found, how = range_of(words[:1]), words[1]
    wanted = unquoted(words[2]) if how in ("with", "without") else ""
    choose: Ordering = (
        (lambda lines: [at for at, line in enumerate(lines) if (wanted in line) == (how == "with")])
        if how in ("with", "without")
        else ORDERINGS[how]
    )

    def run(b: Buffer) -> None:
        start, end = found(b)
        is_selected = b.has_selection
        ends = end < len(b.text) or b.text[start:end].endswith("\n")
        whole = b.text[start:end].removesuffix("\n") if end == len(b.text) else b.text[start:end]
        lines = whole.split("\n")
        left = choose(lines)
        new = "\n".join(lines[number] for number in left)
        stop = start + len(whole)
        if not left:
            stop = min(stop + ends, len(b.text))
        if is_selected:
            b.replace(start, stop, new)
            b.anchor, b.cursor, b.held = start, start + len(new), None
            return
        row = b.text.count("\n", start, b.cursor)
        column = b.cursor - text_motions.line_start(b.text, b.cursor)
        row = min(row, len(lines) - 1)
        kept = next((at for at, number in enumerate(left) if number >= row), len(left) - 1)
        b.replace(start, stop, new)
        at = start + sum(len(lines[number]) + 1 for number in left[: max(kept, 0)])
        is_own = bool(left) and left[kept] == row
        b.cursor = min(at + (column if is_own else 0), text_motions.line_end(b.text, at))
        b.drop()

    return run


# --- what changes places, and what is put around


def exchange(words: Sequence[str]) -> Run:
    """Two things change places: `characters` before and behind the cursor, `words` the one here with the one before, an
    `argument` with the `next` or `previous` one, or what is selected with the character `left` or `right` of it."""
    find = _EXCHANGED[words[0]]
    step = {"next": 1, "previous": -1, "left": -1, "right": 1}.get(words[-1], 0)

    def run(b: Buffer) -> None:
        one, other, follows = find(b, step)
        (first, second) = sorted((one, other))
        text = b.text
        between = text[first[1] : second[0]]
        b.replace(first[0], second[1], text[slice(*second)] + between + text[slice(*first)])
        if not follows:
            b.cursor = second[1]
            b.drop()
            return
        by = second[1] - one[1] if one == first else first[0] - one[0]  # what moves keeps the cursor and the selection
        b.cursor += by
        if b.anchor is not None:
            b.anchor += by
        if b.held is not None:
            b.held = b.held[0] + by, b.held[1] + by

    return run


_Pair = tuple[tuple[int, int], tuple[int, int], bool]
"""What changes places, what with, and whether the cursor goes with the first; else it goes behind both."""


def _characters(b: Buffer, step: int) -> _Pair:
    at = b.cursor
    if not at or at == len(b.text) or "\n" in b.text[at - 1 : at + 1]:
        raise Stop
    return (at - 1, at), (at, at + 1), False


def _words(b: Buffer, step: int) -> _Pair:
    here = text_units.word(b.text, b.cursor)
    if here is None:
        raise Stop
    before = text_units.word(b.text, text_motions.previous_start(b.text, here[0], text_motions.KINDS["names"]))
    if before is None or before[1] > here[0]:
        raise Stop
    return here, before, False


def _arguments(b: Buffer, step: int) -> _Pair:
    every = text_units.arguments(b.text, b.cursor)
    here = text_units.argument(b.text, b.cursor)
    if here is None or not 0 <= every.index(here) + step < len(every) or b.cursor < here[0]:
        raise Stop
    return here, every[every.index(here) + step], True


def _selected(b: Buffer, step: int) -> _Pair:
    start, end = b.selection
    at = end if step > 0 else start - 1
    if start == end or not 0 <= at < len(b.text) or b.text[at] == "\n":
        raise Stop
    return (start, end), (at, at + 1), True


_EXCHANGED: dict[str, Callable[[Buffer, int], _Pair]] = {
    "characters": _characters,
    "words": _words,
    "argument": _arguments,
    "selection": _selected,
}


def surround(words: Sequence[str]) -> Run:
    """A range gets a sign before it and its partner behind it, or a `tag` and its end; what is selected stays so."""
    found = range_of(words[:1])
    text = unquoted(words[-1])
    first, last = (f"<{text}>", f"</{text.partition(' ')[0]}>") if "tag" in words else (text, _partner(text))

    def run(b: Buffer) -> None:
        start, end = found(b)
        if start == end or not text:
            raise Stop
        b.replace(start, end, first + b.text[start:end] + last)

        def moved(at: int) -> int:
            """Inside what was put around, where it was in the range."""
            return at if at < start else at + len(first) + len(last) * (at > end)

        b.cursor, b.anchor = moved(b.cursor), None if b.anchor is None else moved(b.anchor)
        if b.held is not None:
            b.held = moved(b.held[0]), moved(b.held[1])

    return run


def _partner(text: str) -> str:
    return "".join(text_units.PARTNERS.get(char, char) for char in reversed(text))


def unwrap(words: Sequence[str]) -> Run:
    """The brackets or quotes around the cursor go, the nearer ones; with a text, that and its partner take their places."""
    text = unquoted(words[0]) if words else ""

    def run(b: Buffer) -> None:
        spans = [
            one
            for one in (text_units.brackets(b.text, b.cursor), text_units.quotes(b.text, b.cursor))
            if one is not None
        ]
        if not spans:
            raise Stop
        start, end = min(spans, key=lambda one: one[1] - one[0])
        change(b, end - 1, end, _partner(text))
        change(b, start, start + 1, text)

    return run


def type_named(words: Sequence[str]) -> Run:
    """A character is typed in place of the selection: by its Unicode name, or its number in hexadecimal digits."""
    name = unquoted(words[0])

    def run(b: Buffer) -> None:
        start, end = b.selection
        char = _named(name)
        b.replace(start, end, char)
        b.cursor = start + len(char)
        b.drop()

    return run


def _named(name: str) -> str:
    if re.fullmatch(r"(?:[Uu]\+)?[0-9A-Fa-f]{2,6}", name):
        number = int(name.upper().removeprefix("U+"), 16)
        if number < 0x110000 and not 0xD800 <= number < 0xE000:
            return chr(number)
    import unicodedata

    try:
        return unicodedata.lookup(name)
    except KeyError:
        raise Stop from None
