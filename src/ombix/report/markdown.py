"""Results as Markdown pages."""

import re
from collections.abc import Iterable, Iterator, Sequence

from ombix.report.blocks import Block, Cell, Code, Grid, Groups, Paragraph, Title
from ombix.report.terminal_text import visible


def page(title: str, blocks: Iterable[Block]) -> str:
    """A whole page."""
    return f"# {_text(title)}\n\n{part(blocks)}"


def part(blocks: Iterable[Block]) -> str:
    """A part of a page."""
    text = "\n".join(line for block in blocks for line in _lines(block))
    while "\n\n\n" in text:
        text = text.replace("\n\n\n", "\n\n")
    return text.rstrip("\n") + "\n"


def _lines(block: Block) -> Iterator[str]:
    match block:
        case Paragraph(cells):
            yield from (_cells(cells), "")
        case Grid(rows, head):
            yield from _table(rows, head)
        case Groups(groups, head):
            for title, rows in groups:
                yield from (f"## {_text(title)}", "")
                yield from _table(rows, head)
        case Code(lines):
            fence = "`" * max(3, *(1 + len(run) for line in lines for run in re.findall("`+", line)), 3)
            yield from (fence, *map(visible, lines), fence, "")
        case Title(text):
            yield from (f"## {_text(text)}", "")
        case _:
            yield ""


def _table(rows: Sequence[Sequence[Cell | str]], head: Sequence[str]) -> Iterator[str]:
    if not rows:
        return
    count = max(len(head), *(len(row) for row in rows))
    titles = [*head, *[""] * (count - len(head))]
    yield "| " + " | ".join(map(_text, titles)) + " |"
    yield "|" + "---|" * count
    for row in rows:
        cells = [_cell(one) for one in row]
        yield "| " + " | ".join([*cells, *[""] * (count - len(row))]) + " |"
    yield ""


def _cells(cells: Sequence[Cell | str]) -> str:
    return "".join(_cell(cell) for cell in cells).strip()


def _cell(one: Cell | str) -> str:
    if isinstance(one, str):
        return _text(one)
    inner = visible(one.text)
    if one.style == "key" and inner.strip():
        fence = "``" if "`" in inner else "`"
        return f"{fence}{inner.replace('|', chr(92) + '|')}{fence}"
    return f"**{_text(one.text)}**" if one.style == "strong" and inner.strip() else _text(one.text)


def _text(text: str) -> str:
    return visible(text).replace("\\", "\\\\").replace("|", "\\|").replace("<", "&lt;").replace("*", "\\*")
