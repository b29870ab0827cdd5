"""How sheets are laid out: as text in blocks, and on pages, in columns of about the same height with no row cut."""

from collections.abc import Callable, Iterator, Sequence
from itertools import takewhile
from typing import NamedTuple

from ombix.report.blocks import Blank, Block, Cell, Groups, line
from ombix.report.drawing.drawn_items import INK, KEY, QUIET, Item, Label, Page, Segment
from ombix.report.drawing.typefaces import Typefaces
from ombix.report.terminal_text import Display, visible
from ombix.work.learn.sheet_answer import Sheet, SheetGroup, SheetKeys, SheetRow
from ombix.workspace.condition_words import in_words

PAPERS = {"a4": (595.28, 841.89), "letter": (612.0, 792.0)}
"""Width and height in points: ISO 216, and ANSI Y14.1 A."""
_CHANGES = {"new": "now", "moved": "now", "gone": "no longer"}


def sheet_blocks(found: Sheet, display: Display) -> list[Block]:
    """A sheet as text."""
    head = ("", *found.columns) if len(found.columns) > 1 else ()
    blocks: list[Block] = [line(found.about)] if found.about else []
    groups = [(group.title, [_cells(row, found) for row in group.rows]) for group in found.groups]
    blocks.append(Groups(groups, head))
    if found.notes:
        blocks += [Blank(), *(line(Cell(note, "warn")) for note in found.notes)]
    return blocks


def _cells(row: SheetRow, found: Sheet) -> list[Cell | str]:
    keys: list[Cell | str] = [Cell(", ".join(map(_said, cell)) or "–", "key") for cell in row.keys]
    title = _titled(row)
    what = Cell(title, "quiet" if row.is_default or row.change == "gone" else "")
    cells = [what, *keys] if len(found.columns) > 1 else [*keys, what]
    return [*cells, Cell(in_words(row.when), "quiet")] if found.order != "state" else cells


def _titled(row: SheetRow) -> str:
    """What a row does, and what became of it."""
    was = f", before {', '.join(row.was)}" if row.was else ""
    return f"{_CHANGES[row.change]}: {row.title}{was}" if row.change else row.title


def _said(one: SheetKeys) -> str:
    if one.why_not:
        return f"{one.keys} (no such key)"
    return f"{one.keys} ({one.press})" if one.press else one.keys


# --- pages


_MARGIN, _GAP = 34.0, 20.0
_TINY, _LEAST, _USUAL, _MOST = 2.0, 6.5, 8.5, 10.5
"""Points of the text: the least of all, for one page at any price; the least that is legible on paper; what it is where it takes
several pages; and the most."""
_STEP = 0.5
_LEADING = 1.32
_NARROWEST = 21.0
"""Sizes of the text that a column has at least; with each further column of keys some more."""
_SMALL = 0.25
"""The part of a column up to which a group is not divided."""
_BESIDE = 0.84
_MOST_LINES = 12
"""Lines of one text in a row; the rest of it is left out."""
_LONG_WORD = 400
"""Characters of a word that is too long for any line."""
"""The size of what is said beside, in sizes of the text."""


class _Part(NamedTuple):
    """Something that stands in a column whole: its height, what it is made of at a place, and the number of its group.
    `is_continued`: it says that the group goes on in another column."""

    height: float
    draw: Callable[[float, float], Iterator[Item]]
    group: int
    is_heading: bool = False
    is_continued: bool = False


class _Shape(NamedTuple):
    """How a sheet is set: the size of the text, the number of columns, the width of each, and that of its keys."""

    size: float
    columns: int
    width: float
    keys: tuple[float, ...]


def sheet_pages(found: Sheet, paper: str, typefaces: Typefaces, one_page: bool = False) -> list[Page]:
    """A sheet on paper: on one page as large as it fits there, where that is legible, or else on several.

    `paper` is one of `PAPERS`, or empty for a single page as high as it needs to be.
    """
    width, height = PAPERS.get(paper, (1120.0, 0.0))
    setting = _Setting(found, width, typefaces)
    top = _MARGIN + setting.head_height
    room = height - top - _MARGIN if height else 0.0
    if not height:
        shape = setting.shape(_USUAL + 1, min(3, setting.most_columns(_USUAL + 1)))
        parts = setting.parts(shape)
        columns = _balanced(parts, shape.columns, setting, shape)
        high = max((_height(column) for column in columns), default=0.0)
        return [setting.page(columns, shape, width, top + high + _MARGIN, "")]
    best = _best(setting, room, _TINY if one_page else _LEAST)
    shape = best or setting.shape(_USUAL, setting.most_columns(_USUAL))
    pages: list[list[list[_Part]]] = []
    rest = _filled(setting.parts(shape), room, setting, shape)
    for at in range(0, len(rest), shape.columns):
        pages.append(rest[at : at + shape.columns])
    if pages:  # the last one
        last = [part for column in pages[-1] for part in column if not part.is_continued]
        pages[-1] = _balanced(last, shape.columns, setting, shape)
    count = len(pages)
    return [
        setting.page(columns, shape, width, height, f"{number} of {count}" if count > 1 else "")
        for number, columns in enumerate(pages, 1)
    ]


def _best(setting: "_Setting", room: float, least: float) -> _Shape | None:
    """The largest text that fits on one page."""
    size = _MOST
    while size >= least:
        for columns in range(1, setting.most_columns(size) + 1):
            shape = setting.shape(size, columns)
            if len(_filled(setting.parts(shape), room, setting, shape)) <= columns:
                return shape
        size -= _STEP
    return None


def _height(column: Sequence[_Part]) -> float:
    return sum(part.height for part in column)


def _filled(parts: Sequence[_Part], room: float, setting: "_Setting", shape: _Shape) -> list[list[_Part]]:
    """Parts in columns, each filled as far as there is room; no heading stands at the end of one."""
    columns: list[list[_Part]] = [[]]
    used = 0.0
    if parts and not parts[0].is_heading:
        columns[-1].append(setting.continued(parts[0].group, shape))
        used = columns[-1][0].height
    for index, part in enumerate(parts):
        following = _kept_together(parts[index + 1 :], part.group, room) if part.is_heading else 0.0
        if columns[-1] and used + part.height + following > room:
            columns.append([])
            used = 0.0
            if not part.is_heading:
                columns[-1].append(setting.continued(part.group, shape))
                used = columns[-1][0].height
        columns[-1].append(part)
        used += part.height
    return columns


def _kept_together(following: Sequence[_Part], group: int, room: float) -> float:
    """The height of the rows that stay with their heading: all of a small group, else the first."""
    rows = list(takewhile(lambda part: part.group == group and not part.is_heading, following))
    height = _height(rows)
    return height if height <= room * _SMALL else _height(rows[:2])


def _balanced(parts: Sequence[_Part], columns: int, setting: "_Setting", shape: _Shape) -> list[list[_Part]]:
    """Parts in so many columns, the highest of which is as low as can be."""
    low, high = 0.0, _height(parts) + 1.0
    while high - low > 1.0:
        middle = (low + high) / 2
        if len(_filled(parts, middle, setting, shape)) <= columns:
            high = middle
        else:
            low = middle
    return _filled(parts, high, setting, shape)


class _Setting:
    """Sets the rows of a sheet: how high each is, and what is drawn of it."""

    def __init__(self, found: Sheet, width: float, typefaces: Typefaces) -> None:
        self._found = found
        self._width = width
        self._typefaces = typefaces
        self._parts: dict[_Shape, list[_Part]] = {}
        self.head_height = (34.0 if found.about else 24.0) + (14.0 if len(found.columns) > 1 else 0.0)

    def most_columns(self, size: float) -> int:
        """How many columns there are at the most with a text of this size."""
        narrowest = size * (_NARROWEST + 9.0 * (len(self._found.columns) - 1))
        return max(1, min(4 if size >= _LEAST else 7, int((self._width - 2 * _MARGIN + _GAP) // (narrowest + _GAP))))

    def shape(self, size: float, columns: int) -> _Shape:
        """How wide all is with a text of a size in so many columns."""
        width = (self._width - 2 * _MARGIN - (columns - 1) * _GAP) / columns
        number = len(self._found.columns)
        most = width * (0.44 if number == 1 else 0.62 / number)
        keys = []
        for index in range(number):
            texts = [one.keys for group in self._found.groups for row in group.rows for one in row.keys[index]]
            needed = max((self._typefaces.width(text, size, True) for text in texts), default=0.0) + size
            title = self._typefaces.width(self._found.columns[index], size * _BESIDE) + size if number > 1 else 0.0
            keys.append(min(max(needed, min(title, most)), most))
        return _Shape(size, columns, width, tuple(keys))

    def parts(self, shape: _Shape) -> list[_Part]:
        """The headings and the rows, in order."""
        if shape not in self._parts:
            self._parts[shape] = [
                part
                for number, group in enumerate(self._found.groups)
                for part in (self._heading(group.title, number, shape), *self._rows(group, number, shape))
            ]
        return self._parts[shape]

    def continued(self, group: int, shape: _Shape) -> _Part:
        """What stands above a group that goes on in the next column."""
        return self._heading(f"{self._found.groups[group].title} (continued)", group, shape)._replace(is_continued=True)

    def _heading(self, title: str, group: int, shape: _Shape) -> _Part:
        size = shape.size
        lines = self._wrapped(title, shape.width, size * 1.1, True)
        height = size * (len(lines) * _LEADING * 1.1 + 1.15)

        def draw(x: float, y: float) -> Iterator[Item]:
            for number, text in enumerate(lines):
                yield Label(x, y + size * (1.55 + number * _LEADING * 1.1), text, size * 1.1, True)
            yield Segment(x, y + height - size * 0.3, x + shape.width, y + height - size * 0.3)

        return _Part(height, draw, group, True)

    def _rows(self, group: SheetGroup, number: int, shape: _Shape) -> Iterator[_Part]:
        for row in group.rows:
            yield self._row(row, number, shape)

    def _row(self, row: SheetRow, group: int, shape: _Shape) -> _Part:
        size, beside = shape.size, shape.size * _BESIDE
        title_width = shape.width - sum(shape.keys) - size * 0.4
        cells: list[list[tuple[str, float, bool, str]]] = []
        for index, keys in enumerate(row.keys):
            cells.append([line for key in keys for line in self._key_lines(key, shape.keys[index] - size * 0.6, shape)])
        words = _titled(row)
        colour = QUIET if row.is_default or row.change == "gone" else INK
        told = [(text, size, False, colour) for text in self._wrapped(words, title_width, size, False)]
        if row.when and self._found.order != "state":
            told += [
                (text, beside, False, QUIET) for text in self._wrapped(in_words(row.when), title_width, beside, False)
            ]
        columns = [*cells, told] if len(row.keys) == 1 else [told, *cells]
        widths = [*shape.keys, title_width] if len(row.keys) == 1 else [title_width + size * 0.4, *shape.keys]
        height = max(sum(line[1] * _LEADING for line in lines) for lines in columns) + size * 0.22

        def draw(x: float, y: float) -> Iterator[Item]:
            for lines, width in zip(columns, widths, strict=True):
                at = y
                for text, points, bold, shade in lines:
                    at += points * _LEADING
                    yield Label(x, at - points * 0.3, text, points, bold, shade)
                x += width

        return _Part(height, draw, group)

    def _key_lines(self, one: SheetKeys, width: float, shape: _Shape) -> Iterator[tuple[str, float, bool, str]]:
        beside = shape.size * _BESIDE
        for text in self._wrapped(one.keys, width, shape.size, True):
            yield text, shape.size, True, KEY
        said = "no such key" if one.why_not else one.press
        for text in self._wrapped(said, width, beside, False) if said else ():
            yield text, beside, False, QUIET

    def _wrapped(self, text: str, width: float, size: float, bold: bool) -> list[str]:
        """A text in lines that fit; a word that is too long by itself is broken. Of a very long text the rest is left out."""
        lines: list[str] = []
        for word in map(visible, text.split()):
            joined = f"{lines[-1]} {word}" if lines else word
            if lines and self._typefaces.width(joined, size, bold) <= width:
                lines[-1] = joined
                continue
            while len(word) > 1 and (len(word) > _LONG_WORD or self._typefaces.width(word, size, bold) > width):
                count = self._fitting(word, width, size, bold)
                lines.append(word[:count])
                word = word[count:]
                if len(lines) > _MOST_LINES:
                    break
            lines.append(word)
            if len(lines) > _MOST_LINES:
                last = lines[_MOST_LINES - 1]
                return [*lines[: _MOST_LINES - 1], f"{last[: max(1, len(last) - 2)]}…"]
        return lines or [""]

    def _fitting(self, word: str, width: float, size: float, bold: bool) -> int:
        """How many characters of a word fit, behind a sign between two where there is one."""
        low, high = 1, min(len(word), _LONG_WORD)
        while low < high:
            middle = (low + high + 1) // 2
            if self._typefaces.width(word[:middle], size, bold) <= width:
                low = middle
            else:
                high = middle - 1
        sign = max((word.rfind(sign, 1, low) + 1 for sign in "+-_.,/"), default=0)
        return sign if sign > low // 2 else low

    def page(self, columns: Sequence[Sequence[_Part]], shape: _Shape, width: float, height: float, number: str) -> Page:
        """A page with its columns."""
        found, items = self._found, list[Item]()
        title = self._wrapped(found.title, width - 2 * _MARGIN - 60, 15, True)[0]
        items.append(Label(_MARGIN, _MARGIN + 10, title, 15, True))
        if found.about:
            items.append(
                Label(
                    _MARGIN, _MARGIN + 23, self._wrapped(found.about, width - 2 * _MARGIN, 8, False)[0], 8, colour=QUIET
                )
            )
        if number:
            items.append(Label(width - _MARGIN, _MARGIN + 10, number, 8, colour=QUIET, anchor="end"))
        for index, column in enumerate(columns):
            x, y = _MARGIN + index * (shape.width + _GAP), _MARGIN + self.head_height
            if len(found.columns) > 1 and column:
                items += self._column_titles(x, y, shape)
            for part in column:
                items += part.draw(x, y)
                y += part.height
        for at, note in enumerate(found.notes):
            text = self._wrapped(note, width - 2 * _MARGIN, 7, False)[0]
            items.append(Label(_MARGIN, height - _MARGIN / 2 - at * 9, text, 7, colour=QUIET))
        return Page(width, height, items, found.title)

    def _column_titles(self, x: float, y: float, shape: _Shape) -> Iterator[Item]:
        at = x + shape.width - sum(shape.keys)
        for title, width in zip(self._found.columns, shape.keys, strict=True):
            size = shape.size * _BESIDE
            lines = self._wrapped(title, width - 3, size, False)[:2]
            for number, text in enumerate(lines):
                yield Label(at, y + 1 - (len(lines) - 1 - number) * size * 1.2, text, size, colour=QUIET)
            at += width
