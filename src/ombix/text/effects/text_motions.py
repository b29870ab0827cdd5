"""Places in a text: where a move leads to, as functions from a text and an offset to an offset."""

import unicodedata
from collections.abc import Callable


def line_start(text: str, at: int) -> int:
    """The offset of the start of the line that `at` is in."""
    return text.rfind("\n", 0, at) + 1


def line_end(text: str, at: int) -> int:
    """The offset of the end of the line that `at` is in, before its line break."""
    end = text.find("\n", at)
    return len(text) if end < 0 else end


def text_start(text: str, at: int) -> int:
    """The offset of the first character of the line that is not blank, or of its end."""
    start, end = line_start(text, at), line_end(text, at)
    while start < end and text[start] in " \t":
        start += 1
    return start


def cells(line: str, tab_width: int) -> int:
    """The width of the text in cells, tabs going to the next multiple of `tab_width`."""
    width = 0
    for char in line:
        width += tab_width - width % tab_width if char == "\t" else _width(char)
    return width


def _width(char: str) -> int:
    """The cells of a character: two of a wide one, none of one that is put on top of the one before."""
    if char < "\u0300":
        return 1
    if unicodedata.combining(char):
        return 0
    return 2 if unicodedata.east_asian_width(char) in "WF" else 1


def at_cell(text: str, start: int, cell: int, tab_width: int) -> int:
    """The offset in the line from `start` on whose character covers `cell`, or the line's end."""
    end, width, at = line_end(text, start), 0, start
    while at < end:
        width += tab_width - width % tab_width if text[at] == "\t" else _width(text[at])
        if width > cell:
            break
        at += 1
    return at


def _is_word(char: str) -> bool:
    return char.isalnum() or char == "_"


def word_right(text: str, at: int) -> int:
    """Over blanks and a line end, then over one character and the word characters behind it."""
    while at < len(text) and text[at] in " \t\n":
        if text[at] == "\n":
            return at + 1
        at += 1
    at = min(len(text), at + 1)
    while at < len(text) and _is_word(text[at]):
        at += 1
    return at


def word_left(text: str, at: int) -> int:
    """Back over blanks and a line end, then over one character and the word characters before it, within the line."""
    if at == 0:
        return 0
    at -= 1
    while at < len(text) and text[at] in " \t\n":
        if at == line_start(text, at):
            return at
        at -= 1
    if at == line_start(text, at):
        return at
    at -= 1
    while _is_word(text[at]):
        if at == line_start(text, at):
            return at
        at -= 1
    return at + 1


def near_cell(text: str, start: int, cell: int, tab_width: int) -> int:
    """The offset in the line from `start` on that is nearest to the left edge of `cell`; of two, the one behind."""
    found = at_cell(text, start, cell, tab_width)
    if found >= len(text) or text[found] == "\n":
        return found
    before, behind = cells(text[start:found], tab_width), cells(text[start : found + 1], tab_width)
    return found + (2 * cell >= before + behind)


def close_cell(text: str, start: int, cell: int, tab_width: int) -> int:
    """Like `near_cell`, but of two that are equally near the one before."""
    found = at_cell(text, start, cell, tab_width)
    if found >= len(text) or text[found] == "\n":
        return found
    before, behind = cells(text[start:found], tab_width), cells(text[start : found + 1], tab_width)
    return found + (2 * cell > before + behind)


Kind = Callable[[str], int]
"""What a character is: 0 for what is between words; characters that belong together have the same number."""


def _letters(char: str) -> int:
    return 1 if char.isalnum() else 0


def _names(char: str) -> int:
    return 1 if char.isalnum() or char == "_" else 0


def _runs(char: str) -> int:
    return 0 if char.isspace() else 1 if char.isalnum() or char == "_" else 2


def _bigs(char: str) -> int:
    return 0 if char.isspace() else 1


def _names_and_breaks(char: str) -> int:
    return 2 if char == "\n" else 1 if char.isalnum() or char == "_" or char > "\x7f" else 0


def _runs_and_breaks(char: str) -> int:
    return 0 if char in " \t" else _names_and_breaks(char) or 3


KINDS: dict[str, Kind] = {
    "letters": _letters, "names": _names, "runs": _runs, "bigs": _bigs, "names-and-breaks": _names_and_breaks,
    "runs-and-breaks": _runs_and_breaks,
}  # fmt: skip
"""Words of letters and digits; with underlines; and, beside these, runs of signs; or all between blanks; or with underlines and
all beyond ASCII, and, beside these, line ends; and runs of signs."""


def next_start(text: str, at: int, kind: Kind) -> int:
    """The start of the next word."""
    if at < len(text) and (here := kind(text[at])):
        while at < len(text) and kind(text[at]) == here:
            at += 1
    while at < len(text) and not kind(text[at]):
        at += 1
    return at


def previous_start(text: str, at: int, kind: Kind) -> int:
    """The start of the word at the left."""
    while at > 0 and not kind(text[at - 1]):
        at -= 1
    if at > 0:
        here = kind(text[at - 1])
        while at > 0 and kind(text[at - 1]) == here:
            at -= 1
    return at


def next_end(text: str, at: int, kind: Kind) -> int:
    """The end of the word at the cursor, or of the next one."""
    while at < len(text) and not kind(text[at]):
        at += 1
    if at < len(text):
        here = kind(text[at])
        while at < len(text) and kind(text[at]) == here:
            at += 1
    return at


def chop_right(text: str, at: int, kind: Kind) -> int:
    """The start of the next word, but not beyond the line's end, except from there."""
    place, end = next_start(text, at, kind), line_end(text, at)
    return place if place <= end or at == end else end


def chop_left(text: str, at: int, kind: Kind) -> int:
    """The start of the previous word, but not beyond the line's start; from there, the end of the line that has it."""
    place, start = previous_start(text, at, kind), line_start(text, at)
    if place >= start:
        return place
    return start if at > start else line_end(text, place)


def _blank_line_at(text: str, start: int) -> bool:
    return not text[start : line_end(text, start)].strip()


def paragraph_on(text: str, at: int) -> int:
    """The start of the blank line behind this block of lines, or behind the next one from a blank line; where none follows,
    that of the last line."""
    place = line_start(text, at)
    wanted = 2 if _blank_line_at(text, place) else 1
    is_text = wanted == 1
    while line_end(text, place) + 1 < len(text):
        place = line_end(text, place) + 1
        if _blank_line_at(text, place) == is_text:
            wanted, is_text = wanted - 1, not is_text
            if not wanted:
                return place
    return place


def paragraph_back(text: str, at: int) -> int:
    """The start of the blank line before this block of lines, or before the one above from a blank line; where there is none,
    the start of the text."""
    place = line_start(text, at)
    wanted = 2 if _blank_line_at(text, place) else 1
    is_text = wanted == 1
    while place > 0:
        place = line_start(text, place - 1)
        if _blank_line_at(text, place) == is_text:
            wanted, is_text = wanted - 1, not is_text
            if not wanted:
                return place
    return 0


def previous_blank(text: str, at: int) -> int:
    """The start of the nearest empty line above, or of the text."""
    place = line_start(text, at)
    while place > 0:
        place = line_start(text, place - 1)
        if line_end(text, place) == place:
            return place
    return 0


def next_blank(text: str, at: int) -> int:
    """The start of the nearest empty line below, or of the last line."""
    place = line_start(text, at)
    while (end := line_end(text, place)) < len(text):
        place = end + 1
        if line_end(text, place) == place:
            return place
    return place


def next_blank_or_end(text: str, at: int) -> int:
    """The start of the nearest empty line below, or the end of the text."""
    place = line_start(text, at)
    while (end := line_end(text, place)) < len(text):
        place = end + 1
        if line_end(text, place) == place:
            return place
    return len(text)


def _is_blank_line(text: str, at: int) -> bool:
    return not text[line_start(text, at) : line_end(text, at)].strip()


def block_start(text: str, at: int) -> int:
    """The start of this block of lines, or of the one before; blank lines part blocks."""
    place = line_start(text, at)
    if place == 0:
        return 0
    place = line_start(text, place - 1)
    while place > 0 and _is_blank_line(text, place):
        place = line_start(text, place - 1)
    while place > 0 and not _is_blank_line(text, place - 1):
        place = line_start(text, place - 1)
    return place


def next_block(text: str, at: int) -> int:
    """The start of the next block of lines; where none follows, that of the last line."""
    place = line_start(text, at)
    for is_blank in (False, True):
        while _is_blank_line(text, place) == is_blank:
            if line_end(text, place) == len(text):
                return place
            place = line_end(text, place) + 1
    return place


_PAIRS = {"(": ")", "[": "]", "{": "}"}


def matching(text: str, at: int) -> int:
    """The offset of the bracket that belongs to the one at `at`; `at` where there is none."""
    if at >= len(text):
        return at
    here = text[at]
    if here in _PAIRS:
        step, partner = 1, _PAIRS[here]
    elif here in _PAIRS.values():
        step, partner = -1, next(key for key, value in _PAIRS.items() if value == here)
    else:
        return at
    depth, place = 0, at
    while 0 <= place < len(text):
        if text[place] == here:
            depth += 1
        elif text[place] == partner:
            depth -= 1
            if depth == 0:
                return place
        place += step
    return at


def line_end_or_text_end(text: str, at: int) -> int:
    """The end of the line; from there, behind its last character that is not blank."""
    end = line_end(text, at)
    if at != end:
        return end
    start = line_start(text, at)
    return start + len(text[start:end].rstrip())


def text_start_or_line_start(text: str, at: int) -> int:
    """The first character of the line that is not blank; from there, the start of the line."""
    start = text_start(text, at)
    return line_start(text, at) if at == start else start


def matching_beside(text: str, at: int) -> int:
    """Like `matching`, also for a bracket at the left of `at`, of the first kind that is at either side: from an opening one
    at the right behind its partner, from one at the left before it; from a closing one at the left before its partner, from
    one at the right behind it. `at` where there is none, or it has no partner."""
    here = text[at] if at < len(text) else "\n"
    before = text[at - 1] if at and text[at - 1] != "\n" else "\n"
    for opening, closing in (("(", ")"), ("{", "}"), ("[", "]")):
        if opening in (here, before):
            found = matching(text, at if here == opening else at - 1)
            if found == (at if here == opening else at - 1):
                return at
            return found + 1 if here == opening else found
        if closing in (here, before):
            start = at - 1 if before == closing else at
            found = matching(text, start)
            if found == start:
                return at
            return found if before == closing else found + 1
    return at


def run_right(text: str, at: int) -> int:
    """Over the word at `at`, or over all blanks and line ends there, or over one sign."""
    if at >= len(text):
        return at
    kind = _runs(text[at])
    end = at + 1
    while kind < 2 and end < len(text) and _runs(text[end]) == kind:
        end += 1
    return end


def run_left(text: str, at: int) -> int:
    """Back over the word at the left, or over all blanks and line ends there, or over one sign."""
    if not at:
        return at
    kind = _runs(text[at - 1])
    start = at - 1
    while kind < 2 and start and _runs(text[start - 1]) == kind:
        start -= 1
    return start


def matching_ahead(text: str, at: int) -> int:
    """The partner of the first bracket from `at` on in its line; `at` where there is none."""
    end = line_end(text, at)
    first = next((place for place in range(at, end) if text[place] in "()[]{}"), None)
    if first is None:
        return at
    found = matching(text, first)
    return at if found == first else found


def matching_across(text: str, at: int) -> int | None:
    """From behind a bracket, before its partner; from before one, behind its partner; None where there is none."""
    is_behind = at > 0 and text[at - 1] in _PAIRED
    here = at - is_behind
    found = matching(text, here)
    return None if found == here else found + (not is_behind)


_PAIRED = "()[]{}"
