"""Plain text for terminals and pipes: tables that fit the width, styles that are left out where they are not wanted."""

import unicodedata
from collections.abc import Sequence
from typing import NamedTuple

# ECMA-48, select graphic rendition.
_STYLES = {"strong": "1", "quiet": "2", "key": "36", "good": "32", "warn": "33", "bad": "31"}


class Cell(NamedTuple):
    """A text and its style: strong, quiet, key, good, warn, bad, or none."""

    text: str
    style: str = ""


class Paper(NamedTuple):
    """What is written on: `width` in cells, and whether styles are used."""

    width: int = 80
    colour: bool = False

    def style(self, text: str, style: str) -> str:
        """The text in a style."""
        return f"\x1b[{_STYLES[style]}m{text}\x1b[0m" if self.colour and style and text else text


def visible(text: str) -> str:
    """The text with control characters made visible, so that a file cannot steer the terminal."""
    if text.isprintable():
        return text
    return "".join(_visible(char) for char in text)


def _visible(char: str) -> str:
    if char.isprintable():
        return char
    if char == "\x7f":
        return "␡"
    code = ord(char)
    return chr(0x2400 + code) if code < 32 else f"⟨U+{code:04X}⟩"


def width_of(text: str) -> int:
    """The width of a text in terminal cells (Unicode Standard Annex 11; combining marks take none)."""
    if text.isascii():
        return len(text)
    return sum(
        0 if unicodedata.combining(char) else 2 if unicodedata.east_asian_width(char) in "WF" else 1 for char in text
    )


def table(rows: Sequence[Sequence[Cell | str]], paper: Paper, head: Sequence[str] = (), indent: int = 0) -> list[str]:
    """Rows as aligned lines, columns two cells apart; see `table_rows`."""
    return [line for row in table_rows(rows, paper, head, indent) for line in row]


def table_rows(
    rows: Sequence[Sequence[Cell | str]], paper: Paper, head: Sequence[str] = (), indent: int = 0
) -> list[list[str]]:
    """The printed lines of each row, the head first. Where the table is wider than the paper, the widest columns are
    wrapped. Control characters are made visible."""
    cells = [[_cell(one) for one in row] for row in rows]
    if not cells:
        return []
    count = max(len(row) for row in cells)
    titles = [Cell(text, "quiet") for text in head]
    everything = [titles, *cells] if titles else cells
    widths = [
        max((width_of(row[column].text) for row in everything if column < len(row)), default=0)
        for column in range(count)
    ]
    excess = indent + sum(widths) + 2 * (count - 1) - paper.width
    while excess > 0:
        widest = max(range(count), key=lambda column: widths[column])
        if widths[widest] <= 10:
            break
        widths[widest] -= 1
        excess -= 1
    printed: list[list[str]] = []
    for row in everything:
        lines: list[str] = []
        columns = [_wrap(one.text, widths[column]) for column, one in enumerate(row)]
        for line in range(max((len(column) for column in columns), default=0)):
            pieces = []
            for column, wrapped in enumerate(columns):
                text = wrapped[line] if line < len(wrapped) else ""
                padding = " " * (widths[column] - width_of(text)) if column + 1 < len(row) else ""
                pieces.append(paper.style(text, row[column].style) + padding)
            lines.append((" " * indent + "  ".join(pieces)).rstrip())
        printed.append(lines)
    return printed


def wrap(text: str, paper: Paper, indent: int = 0) -> list[str]:
    """A paragraph broken at blanks to fit the paper."""
    return [" " * indent + line for line in _wrap(visible(text), max(20, paper.width - indent))]


def _cell(one: Cell | str) -> Cell:
    return Cell(visible(one.text), one.style) if isinstance(one, Cell) else Cell(visible(one))


def _wrap(text: str, width: int) -> list[str]:
    if width_of(text) <= width:
        return [text]
    lines: list[str] = []
    line = ""
    for word in text.split(" "):
        while width_of(word) > width:
            head = _fitting(word, width - width_of(line) - (1 if line else 0))
            if not head:
                lines.append(line)
                line = ""
                continue
            lines.append(f"{line} {head}" if line else head)
            line, word = "", word[len(head) :]
        if line and width_of(line) + 1 + width_of(word) > width:
            lines.append(line)
            line = word
        else:
            line = f"{line} {word}" if line else word
    lines.append(line)
    return lines


def _fitting(word: str, width: int) -> str:
    taken = ""
    for char in word:
        if width_of(taken + char) > width:
            break
        taken += char
    # Long names break where their parts do.
    for mark in "/|,.-":
        cut = taken.rfind(mark)
        if cut >= width // 2 and len(taken) < len(word):
            return taken[: cut + 1]
    return taken
