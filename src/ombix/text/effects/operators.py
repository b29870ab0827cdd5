"""Operators of modal editors: what is done to the text between the cursor and where a movement leads."""

from collections.abc import Callable, Sequence
from typing import NamedTuple

from ombix.text.effects import text_motions
from ombix.text.effects.buffer import Buffer, Settings
from ombix.text.effects.line_steps import indented_cells, outdented_cells
from ombix.text.effects.program_words import Run, Stop

KINDS = ("exclusive", "inclusive", "lines", "far-lines", "to-lines", "words")
"""What of a movement is operated on: up to, and not with, where it leads; with that character, but for a line's end; whole lines,
behind which the cursor is in its column or, `far`, at their first word;
where it leads from the start of a line to the start of one, whole lines, and up to the end of the line before where it leads to a
line's start; up to the end of the last word of a line, where it leads to the first one of another (POSIX.1, vi)."""


class _Range(NamedTuple):
    """What is operated on: offsets, whether these are whole lines, and whether the cursor goes to the first word behind it."""

    first: int
    last: int
    by_lines: bool
    is_far: bool = False


def over(kind: str, operator: str, movement: Sequence[Run]) -> Run:
    """Operate on what a movement goes over. Raises KeyError for a kind or an operator that there is not."""
    if kind not in KINDS:
        raise KeyError(kind)
    operate = _OPERATORS[operator]

    def run(b: Buffer) -> None:
        moved = b.copy()
        for step in movement:
            step(moved)
        found = _range(b, moved.cursor, kind)
        if found.first == found.last:
            raise Stop
        operate(b, found, moved.cursor)

    return run


def operate(b: Buffer, goal: int, kind: str, operator: str) -> bool:
    """Operate on the text between the cursor and where a movement led, or on what is selected where the kind is `selected`.
    Whether there is anything between them."""
    if kind == "selected":
        first, last = b.selection
        by_lines = (
            first < last and text_motions.line_start(b.text, first) == first and b.text[first:last].endswith("\n")
        )
        found = _Range(first, last, by_lines)
        b.drop()
        b.cursor = goal = first
    else:
        found = _range(b, goal, kind)
    if found.first == found.last:
        return False
    _OPERATORS[operator](b, found, goal)
    return True


def _range(b: Buffer, goal: int, kind: str) -> _Range:
    text = b.text
    first, last = min(b.cursor, goal), max(b.cursor, goal)
    if kind == "inclusive":
        return _Range(first, min(last + 1, text_motions.line_end(text, last)), False)
    if kind in ("lines", "far-lines"):
        return _lines(text, first, last)._replace(is_far=kind == "far-lines")
    if kind == "to-lines" and last > first and text_motions.line_start(text, last) == last and "\n" in text[first:last]:
        if first <= text_motions.text_start(text, first):
            return _lines(text, first, last - 1)
        last -= 1
    if (
        kind == "words"
        and "\n" in text[first:last]
        and not text[text_motions.line_start(text, last) : last].strip(" \t")
    ):
        words = len(text[first:last].rstrip(" \t\n"))
        last = text.index("\n", first + words) if words else max(first, text_motions.line_start(text, last) - 1)
    return _Range(first, last, False)


def _lines(text: str, first: int, last: int) -> _Range:
    return _Range(text_motions.line_start(text, first), min(text_motions.line_end(text, last) + 1, len(text)), True)


def _copy(b: Buffer, found: _Range, goal: int) -> None:
    first, last, by_lines, _is_far = found
    kept = b.text[first:last]
    b.clipboard = f"{kept}\n" if by_lines and not kept.endswith("\n") else kept
    b.by_lines = by_lines
    b.cursor = min(b.cursor, goal) if by_lines else first


def _delete(b: Buffer, found: _Range, goal: int) -> None:
    first, last, by_lines, is_far = found
    here = b.cursor
    _copy(b, found, goal)
    if not by_lines:
        b.text = b.text[:first] + b.text[last:]
        b.cursor = first
        b.drop()
        return
    if last == len(b.text) and not b.text.endswith("\n") and first:
        first -= 1
    start, width = text_motions.line_start(b.text, here), b.settings.tab_width
    is_on = here < text_motions.line_end(b.text, here)
    cell = text_motions.cells(b.text[start : here + is_on], width) - is_on  # the last one of a tab
    cell = cell if b.goal is None else b.goal
    b.text = b.text[:first] + b.text[last:] or "\n"  # a line is always there
    at = min(first, len(b.text))
    if at == len(b.text) and at:
        at = text_motions.line_start(b.text, at - 1)
    there = min(text_motions.at_cell(b.text, at, cell, width), max(at, text_motions.line_end(b.text, at) - 1))
    b.cursor = text_motions.text_start(b.text, at) if is_far else there
    b.drop()


def _shift(by: Callable[[str, Settings], str], goes_back: bool) -> Callable[[Buffer, _Range, int], None]:
    """Lines further to the right or left: the cursor keeps its character, or goes back twice by what was taken away, as nvi's."""

    def shift(b: Buffer, found: _Range, goal: int) -> None:
        first, last, *_more = _lines(b.text, found.first, max(found.first, found.last - 1))
        here, start = b.cursor, text_motions.line_start(b.text, b.cursor)
        _copy(b, _Range(first, last, True), goal)
        own, column = b.text.count("\n", first, start), here - start
        lines = b.text[first:last].split("\n")
        after = [by(line, b.settings) if line or number < len(lines) - 1 else line for number, line in enumerate(lines)]
        b.text = b.text[:first] + "\n".join(after) + b.text[last:]
        grown = len(after[own]) - len(lines[own])
        if goes_back:
            column = min(column, max(len(after[own]) - 1, 0))
            column = column + grown if column + grown >= 0 else column
        else:
            column += grown
        b.cursor = first + sum(len(line) + 1 for line in after[:own]) + column
        b.drop()

    return shift


def _change(b: Buffer, found: _Range, goal: int) -> None:
    """Taken away for something else to be typed there: of whole lines an empty one stays."""
    first, last, by_lines, _is_far = found
    _copy(b, found, goal)
    if by_lines and b.text[first:last].endswith("\n"):
        last -= 1
    b.text = b.text[:first] + b.text[last:]
    b.cursor = first
    b.drop()


def _swap_case(b: Buffer, found: _Range, goal: int) -> None:
    kept = b.text[found.first : found.last]
    b.text = b.text[: found.first] + kept.swapcase() + b.text[found.last :]
    b.cursor = found.first


_OPERATORS: dict[str, Callable[[Buffer, _Range, int], None]] = {
    "case": _swap_case,
    "change": _change,
    "copy": _copy,
    "delete": _delete,
    "indent": _shift(indented_cells, False),
    "outdent": _shift(outdented_cells, True),
}
OPERATORS = tuple(_OPERATORS)
