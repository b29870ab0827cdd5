"""Steps that change the text, and what is kept."""

from collections.abc import Callable, Sequence

from ombix.text.effects import text_motions
from ombix.text.effects.buffer import Buffer, Selected
from ombix.text.effects.program_words import Run, range_of, selected_characters, unquoted
from ombix.text.effects.selection_steps import select_on

_HOW_KEPT = ("lines", "more")


def copy_range(words: Sequence[str]) -> Run:
    """A range is kept: `lines` as lines, `more` behind what was kept."""
    found = range_of([word for word in words if word not in _HOW_KEPT])
    by_lines, more = "lines" in words, "more" in words

    def copy(b: Buffer) -> None:
        start, end = found(b)
        text = b.text[start:end]
        b.clipboard = b.clipboard + text if more else text
        b.by_lines = by_lines

    return copy


def change(b: Buffer, start: int, end: int, text: str) -> None:
    """Put `text` in place of what is between two offsets; cursor, anchor and what is held keep their characters."""
    b.replace(start, end, text)
    gone, new = end - start, len(text)

    def kept(at: int) -> int:
        return at if at <= start else at - gone + new if at >= end else start

    b.cursor = kept(b.cursor)
    if b.anchor is not None:
        b.anchor = kept(b.anchor)
    if b.held is not None:
        b.held = (kept(b.held[0]), kept(b.held[1]))
        if b.held[0] == b.held[1]:
            b.held = None


def remove(words: Sequence[str]) -> Run:
    """A range is taken away; what is selected stays so."""
    found = range_of(words)
    return lambda b: change(b, *found(b), "")


def kill(words: Sequence[str]) -> Run:
    """A range is kept, and taken away; where that adds up and it was just before or behind the place of what was kept, with
    that."""
    found = range_of(words)

    def kill(b: Buffer) -> None:
        start, end = found(b)
        if start == end:
            return
        text = b.text[start:end]
        if b.adds_up and start == b.killed_at:
            text = b.clipboard + text
        elif b.adds_up and end == b.killed_at:
            text = text + b.clipboard
        b.clipboard, b.by_lines, b.adds_up, b.killed_at = text, False, True, start
        change(b, start, end, "")

    return kill


def delete(words: Sequence[str]) -> Run:
    """A range is taken away, the cursor comes to where it was, or with `same-cell` as far behind that as it was in its line
    (`kept`: as moves up and down keep to), and nothing is selected."""
    found = range_of(words)
    is_stretch, keeps_cell = words[0] != "to", "same-cell" in words

    def delete(b: Buffer) -> None:
        start, end = found(b)
        if is_stretch:
            is_own = (start, end) == b.selection
            b.moment = Selected(b.cursor, b.anchor if is_own else None, b.held if is_own else (start, end))
        width = b.settings.tab_width
        cell = (
            text_motions.cells(b.text[text_motions.line_start(b.text, b.cursor) : b.cursor], width) if keeps_cell else 0
        )
        if "kept" in words and b.goal is not None:
            cell = b.goal
        b.text = b.text[:start] + b.text[end:]
        b.cursor = text_motions.at_cell(b.text, start, cell, width) if keeps_cell else start
        b.drop()

    return delete


def cut(words: Sequence[str]) -> Run:
    """A range is kept and taken away."""
    keep, take = copy_range(words), delete([word for word in words if word not in _HOW_KEPT])

    def cut(b: Buffer) -> None:
        keep(b)
        take(b)

    return cut


def insert_text(words: Sequence[str]) -> Run:
    """Something is put in at the cursor, which goes behind it; selection and mark keep their places."""
    text = text_of(words[0])

    def insert(b: Buffer) -> None:
        piece = text(b)
        at = b.cursor
        if not (b.marking or b.has_selection):
            b.drop()
        b.replace(at, at, piece)
        b.cursor = at + len(piece)
        if b.anchor is not None and b.anchor > at:
            b.anchor += len(piece)
        if b.held is not None:
            first, last = b.held
            b.held = first + len(piece) * (first >= at), last + len(piece) * (last >= at)

    return insert


def type_text(words: Sequence[str]) -> Run:
    """Something is typed: in place of the selection, the cursor behind it."""
    text = text_of(words[0])

    def put(b: Buffer) -> None:
        piece = text(b)
        start, end = b.selection
        b.replace(start, end, piece)
        b.cursor = start + len(piece)
        b.drop()

    return put


def text_of(word: str) -> Callable[[Buffer], str]:
    """The text that a word names, or that stands in quotes. Raises KeyError where there is none."""
    if word == "kept":
        return lambda b: b.clipboard
    if word == "kept-indented":
        return _kept_indented
    if word == "indentation":
        return _indentation
    if word == "break":
        return lambda b: "\n"
    if word == "break-and-indentation":
        return _break_and_indentation
    if word == "own-indentation":
        return _own_indentation
    if word == "comment":
        return lambda b: b.settings.comment
    if word == "line-text":
        return lambda b: b.text[text_motions.line_start(b.text, b.cursor) : text_motions.line_end(b.text, b.cursor)]
    if word == "selection":
        return lambda b: b.text[slice(*b.selection)]
    if word[0] != '"':
        raise KeyError(word)
    said = unquoted(word)
    return lambda b: said


def _kept_indented(b: Buffer) -> str:
    """What was kept, its lines behind the first indented like the line that it goes into, where the first is not and goes
    behind something."""
    start = text_motions.line_start(b.text, b.cursor)
    if b.cursor == start or b.clipboard.lstrip("\r\n")[:1] in (" ", "\t"):
        return b.clipboard
    return b.clipboard.replace("\n", "\n" + b.text[start : text_motions.text_start(b.text, b.cursor)])


def _indentation(b: Buffer) -> str:
    settings, at = b.settings, b.selection[0]
    if not settings.soft_tabs:
        return settings.indentation
    width = settings.tab_width
    return " " * (width - text_motions.cells(b.text[text_motions.line_start(b.text, at) : at], width) % width)


def _own_indentation(b: Buffer) -> str:
    """The blanks that the line begins with, where new lines are indented."""
    start = text_motions.line_start(b.text, b.cursor)
    return b.text[start : text_motions.text_start(b.text, b.cursor)] if b.settings.auto_indent else ""


def _break_and_indentation(b: Buffer) -> str:
    at = b.selection[0]
    start = text_motions.line_start(b.text, at)
    first = min(text_motions.text_start(b.text, at), at)
    return "\n" + (b.text[start:first] if b.settings.auto_indent else "")


def fill(words: Sequence[str]) -> Run:
    """Something is put in at the cursor, which goes behind it; what is selected keeps its characters."""
    text = text_of(words[0])

    def fill(b: Buffer) -> None:
        piece, at = text(b), b.cursor
        change(b, at, at, piece)
        b.cursor = at + len(piece)

    return fill


def paste_stay(words: Sequence[str]) -> Run:
    """What was kept is put in at the cursor, which stays."""

    def put(b: Buffer) -> None:
        change(b, b.cursor, b.cursor, b.clipboard)

    return put


def put_beside(words: Sequence[str]) -> Run:
    """What was kept is put in behind or before the selection, lines below or above its lines, and selected."""
    behind = words[0] == "behind"

    def put(b: Buffer) -> None:
        start, end = selected_characters(b)
        if b.clipboard.endswith("\n"):
            at = (
                min(len(b.text), text_motions.line_end(b.text, end - 1) + 1)
                if behind
                else text_motions.line_start(b.text, start)
            )
        else:
            at = end if behind else start
        b.replace(at, at, b.clipboard)
        b.cursor, b.anchor = at, None
        select_on(b, at, at + max(len(b.clipboard), 1) - 1)

    return put


def complete(words: Sequence[str]) -> Run:
    """The text ends with a line break, and the cursor is on a character."""

    def complete(b: Buffer) -> None:
        if not b.text.endswith("\n"):
            b.text += "\n"
        if b.cursor >= len(b.text) and (b.anchor is None or b.anchor == b.cursor):
            b.cursor, b.anchor = len(b.text) - 1, None

    return complete


def close_line(words: Sequence[str]) -> Run:
    """A text that is not empty ends with a line break; the cursor stays."""

    def close(b: Buffer) -> None:
        if b.text and not b.text.endswith("\n"):
            b.text += "\n"

    return close


def put_lines(words: Sequence[str]) -> Run:
    """What was kept is put in `below` or `above` the line, the cursor at its start."""
    below = words[0] == "below"

    def put(b: Buffer) -> None:
        at = text_motions.line_end(b.text, b.cursor) + 1 if below else text_motions.line_start(b.text, b.cursor)
        b.replace(at, at, b.clipboard if b.clipboard.endswith("\n") else b.clipboard + "\n")
        b.cursor = at
        b.drop()

    return put
