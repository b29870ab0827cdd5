"""Drawn pages as PDF: texts stay texts, in typefaces that are in the file as far as they are used."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ombix.report.drawing.drawn_items import Box, Label, Page, Segment
from ombix.report.drawing.typefaces import Typefaces
from ombix.report.terminal_text import visible

if TYPE_CHECKING:
    from fpdf import FPDF

_BASELINE = 0.3
"""Sizes of a text from the middle of a cell to its baseline, in fpdf2."""


def data(pages: Sequence[Page], typefaces: Typefaces) -> bytes:
    """The file of the pages."""
    from fpdf import FPDF

    paper = FPDF(unit="pt")
    paper.set_auto_page_break(False)
    paper.c_margin = 0
    paper.set_title(visible(pages[0].title) if pages else "")
    paper.set_creator("Ombix")
    fonts: dict[str, str] = {}
    for page in pages:
        paper.add_page(format=(page.width, page.height))
        for item in page.items:
            match item:
                case Label():
                    _label(paper, item, typefaces, fonts)
                case Box():
                    _box(paper, item)
                case Segment():
                    paper.set_draw_color(item.colour)
                    paper.set_line_width(item.thickness)
                    paper.line(item.x, item.y, item.to_x, item.to_y)
    return bytes(paper.output())


def _label(paper: "FPDF", label: Label, typefaces: Typefaces, fonts: dict[str, str]) -> None:
    text = visible(label.text)
    x = (
        label.x
        - typefaces.width(text, label.size, label.bold) * {"start": 0.0, "middle": 0.5, "end": 1.0}[label.anchor]
    )
    paper.set_text_color(label.colour)
    for run in typefaces.runs(text, label.bold):
        if run.file not in fonts:
            fonts[run.file] = f"f{len(fonts)}"
            paper.add_font(fonts[run.file], "", run.file)
        paper.set_font(fonts[run.file], "", label.size)
        paper.set_text_shaping(not run.text.isascii())
        paper.set_xy(x, label.y - _BASELINE * label.size)
        paper.cell(0, 0, run.text)
        x += typefaces.loaded(run.file, 100).getlength(run.text) * label.size / 100


def _box(paper: "FPDF", box: Box) -> None:
    if box.fill:
        paper.set_fill_color(box.fill)
    if box.line:
        paper.set_draw_color(box.line)
        paper.set_line_width(box.thickness)
        paper.set_dash_pattern(3 if box.dashed else 0, 2 if box.dashed else 0)
    style = ("D" if box.line else "") + ("F" if box.fill else "")
    if style:
        paper.rect(box.x, box.y, box.width, box.height, style, bool(box.radius), box.radius or 0)
    if box.dashed:
        paper.set_dash_pattern(0, 0)
