"""What a result looks like, apart from what it is written on: paragraphs, tables, headings.

A result is laid out once, in blocks; `plain`, `markdown` and `html` render them.
"""

from collections.abc import Sequence
from typing import Literal, NamedTuple

Style = Literal["", "strong", "quiet", "key", "good", "warn", "bad"]

_SHORT = 100
"""Characters of a text that is not shown whole."""


class Cell(NamedTuple):
    """A text and its style."""

    text: str
    style: Style = ""


class Paragraph(NamedTuple):
    """Texts one behind the other, without blanks between them."""

    cells: tuple[Cell | str, ...]
    indent: int = 0


class Grid(NamedTuple):
    """Rows of cells under a head, which may be empty."""

    rows: Sequence[Sequence[Cell | str]]
    head: tuple[str, ...] = ()
    indent: int = 0


class Groups(NamedTuple):
    """Tables with a title each, whose columns stand below each other."""

    groups: Sequence[tuple[str, Sequence[Sequence[Cell | str]]]]
    head: tuple[str, ...] = ()


class Code(NamedTuple):
    """Lines that stand as they are."""

    lines: tuple[str, ...]
    indent: int = 2


class Blank(NamedTuple):
    """An empty line."""


class Title(NamedTuple):
    """What stands above a part."""

    text: str
    style: Style = "strong"


Block = Paragraph | Grid | Groups | Code | Blank | Title


def shortened(text: str) -> str:
    """The beginning of a text, in one line."""
    flat = " ".join(text.split())
    return flat if len(flat) < _SHORT else flat[: _SHORT - 1] + "…"


def line(*cells: Cell | str, indent: int = 0) -> Paragraph:
    """A paragraph."""
    return Paragraph(cells, indent)
