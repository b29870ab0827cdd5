"""Words and brackets that are selected on the way over them, with their blanks."""

from collections.abc import Callable, Sequence

from ombix.text.effects.buffer import Buffer
from ombix.text.effects.program_words import Run, Stop, characters_on
from ombix.text.effects.selection_steps import select_on

Span = tuple[int, int]
"""The first and the last character of what is selected; the cursor is on the second."""

_BRACKETS = "()[]{}<>"


def _kind(char: str, is_big: bool) -> int:
    """What a character is: the end of a line, a blank, of a word, or a sign."""
    if char == "\n":
        return 0
    if char in " \t":
        return 1
    return 2 if is_big or char.isalnum() or char == "_" else 3


def _on(text: str, at: int, kind: int, is_big: bool) -> int:
    """Behind all characters of a kind from `at` on."""
    while at < len(text) and _kind(text[at], is_big) == kind:
        at += 1
    return at


def _begin(text: str, at: int, is_big: bool) -> int | None:
    """Where the way over the next word begins; None where there is none."""
    if at + 1 >= len(text):
        return None
    if _kind(text[at], is_big) != _kind(text[at + 1], is_big):
        at += 1
    at = _on(text, at, 0, is_big)
    return at if at < len(text) else None


def next_word(text: str, at: int, is_big: bool = False) -> Span | None:
    """The word from the cursor on, or the next one, with the blanks behind it."""
    begin = _begin(text, at, is_big)
    if begin is None:
        return None
    kind = _kind(text[begin], is_big)
    end = _on(text, begin + 1, kind, is_big) if kind > 1 else begin + 1
    return begin, _on(text, end, 1, is_big) - 1


def next_word_end(text: str, at: int, is_big: bool = False) -> Span | None:
    """The word from the cursor on, or the next one, with the blanks before it."""
    begin = _begin(text, at, is_big)
    if begin is None:
        return None
    end = _on(text, begin, 1, is_big)
    if end < len(text) and (kind := _kind(text[end], is_big)) > 1:
        end = _on(text, end, kind, is_big)
    return begin, end - 1


def previous_word(text: str, at: int, is_big: bool = False) -> Span | None:
    """The word before the cursor, with the blanks behind it, from its end to its start."""
    if not 0 < at < len(text):
        return None
    if _kind(text[at], is_big) != _kind(text[at - 1], is_big):
        at -= 1
    while at > 0 and text[at] == "\n":
        at -= 1
    end = at
    while end > 0 and _kind(text[end], is_big) == 1:
        end -= 1
    kind = _kind(text[end], is_big)
    if kind < 2:
        return at, end if kind == 1 else end + 1
    while end > 0 and _kind(text[end], is_big) == kind:
        end -= 1
    return at, end if _kind(text[end], is_big) == kind else end + 1


def brackets(text: str, at: int) -> Span | None:
    """From the first bracket from the cursor on to its partner."""
    begin = next((index for index in range(at, len(text)) if text[index] in _BRACKETS), None)
    if begin is None:
        return None
    number = _BRACKETS.index(text[begin])
    step = -1 if number % 2 else 1
    partner, depth, place = _BRACKETS[number + step], 0, begin
    while 0 <= place < len(text):
        depth += (text[place] == text[begin]) - (text[place] == partner)
        if not depth:
            return begin, place
        place += step
    return None


_FOUND: dict[str, Callable[[str, int, bool], Span | None]] = {
    "next": next_word,
    "next-end": next_word_end,
    "previous": previous_word,
    "brackets": lambda text, at, is_big: brackets(text, at),
}


def select_word(words: Sequence[str]) -> Run:
    """What is found from the cursor on is selected: `next`, `next-end` or `previous`, `big` ones up to blanks, or `brackets`;
    with `extend`, what was selected stays so."""
    find, is_big, extends = _FOUND[words[0]], "big" in words, "extend" in words

    def select(b: Buffer) -> None:
        first, last = characters_on(b)
        found = find(b.text, last, is_big)
        if found is None:
            raise Stop
        begin, end = found
        if extends:
            if last >= first and begin < end:
                begin = min(first, begin)
            elif last <= first and begin > end:
                begin = max(first, begin)
            else:
                begin = first
        select_on(b, begin, end)

    return select
