"""A drawn page as PNG."""

from io import BytesIO
from typing import TYPE_CHECKING

from ombix.report.drawing.drawn_items import PAPER, Box, Label, Page, Segment
from ombix.report.drawing.typefaces import Typefaces
from ombix.report.terminal_text import visible

if TYPE_CHECKING:
    from PIL.ImageDraw import ImageDraw

PIXELS = 1.6
"""Pixels for a point."""
_FINER = 2
"""How many times finer boxes are drawn than shown, so that their edges are smooth."""


def data(page: Page, typefaces: Typefaces, pixels: float = PIXELS) -> bytes:
    """The page's file, with so many pixels for a point."""
    from PIL import Image, ImageDraw

    size = (round(page.width * pixels), round(page.height * pixels))
    image = Image.new("RGB", (size[0] * _FINER, size[1] * _FINER), PAPER)
    draw = ImageDraw.Draw(image)
    for item in page.items:
        if isinstance(item, Box):
            _box(draw, item, pixels * _FINER)
        elif isinstance(item, Segment):
            ends = [one * pixels * _FINER for one in (item.x, item.y, item.to_x, item.to_y)]
            draw.line(ends, fill=item.colour, width=max(1, round(item.thickness * pixels * _FINER)))
    image = image.resize(size, Image.Resampling.BOX)
    draw = ImageDraw.Draw(image)
    for item in page.items:
        if isinstance(item, Label):
            _label(draw, item, pixels, typefaces)
    out = BytesIO()
    image.save(out, "PNG", optimize=False, dpi=(72 * pixels, 72 * pixels))
    return out.getvalue()


def _box(draw: "ImageDraw", box: Box, scale: float) -> None:
    corners = (box.x * scale, box.y * scale, (box.x + box.width) * scale - 1, (box.y + box.height) * scale - 1)
    thickness = max(1, round(box.thickness * scale)) if box.line else 0
    if not box.dashed:
        draw.rounded_rectangle(corners, box.radius * scale, box.fill or None, box.line or None, thickness)
        return
    draw.rounded_rectangle(corners, box.radius * scale, box.fill or None)
    left, top, right, bottom = corners
    for start, end in (
        ((left, top), (right, top)),
        ((right, top), (right, bottom)),
        ((right, bottom), (left, bottom)),
        ((left, bottom), (left, top)),
    ):
        _dashes(draw, start, end, box.line, thickness, scale)


def _dashes(
    draw: "ImageDraw", start: tuple[float, float], end: tuple[float, float], colour: str, thickness: int, scale: float
) -> None:
    length = abs(end[0] - start[0]) + abs(end[1] - start[1])
    at = 0.0
    while at < length:
        first, last = at / length, min(at + 3 * scale, length) / length
        points = [start[axis] + (end[axis] - start[axis]) * part for part in (first, last) for axis in (0, 1)]
        draw.line(points, fill=colour, width=thickness)
        at += 5 * scale


def _label(draw: "ImageDraw", label: Label, pixels: float, typefaces: Typefaces) -> None:
    text = visible(label.text)
    x = (
        label.x
        - typefaces.width(text, label.size, label.bold) * {"start": 0.0, "middle": 0.5, "end": 1.0}[label.anchor]
    )
    for run in typefaces.runs(text, label.bold):
        font = typefaces.loaded(run.file, label.size * pixels)
        draw.text((x * pixels, label.y * pixels), run.text, fill=label.colour, font=font, anchor="ls")
        x += font.getlength(run.text) / pixels
