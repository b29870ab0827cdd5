"""Units of a text: words, parts of words, sentences, paragraphs, arguments, brackets, quotes and tags around a place.

A place is an offset in the text, from 0 to its length, between characters; a range is two of them. What is not there is None.
"""

import re
from collections.abc import Callable, Iterator

from ombix.text.effects.text_motions import Kind, cells, line_end, line_start, text_start

Span = tuple[int, int] | None
_IsStart = Callable[[str, int], bool]

# --- places where something starts


def next_where(is_start: _IsStart) -> Callable[[str, int], int]:
    """The next place where something starts, or else the end of the text."""

    def find(text: str, at: int) -> int:
        return next((place for place in range(at + 1, len(text)) if is_start(text, place)), len(text))

    return find


def previous_where(is_start: _IsStart) -> Callable[[str, int], int]:
    """The last place before where something starts, or else the start of the text."""

    def find(text: str, at: int) -> int:
        return next((place for place in range(at - 1, 0, -1) if is_start(text, place)), 0)

    return find


def starts_part(text: str, at: int) -> bool:
    """Whether a part of a compound word starts: behind a sign, a capital behind a small letter, the last of several capitals,
    a digit behind a letter, or a letter behind a digit."""
    here, before = text[at], text[at - 1 : at]
    if not here.isalnum():
        return False
    if not before.isalnum() or here.isdigit() != before.isdigit():
        return True
    if here.isupper():
        return not before.isupper() or text[at + 1 : at + 2].islower()
    return False


_SENTENCE_END = re.compile(r"[.!?][\"')\]]*\s+\Z|\n[ \t]*\n\s*\Z|\A\s*\Z")
_LOOK_BACK = 1000
"""Characters before a place in which the end of a sentence is looked for."""


def starts_sentence(text: str, at: int) -> bool:
    """Whether a sentence starts: what is not blank behind a sign that ends one and a blank, or behind a blank line."""
    if text[at].isspace() or (at and not text[at - 1].isspace()):
        return False
    return bool(_SENTENCE_END.search(text, max(0, at - _LOOK_BACK), at))


def starts_paragraph(text: str, at: int) -> bool:
    """Whether a paragraph starts: a line that is not blank, behind a blank one."""
    if at and text[at - 1] != "\n":
        return False
    return not is_blank_line(text, at) and (at == 0 or is_blank_line(text, at - 1))


def ends_paragraph(text: str, at: int) -> bool:
    """Whether a paragraph ended before: a blank line behind one that is not."""
    if not at or text[at - 1] != "\n":
        return False
    return is_blank_line(text, at) and not is_blank_line(text, at - 1)


def is_sign_of_pair(text: str, at: int) -> bool:
    """Whether there is a bracket or a quote."""
    return text[at] in _OPENING or text[at] in _CLOSING or text[at] in _QUOTES


def is_blank_line(text: str, at: int) -> bool:
    """Whether the line that `at` is in has nothing but blanks."""
    return not text[line_start(text, at) : line_end(text, at)].strip()


# --- words


def last_of_word(text: str, at: int, kind: Kind) -> int:
    """The last character of the word at the cursor, or of the next one from there; else that of the text."""
    at = min(at + 1, len(text))
    while at < len(text) and not kind(text[at]):
        at += 1
    while at + 1 < len(text) and kind(text[at + 1]) == kind(text[at]):
        at += 1
    return max(0, min(at, len(text) - 1))


def previous_last_of_word(text: str, at: int, kind: Kind) -> int:
    """The last character of the word before; else the start of the text."""
    if at < len(text) and (here := kind(text[at])):
        while at > 0 and kind(text[at - 1]) == here:
            at -= 1
    at -= 1
    while at > 0 and not kind(text[at]):
        at -= 1
    return max(at, 0)


def _is_name(char: str) -> bool:
    return char.isalnum() or char == "_"


def word(text: str, at: int) -> Span:
    """The word of letters, digits and underlines that the cursor is in, before, or else right behind."""
    start = end = at
    if not (at < len(text) and _is_name(text[at])) and not (at and _is_name(text[at - 1])):
        return None
    while start and _is_name(text[start - 1]):
        start -= 1
    while end < len(text) and _is_name(text[end]):
        end += 1
    return start, end


def same_word(text: str, at: int, step: int) -> int | None:
    """The start of the next (1) or previous (-1) place of the word at the cursor, round the ends of the text."""
    found = word(text, at)
    if found is None:
        return None
    wanted = text[slice(*found)]
    starts = [one.start() for one in re.finditer(rf"(?<!\w){re.escape(wanted)}(?!\w)", text)]
    others = [start for start in starts if (start > found[0] if step > 0 else start < found[0])] or starts
    return others[0 if step > 0 else -1]


def number(text: str, at: int) -> Span:
    """The number that the cursor is in, before or right behind, with its sign where that is no part of a word or sum."""
    start = end = at
    while start and text[start - 1] in _DIGITS:
        start -= 1
    while end < len(text) and text[end] in _DIGITS:
        end += 1
    if start == end:
        return None
    if start and text[start - 1] == "-" and not (start > 1 and (text[start - 2].isalnum() or text[start - 2] in "_)")):
        start -= 1
    return start, end


_DIGITS = "0123456789"


def blanks(text: str, at: int) -> Span:
    """The blanks around the cursor, in its line; nothing at the cursor where there are none."""
    start = end = at
    while start and text[start - 1] in " \t":
        start -= 1
    while end < len(text) and text[end] in " \t":
        end += 1
    return start, end


# --- sentences and paragraphs


def sentence(text: str, at: int) -> Span:
    """The sentence at the cursor, without the blanks behind it."""
    if not text.strip():
        return None
    start = at if at < len(text) and starts_sentence(text, at) else previous_where(starts_sentence)(text, at)
    while start < len(text) and text[start].isspace():
        start += 1
    end = next_where(starts_sentence)(text, start)
    while end > start and text[end - 1].isspace():
        end -= 1
    return (start, end) if start < end else None


def block(text: str, at: int) -> Span:
    """The lines around the cursor up to blank ones, with the last one's line break."""
    if is_blank_line(text, at):
        return None
    start = line_start(text, at)
    while start and not is_blank_line(text, start - 1):
        start = line_start(text, start - 1)
    end = line_end(text, at)
    while end + 1 < len(text) and not is_blank_line(text, end + 1):
        end = line_end(text, end + 1)
    return start, min(end + 1, len(text))


def paragraph(text: str, at: int) -> Span:
    """The lines around the cursor up to blank ones, and the blank ones behind them."""
    found = block(text, at)
    if found is None:
        return None
    start, end = found
    while end < len(text) and is_blank_line(text, end):
        end = min(line_end(text, end) + 1, len(text))
    return start, end


# --- indentation


def indentation(text: str, at: int, tab_width: int) -> int:
    """The cells before the first character of a line that is not blank."""
    return cells(text[line_start(text, at) : text_start(text, at)], tab_width)


def _lines(text: str, at: int, step: int) -> Iterator[int]:
    """The starts of the lines above (-1) or below (1), the nearest first."""
    place = line_start(text, at)
    if step < 0:
        while place > 0:
            place = line_start(text, place - 1)
            yield place
    else:
        while (end := line_end(text, place)) < len(text):
            place = end + 1
            yield place


def less_indented(text: str, at: int, tab_width: int) -> int | None:
    """The first character of the nearest line above that is indented less."""
    here = indentation(text, at, tab_width)
    for place in _lines(text, at, -1):
        if not is_blank_line(text, place) and indentation(text, place, tab_width) < here:
            return text_start(text, place)
    return None


def same_level(text: str, at: int, tab_width: int, step: int) -> int | None:
    """The first character of the next line above or below that is indented alike, over deeper and blank ones."""
    here = indentation(text, at, tab_width)
    for place in _lines(text, at, step):
        if is_blank_line(text, place):
            continue
        there = indentation(text, place, tab_width)
        if there <= here:
            return text_start(text, place) if there == here else None
    return None


def same_indentation(text: str, at: int, tab_width: int) -> Span:
    """The lines around the cursor that are indented as much or more, with the last one's line break; blank ones between."""
    if is_blank_line(text, at):
        return None
    here = indentation(text, at, tab_width)
    start, end = line_start(text, at), line_end(text, at)
    for step in (-1, 1):
        for place in _lines(text, at, step):
            if is_blank_line(text, place):
                continue
            if indentation(text, place, tab_width) < here:
                break
            start, end = min(start, place), max(end, line_end(text, place))
    return start, min(end + 1, len(text))


# --- brackets, quotes, arguments, tags

_OPENING, _CLOSING, _QUOTES = "([{", ")]}", "\"'`"
PARTNERS = dict(zip(_OPENING, _CLOSING, strict=True))


def brackets(text: str, at: int) -> Span:
    """The innermost pair of brackets that the cursor is in, or on the first of, with both."""
    if at < len(text) and text[at] in _OPENING and (end := _closing_of(text, at)) is not None:
        return at, end + 1
    depth: list[str] = []
    for place in range(at - 1, -1, -1):
        char = text[place]
        if char in _CLOSING:
            depth.append(char)
        elif char in _OPENING:
            if depth:
                if depth.pop() != PARTNERS[char]:
                    return None
            else:
                end = _closing_of(text, place)
                return None if end is None or end < at else (place, end + 1)
    return None


def _closing_of(text: str, at: int) -> int | None:
    """The bracket that closes the one at `at`."""
    depth: list[str] = []
    for place in range(at, len(text)):
        char = text[place]
        if char in _OPENING:
            depth.append(PARTNERS[char])
        elif char in _CLOSING:
            if depth.pop() != char:
                return None
            if not depth:
                return place
    return None


def _quoted(text: str, start: int, end: int) -> Iterator[tuple[int, int]]:
    """What stands in quotes between two offsets, with the quotes."""
    at = start
    while at < end:
        char = text[at]
        if char in _QUOTES and not (char == "'" and at > start and text[at - 1].isalnum()):
            close = at + 1
            while close < end and text[close] != char:
                close += 2 if text[close] == "\\" else 1
            if close < end:
                yield at, close + 1
                at = close
        at += 1


def quotes(text: str, at: int) -> Span:
    """What stands in quotes around the cursor in its line, with the quotes."""
    pairs = _quoted(text, line_start(text, at), line_end(text, at))
    return next(((start, end) for start, end in pairs if start <= at < end), None)


def inside(find: Callable[[str, int], Span]) -> Callable[[str, int], Span]:
    """What is in brackets or quotes, without them."""

    def found(text: str, at: int) -> Span:
        span = find(text, at)
        return None if span is None else (span[0] + 1, span[1] - 1)

    return found


def arguments(text: str, at: int) -> list[tuple[int, int]]:
    """What is separated by commas in the innermost brackets around the cursor, without blanks around it."""
    around = inside(brackets)(text, at)
    if around is None:
        return []
    start, end = around
    strings = dict(_quoted(text, start, end))
    found, first, depth, place = [], start, 0, start
    while place < end:
        if place in strings:
            place = strings[place]
            continue
        char = text[place]
        depth += (char in _OPENING) - (char in _CLOSING)
        if char == "," and not depth:
            found.append((first, place))
            first = place + 1
        place += 1
    found.append((first, end))
    return [one for one in (_trimmed(text, *span) for span in found) if one[0] < one[1]]


def _trimmed(text: str, start: int, end: int) -> tuple[int, int]:
    while start < end and text[start].isspace():
        start += 1
    while end > start and text[end - 1].isspace():
        end -= 1
    return start, end


def argument(text: str, at: int) -> Span:
    """The argument at the cursor, or the next one behind the comma before it."""
    return next((one for one in arguments(text, at) if at <= one[1]), None)


_TAG = re.compile(r"<(/?)([A-Za-z][\w:.-]*)[^<>]*?(/?)>")


def tags(text: str, at: int) -> tuple[int, int, int, int] | None:
    """The innermost tag with its end that the cursor is in: start and end of the one, and of the other."""
    open_ones: list[re.Match[str]] = []
    for one in _TAG.finditer(text):
        if one[1]:
            while open_ones and (first := open_ones.pop()):
                if first[2] == one[2]:
                    if first.start() <= at < one.end():
                        return first.start(), first.end(), one.start(), one.end()
                    break
        elif not one[3]:
            open_ones.append(one)
    return None


def inside_tag(text: str, at: int) -> Span:
    """What stands between a tag and its end."""
    found = tags(text, at)
    return None if found is None else (found[1], found[2])


def around_tag(text: str, at: int) -> Span:
    """A tag with its end, and what stands between."""
    found = tags(text, at)
    return None if found is None else (found[0], found[3])


UNITS: dict[str, Callable[[str, int], Span]] = {
    "word": word,
    "number": number,
    "blanks": blanks,
    "sentence": sentence,
    "paragraph": paragraph,
    "block": block,
    "argument": argument,
    "inside-brackets": inside(brackets),
    "around-brackets": brackets,
    "inside-quotes": inside(quotes),
    "around-quotes": quotes,
    "inside-tag": inside_tag,
    "around-tag": around_tag,
}
"""Ranges around a place, by name."""


def larger(text: str, start: int, end: int) -> tuple[int, int]:
    """The smallest unit that has all of a range and more; the whole text where there is none."""
    places = (start, end)
    spans = [find(text, at) for name, find in UNITS.items() if name not in ("number", "blanks") for at in places]
    line = line_start(text, start), line_end(text, end)
    spans += [line, (line[0], min(line[1] + 1, len(text)))]
    wider = [span for span in spans if span and span[0] <= start and span[1] >= end and span != (start, end)]
    return min(wider, key=lambda one: one[1] - one[0], default=(0, len(text)))
