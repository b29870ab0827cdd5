"""A drawn page as SVG 1.1: texts stay texts, and boxes say what they are where a pointer rests on them."""

from collections.abc import Iterator
from xml.sax.saxutils import escape, quoteattr

from ombix.report.drawing.drawn_items import INK, PAPER, Box, Item, Label, Page, Segment
from ombix.report.terminal_text import visible

_THICKNESS = 0.8
"""The thickness of lines that say none of their own."""
_FAMILY = "DejaVu Sans Condensed, DejaVu Sans, system-ui, sans-serif"


def text(page: Page) -> str:
    """The page's file."""
    size = f'width="{_number(page.width)}pt" height="{_number(page.height)}pt"'
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" {size} viewBox="0 0 {_number(page.width)} {_number(page.height)}" '
        f'role="img" font-family={quoteattr(_FAMILY)} fill="{INK}" stroke-width="{_THICKNESS}" xml:space="preserve">'
    )
    lines = [head, f"<title>{_text(page.title)}</title>", f'<rect width="100%" height="100%" fill="{PAPER}"/>']
    lines += [line for item in page.items for line in _item(item)]
    return "\n".join([*lines, "</svg>", ""])


def _item(item: Item) -> Iterator[str]:
    match item:
        case Label():
            weight = ' font-weight="bold"' if item.bold else ""
            anchor = f' text-anchor="{item.anchor}"' if item.anchor != "start" else ""
            fill = f' fill="{item.colour}"' if item.colour != INK else ""
            turned = "" if item.text.isascii() else ' unicode-bidi="plaintext"'
            yield (
                f'<text x="{_number(item.x)}" y="{_number(item.y)}" font-size="{_number(item.size)}"'
                f"{fill}{weight}{anchor}{turned}>{_text(item.text)}</text>"
            )
        case Box():
            thickness = "" if item.thickness == _THICKNESS else f' stroke-width="{_number(item.thickness)}"'
            line = f' stroke="{item.line}"{thickness}' if item.line else ""
            dashes = ' stroke-dasharray="3 2"' if item.dashed else ""
            inner = f"<title>{_text(item.tip)}</title></rect>" if item.tip else ""
            yield (
                f'<rect x="{_number(item.x)}" y="{_number(item.y)}" width="{_number(item.width)}" '
                f'height="{_number(item.height)}" rx="{_number(item.radius)}" fill="{item.fill or "none"}"{line}{dashes}'
                + (f' pointer-events="all">{inner}' if inner else "/>")
            )
        case Segment():
            yield (
                f'<line x1="{_number(item.x)}" y1="{_number(item.y)}" x2="{_number(item.to_x)}" y2="{_number(item.to_y)}" '
                f'stroke="{item.colour}" stroke-width="{_number(item.thickness)}"/>'
            )


def _text(text: str) -> str:
    """A text that is no markup, without characters that XML does not allow."""
    return escape("\n".join(map(visible, text.split("\n"))))


def _number(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".")
