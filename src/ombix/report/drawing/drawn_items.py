"""What is on a drawn page. Lengths are in points (1/72 inch) from the page's upper left corner; colours are CSS colours like
`#1d2a30`."""

from collections.abc import Sequence
from typing import Literal, NamedTuple

Anchor = Literal["start", "middle", "end"]

INK, QUIET, KEY, LINE, PAPER = "#1d2a30", "#55626a", "#00606c", "#c9c3b6", "#ffffff"
"""Colours of texts, of what is beside them, of keys, of lines, and of the page."""


class Label(NamedTuple):
    """A text in one line; `y` is its baseline, and `anchor` says which part of it `x` is."""

    x: float
    y: float
    text: str
    size: float
    bold: bool = False
    colour: str = INK
    anchor: Anchor = "start"


class Box(NamedTuple):
    """A rectangle; without a `fill` or a `line` it has none. `tip` is what it says where a pointer rests on it."""

    x: float
    y: float
    width: float
    height: float
    fill: str = ""
    line: str = ""
    radius: float = 0.0
    thickness: float = 0.8
    dashed: bool = False
    tip: str = ""


class Segment(NamedTuple):
    """A straight line."""

    x: float
    y: float
    to_x: float
    to_y: float
    colour: str = LINE
    thickness: float = 0.6


Item = Label | Box | Segment


class Page(NamedTuple):
    """A page: its size, and what is on it, the lowest first."""

    width: float
    height: float
    items: Sequence[Item]
    title: str = ""
