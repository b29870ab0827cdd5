"""Plain text for terminals and pipes: what fits the width, with styles that are left out where they are not wanted."""

import os
import re
from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

from ombix.core.errors import Place
from ombix.report.blocks import Block, Cell, Code, Grid, Groups, Paragraph, Style, Title

# ECMA-48, select graphic rendition.
_STYLES = {"strong": "1", "quiet": "2", "key": "36", "good": "32", "warn": "33", "bad": "31"}


class Display(NamedTuple):
    """What is written on: `width` in cells, whether styles are used, and the folder that paths are shown from."""

    width: int = 80
    colour: bool = False
    folder: str = ""

    def style(self, text: str, style: Style) -> str:
        """The text in a style."""
        return f"\x1b[{_STYLES[style]}m{text}\x1b[0m" if self.colour and style and text else text

    def path(self, path: str) -> str:
        """A path as people name it: relative to the folder they are in, where it lies below it or near it."""
        if not self.folder or not path.startswith("/"):
            return path
        inside = self.folder.rstrip("/") + "/"
        if path.startswith(inside):
            return path[len(inside) :]
        at_home = self.home_path(path)
        if at_home != path:
            return at_home
        relative = os.path.relpath(path, self.folder)
        return relative if relative.startswith("../") and not relative.startswith("../../") else path

    def home_path(self, path: str) -> str:
        """A path with `~` for the home folder, where it lies below that."""
        home = os.path.expanduser("~").rstrip("/") + "/"  # noqa: PTH111
        return f"~/{path[len(home) :]}" if len(home) > 1 and path.startswith(home) else path

    def place(self, place: Place) -> str:
        """A place with its path as people name it."""
        return str(place._replace(file=self.path(place.file)))


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


PLAIN = re.compile(
    r"[\x20-\x7e\xa0-\xac\xae-\u02ff\u2010-\u2027\u2190-\u2319\u2320-\u2328\u232b-\u23e8\u2400-\u2426\u2500-\u25fc]*"
)
"""Texts of characters of one cell each: asked first, since wcwidth takes as long to be imported as a look-up may."""


def width_of(text: str) -> int:
    """The width of a text in terminal cells, as wcwidth has it: what is put together to one sign takes the cells of one."""
    if PLAIN.fullmatch(text):
        return len(text)
    from wcwidth import wcswidth

    found = wcswidth(text)
    return found if found >= 0 else len(text)  # with a control character in it, which are made visible before


def render(blocks: Iterable[Block], display: Display) -> Iterator[str]:
    """The lines of blocks."""
    for block in blocks:
        match block:
            case Paragraph(cells, indent):
                yield from _paragraph(cells, display, indent)
            case Grid(rows, head, indent):
                for printed in table_rows(rows, display, head, indent):
                    yield from printed
            case Groups():
                yield from _groups(block, display)
            case Code(lines, indent):
                yield from (" " * indent + visible(line) if line else "" for line in lines)
            case Title(text, style):
                yield display.style(visible(text), style)
            case _:
                yield ""


def _groups(block: Groups, display: Display) -> Iterator[str]:
    rows: list[Sequence[Cell | str]] = []
    starts: dict[int, str] = {}
    if block.head:
        rows.append([Cell(text, "quiet") for text in block.head])
    for title, members in block.groups:
        starts[len(rows)] = title
        rows += members
    for index, lines in enumerate(table_rows(rows, display, indent=2)):
        if index in starts:
            if index:
                yield ""
            yield display.style(visible(starts[index]), "strong")
        yield from lines


def wrap(text: str, width: int, indent: int = 0) -> list[str]:
    """A paragraph broken at blanks to fit a width."""
    return [" " * indent + line for line in _wrap(visible(text), max(20, width - indent))]


def _paragraph(cells: Sequence[Cell | str], display: Display, indent: int) -> Iterator[str]:
    """The lines of a paragraph; a style goes on where the text is broken."""
    parts = [_cell(cell) for cell in cells]
    text = "".join(part.text for part in parts)
    styles: list[Style] = [part.style for part in parts for _ in part.text]
    at = 0
    for line in _wrap(text, max(20, display.width - indent)):
        at = text.index(line[0], at) if line else at
        pieces, start = [], 0
        for end in range(1, len(line) + 1):
            if end == len(line) or styles[at + end] != styles[at + start]:
                pieces.append(display.style(line[start:end], styles[at + start]))
                start = end
        yield (" " * indent + "".join(pieces)).rstrip()
        at += len(line)


def table_rows(
    rows: Sequence[Sequence[Cell | str]], display: Display, head: Sequence[str] = (), indent: int = 0
) -> list[list[str]]:
    """The printed lines of each row, the head first, columns two cells apart. Where the table is wider than the display,
    the widest columns are wrapped. Control characters are made visible."""
    cells = [[_cell(one) for one in row] for row in rows]
    if not cells:
        return []
    count = max(len(row) for row in cells)
    titles = [_cell(Cell(text, "quiet")) for text in head]
    everything = [titles, *cells] if titles else cells
    widths = [
        max((width_of(row[column].text) for row in everything if column < len(row)), default=0)
        for column in range(count)
    ]
    excess = indent + sum(widths) + 2 * (count - 1) - display.width
    for least in (_least_widths(everything, count), [_NARROWEST] * count):
        while excess > 0:
            widest = max(range(count), key=lambda column: widths[column] - least[column])
            if widths[widest] <= least[widest]:
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
                pieces.append(display.style(text, row[column].style) + padding)
            lines.append((" " * indent + "  ".join(pieces)).rstrip())
        printed.append(lines)
    return printed


_NARROWEST = 10
"""Terminal cells; a narrower column cannot be read."""


def _least_widths(rows: Sequence[Sequence[Cell]], count: int) -> list[int]:
    """How narrow each column can be without a chord being broken."""
    least = [_NARROWEST] * count
    for row in rows:
        for column, cell in enumerate(row):
            if cell.style == "key":
                least[column] = max(least[column], *(width_of(word) for word in cell.text.split(" ")))
    return least


def _cell(one: Cell | str) -> Cell:
    return Cell(visible(one.text), one.style) if isinstance(one, Cell) else Cell(visible(one))


def _wrap(text: str, width: int) -> list[str]:
    if width_of(text) <= width:
        return [text]
    lines: list[str] = []
    line: list[str] = []
    taken = 0  # cells of the line so far
    for word in text.split(" "):
        cells = width_of(word)
        while cells > width:
            head = _fitting(word, width - taken - (1 if line else 0))
            if not head:
                lines.append(" ".join(line))
                line, taken = [], 0
                continue
            lines.append(" ".join([*line, head]))
            line, taken, word = [], 0, word[len(head) :]
            cells = width_of(word)
        if line and taken + 1 + cells > width:
            lines.append(" ".join(line))
            line, taken = [word], cells
        else:
            taken += cells + (1 if line else 0)
            line.append(word)
    lines.append(" ".join(line))
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
