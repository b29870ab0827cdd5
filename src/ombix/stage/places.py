"""Places in a text: where a move leads to, as functions from a text and an offset to an offset."""

from ombix.stage.state import Settings


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
        width += tab_width - width % tab_width if char == "\t" else 1
    return width


def at_cell(text: str, start: int, cell: int, tab_width: int) -> int:
    """The offset in the line from `start` on whose character covers `cell`, or the line's end."""
    end, width, at = line_end(text, start), 0, start
    while at < end:
        width += tab_width - width % tab_width if text[at] == "\t" else 1
        if width > cell:
            break
        at += 1
    return at


def up(text: str, at: int, cell: int, settings: Settings) -> int:
    """The offset in the line above that covers a cell; on the first line its start, or where it was."""
    start = line_start(text, at)
    if start == 0:
        return at if settings.stops_at_edges else 0
    return at_cell(text, line_start(text, start - 1), cell, settings.tab_width)


def down(text: str, at: int, cell: int, settings: Settings) -> int:
    """The offset in the line below that covers a cell; on the last line its end, or where it was."""
    end = line_end(text, at)
    if end == len(text):
        return at if settings.stops_at_edges else end
    return at_cell(text, end + 1, cell, settings.tab_width)


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


def next_word(text: str, at: int) -> int:
    """The start of the next word of letters and digits."""
    while at < len(text) and text[at].isalnum():
        at += 1
    while at < len(text) and not text[at].isalnum():
        at += 1
    return at


def previous_word(text: str, at: int) -> int:
    """The start of the word of letters and digits at the left."""
    while at > 0 and not text[at - 1].isalnum():
        at -= 1
    while at > 0 and text[at - 1].isalnum():
        at -= 1
    return at


def chop_right(text: str, at: int) -> int:
    """The start of the next word, but not beyond the line's end; from there, the start of the line that has it."""
    place, end = next_word(text, at), line_end(text, at)
    if place <= end:
        return place
    return end if at < end else line_start(text, place)


def chop_left(text: str, at: int) -> int:
    """The start of the previous word, but not beyond the line's start; from there, the end of the line that has it."""
    place, start = previous_word(text, at), line_start(text, at)
    if place >= start:
        return place
    return start if at > start else line_end(text, place)


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
    """The start of the next block of lines."""
    place = line_start(text, at)
    while not _is_blank_line(text, place):
        if line_end(text, place) == len(text):
            return len(text)
        place = line_end(text, place) + 1
    while _is_blank_line(text, place):
        if line_end(text, place) == len(text):
            return len(text)
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


def text_start_or_line_start(text: str, at: int) -> int:
    """The first character of the line that is not blank; from there, the start of the line."""
    start = text_start(text, at)
    return line_start(text, at) if at == start else start
