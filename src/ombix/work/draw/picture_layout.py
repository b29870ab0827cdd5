"""How keyboards are drawn: each key with what is printed on it, a sign and a colour for its kind of work, and what it does."""

from collections.abc import Iterator, Sequence

from ombix.report.blocks import Blank, Block, Cell, Code, Grid, Title, line
from ombix.report.drawing.colours import contrasting, heat
from ombix.report.drawing.drawn_items import INK, LINE, QUIET, Box, Item, Label, Page
from ombix.report.drawing.typefaces import Typefaces
from ombix.report.terminal_text import Display, visible, width_of
from ombix.work.draw.picture_answer import KeyboardPicture, PictureKey, PicturePanel

_UNIT = 58.0
"""Points of a key of one unit."""
_MARGIN, _SPACE = 30.0, 3.0
_SIGN_KINDS = {"begins": "…", "kept": "×", "impossible": "–", "held": "▼"}
_KIND_WORDS = {
    "begins": "begins longer keys", "kept": "kept by the system", "impossible": "cannot be pressed, or is not sent",
    "held": "held",
}  # fmt: skip
_SHADE, _PALE, _FREE = "#e9e6df", "#f6f5f1", "#ffffff"
"""Colours of keys that are kept or held, of those that cannot be pressed, and of free ones."""
_LONGEST = 300
"""Characters of a text of which more would never fit."""
_CELL = 5
"""Terminal cells of a key of one unit."""
_A4_LANDSCAPE = (841.89, 595.28)


def sign_of(key: PictureKey, found: KeyboardPicture) -> str:
    """The sign of a key: that of its kind of work, or of what keeps it from being one's own; empty for a free one."""
    if key.kind == "taken":
        sign = next(family.sign for family in found.families if family.name == key.family)
        return f"({sign})" if key.elsewhere else f"{sign}+" if len(key.rows) > 1 else sign
    return _SIGN_KINDS.get(key.kind, "")


# --- as text


def picture_blocks(found: KeyboardPicture, display: Display) -> list[Block]:
    """A keyboard as text: each key with what is printed on it and its sign."""
    blocks: list[Block] = [line(Cell(found.title, "strong"), f": {found.about}; {found.layout}, {found.keyboard}.")]
    for panel in found.panels:
        blocks += [Blank(), Title(_capital(panel.title)), Code(tuple(_text_rows(panel, found, display.width)), 0)]
    blocks += [Blank(), Grid([(Cell(sign, "strong"), words) for sign, words in _legend(found)], indent=2)]
    widest = max((key.x + key.width for panel in found.panels for key in panel.keys), default=0.0)
    if widest * _CELL > display.width:
        blocks += [Blank(), line("Keys further to the right do not fit this width.")]
    if found.left_out:
        blocks += [Blank(), line(Cell(_left_out(found), "warn"))]
    return blocks


def _text_rows(panel: PicturePanel, found: KeyboardPicture, width: int) -> Iterator[str]:
    for y in sorted({key.y for key in panel.keys}):
        text = ""
        for key in sorted((key for key in panel.keys if key.y == y), key=lambda key: key.x):
            start, end = (int(at * _CELL + 0.5) for at in (key.x, key.x + key.width))
            if end > width:
                break
            said = sign_of(key, found) if key.value is None else f"{key.value:g}"
            room = end - start - 1 - width_of(said)
            text += " " * (start - width_of(text)) + _cut(key.legend, room) + said + "│"
        yield text


def _cut(text: str, room: int) -> str:
    while width_of(text) > room:
        text = text[:-1]
    return text + " " * (room - width_of(text))


def _legend(found: KeyboardPicture) -> list[tuple[str, str]]:
    rows = [(family.sign, family.title) for family in found.families]
    rows.append((f"{found.families[0].sign}+", "…, and something else in other states, or it begins longer keys"))
    rows.append((f"({found.families[0].sign})", "only where the keys do not go to the text"))
    return rows + [(sign, _KIND_WORDS[kind]) for kind, sign in _SIGN_KINDS.items()]


def _left_out(found: KeyboardPicture) -> str:
    return f"{found.left_out} more panels are not shown: name modifiers, or keys that came before."


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


# --- drawn


def picture_pages(found: KeyboardPicture, on_paper: bool, typefaces: Typefaces) -> list[Page]:
    """A keyboard drawn, panel below panel: on one page, or with two panels on each page of paper."""
    drawing = _Drawing(found, typefaces)
    if not on_paper:
        return [drawing.page(found.panels)]
    pages = [drawing.page(found.panels[at : at + 2]) for at in range(0, len(found.panels), 2)]
    return [_fitted(page, *_A4_LANDSCAPE) for page in pages]


def panel_pages(found: KeyboardPicture, typefaces: Typefaces) -> list[Page]:
    """Each panel by itself, without a legend."""
    drawing = _Drawing(found, typefaces)
    return [drawing.panel(panel) for panel in found.panels]


def _fitted(page: Page, width: float, height: float) -> Page:
    """A page made as large as fits on paper."""
    by = min(width / page.width, height / page.height)
    items: list[Item] = []
    for item in page.items:
        match item:
            case Label():
                items.append(item._replace(x=item.x * by, y=item.y * by, size=item.size * by))
            case Box():
                items.append(
                    item._replace(
                        x=item.x * by, y=item.y * by, width=item.width * by, height=item.height * by,
                        radius=item.radius * by, thickness=item.thickness * by,
                    )
                )  # fmt: skip
            case _:
                items.append(item._replace(x=item.x * by, y=item.y * by, to_x=item.to_x * by, to_y=item.to_y * by))
    return Page(width, height, items, page.title)


class _Drawing:
    """Draws the panels of a keyboard."""

    def __init__(self, found: KeyboardPicture, typefaces: Typefaces) -> None:
        self._found = found
        self._typefaces = typefaces
        keys = [key for panel in found.panels for key in panel.keys]
        self._left = min((key.x for key in keys), default=0.0)
        self._top = min((key.y for key in keys), default=0.0)
        self._width = max((key.x + key.width for key in keys), default=1.0) - self._left
        self._height = max((key.y + key.height for key in keys), default=1.0) - self._top
        self._values = [key.value for key in keys if key.value is not None]
        self._families = {family.name: family for family in found.families}

    def page(self, panels: Sequence[PicturePanel]) -> Page:
        """A page with some panels."""
        width = max(self._width * _UNIT + 2 * _MARGIN, 640.0)
        found, items = self._found, list[Item]()
        room = width - 2 * _MARGIN
        items.append(Label(_MARGIN, _MARGIN + 12, self._fitted_text(found.title, room, 17, True), 17, True))
        said = f"{found.about}; {found.layout}, {found.keyboard}"
        items.append(Label(_MARGIN, _MARGIN + 28, self._fitted_text(said, room, 10, False), 10, colour=QUIET))
        y = _MARGIN + 44
        for panel in panels:
            items.append(Label(_MARGIN, y + 12, _capital(panel.title), 13, True))
            y += 20
            for key in panel.keys:
                items += self._key(key, _MARGIN + (key.x - self._left) * _UNIT, y + (key.y - self._top) * _UNIT)
            y += self._height * _UNIT + 14
        items += self._legend(y, width)
        y += 16.0 * self._legend_rows(width)
        if found.left_out:
            items.append(Label(_MARGIN, y + 8, _left_out(found), 9, colour=QUIET))
            y += 16
        return Page(width, y + _MARGIN / 2, items, found.title)

    def panel(self, one: PicturePanel) -> Page:
        """A page with one panel and nothing else."""
        items = [
            item
            for key in one.keys
            for item in self._key(key, 3 + (key.x - self._left) * _UNIT, 3 + (key.y - self._top) * _UNIT)
        ]
        return Page(self._width * _UNIT + 6, self._height * _UNIT + 6, items, one.title)

    def _fill(self, key: PictureKey) -> str:
        if key.value is not None and self._values:
            low, high = min(self._values), max(self._values)
            return heat((key.value - low) / (high - low) if high > low else 0.5)
        if self._values and key.kind in ("taken", "begins", "free", "types"):
            return _FREE
        if key.kind == "taken":
            return _PALE if key.elsewhere else self._families[key.family].colour
        return {
            "begins": _FREE,
            "kept": _SHADE,
            "impossible": _PALE,
            "held": INK,
            "modifier": _PALE,
            "types": _PALE,
        }.get(key.kind, _FREE)

    def _key(self, key: PictureKey, x: float, y: float) -> Iterator[Item]:
        fill = self._fill(key)
        ink = contrasting(fill)
        width, height = key.width * _UNIT - _SPACE, key.height * _UNIT - _SPACE
        rows = key.rows or tuple(filter(None, ({"free": "free", "types": "typed"}.get(key.kind, ""),)))
        by = (f"{key.value:g} s, by the {key.finger}",) if key.finger else ()
        tip = "\n".join(filter(None, (key.keys, *rows, *by)))
        thick = 2.0 if key.kind == "begins" else 0.8
        yield Box(
            x, y, width, height, fill, INK if key.kind in ("begins", "held") else LINE, 4.0, thick,
            key.kind == "impossible", tip,
        )  # fmt: skip
        sign = sign_of(key, self._found)
        sign_room = self._typefaces.width(sign, 9, True) + 4 if sign else 0.0
        legend = self._fitted_text(key.legend, width - 8 - sign_room, 10, True)
        yield Label(x + 5, y + 14, legend, 10, True, ink)
        if sign:
            yield Label(x + width - 4, y + 13, sign, 9, True, ink, "end")
        said = key.title
        if key.value is not None:
            yield Label(x + width - 4, y + height - 6, f"{key.value:g}", 9, True, ink, "end")
        for number, text in enumerate(
            self._lines(said, width - 8, 7.2, int((height - 19 - 14 * (key.value is not None)) // 8.6))
        ):
            yield Label(x + 5, y + 24.5 + number * 8.6, text, 7.2, False, ink)

    def _fitted_text(self, text: str, width: float, size: float, bold: bool) -> str:
        text = visible(text.replace("\n", " ")[:_LONGEST])
        if self._typefaces.width(text, size, bold) <= width:
            return text
        while len(text) > 1 and self._typefaces.width(f"{text}…", size, bold) > width:
            text = text[:-1]
        return f"{text}…"

    def _lines(self, text: str, width: float, size: float, most: int) -> list[str]:
        """A text in lines of a key; what does not fit is left to what the key says where a pointer rests on it."""
        lines: list[str] = []
        words = text.split()
        for index, word in enumerate(words):
            joined = f"{lines[-1]} {word}" if lines else word
            if most <= 0:
                break
            if lines and self._typefaces.width(joined, size) <= width:
                lines[-1] = joined
            elif len(lines) == most:
                lines[-1] = self._fitted_text(f"{lines[-1]} {' '.join(words[index:])}", width, size, False)
                break
            else:
                lines.append(self._fitted_text(word, width, size, False))
        return lines

    # --- what the colours and signs mean

    def _legend_entries(self) -> list[tuple[str, str, str]]:
        """Fill, sign and words."""
        known = [(family.colour, family.sign, family.title) for family in self._found.families]
        fills = {"begins": _FREE, "kept": _SHADE, "impossible": _PALE, "held": INK}
        shown = {key.kind for panel in self._found.panels for key in panel.keys}
        others = [(fills[kind], sign, _KIND_WORDS[kind]) for kind, sign in _SIGN_KINDS.items() if kind in shown]
        if self._values:
            low, high = min(self._values), max(self._values)
            known = [
                (heat(0), "", f"{low:g} {self._found.value}"),
                (heat(1), "", f"{high:g} {self._found.value}"),
                *known,
            ]
        return [
            *known,
            (_FREE, "+", "more in other states"),
            (_FREE, "", "free"),
            *([(_PALE, "", "typed into the text")] if "types" in shown else []),
            *others,
        ]

    def _placed(self, width: float) -> list[tuple[float, int, tuple[str, str, str]]]:
        found: list[tuple[float, int, tuple[str, str, str]]] = []
        x, row = _MARGIN, 0
        for entry in self._legend_entries():
            needed = 34 + self._typefaces.width(entry[2], 9)
            if x + needed > width - _MARGIN and x > _MARGIN:
                x, row = _MARGIN, row + 1
            found.append((x, row, entry))
            x += needed
        return found

    def _legend_rows(self, width: float) -> int:
        return max(row for _x, row, _entry in self._placed(width)) + 1

    def _legend(self, y: float, width: float) -> Iterator[Item]:
        for x, row, (fill, sign, words) in self._placed(width):
            at = y + row * 16
            yield Box(x, at, 15, 12, fill, LINE, 2)
            if sign:
                yield Label(x + 7.5, at + 9.5, sign, 8.5, True, contrasting(fill), "middle")
            yield Label(x + 19, at + 9.5, words, 9)
