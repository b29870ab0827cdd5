"""Results as pages of HTML, each whole in one file: no scripts, nothing loaded."""

from collections.abc import Iterable, Iterator, Sequence
from html import escape

from ombix.report.blocks import Blank, Block, Cell, Code, Grid, Groups, Paragraph, Title
from ombix.report.terminal_text import visible

_STYLE = """\
:root { color-scheme: light dark; --ink: #1d2a30; --paper: #fbfaf7; --line: #d8d3c8; --key: #00606c; --bad: #a3231b;
  --warn: #855900; --good: #2a6e2f; --quiet: #5d6a70; }
@media (prefers-color-scheme: dark) { :root { --ink: #e4e2dc; --paper: #182126; --line: #38454c; --key: #63c3cf;
  --bad: #f08a80; --warn: #e0b357; --good: #86c98a; --quiet: #9aa7ad; } }
body { font: 16px/1.5 system-ui, sans-serif; color: var(--ink); background: var(--paper); max-width: 62rem;
  margin: 2rem auto; padding: 0 1rem; }
table { border-collapse: collapse; width: 100%; margin: 0.5rem 0 1.5rem; }
th, td { text-align: left; vertical-align: top; padding: 0.3rem 0.8rem 0.3rem 0; border-bottom: 1px solid var(--line); }
th { color: var(--quiet); font-weight: normal; }
pre { border: 1px solid var(--line); padding: 0.8rem; overflow-x: auto; }
kbd { font: inherit; color: var(--key); white-space: nowrap; }
p { margin: 0.3rem 0; } p.in { margin-left: 1.5rem; } .gap { height: 1rem; }
.bad { color: var(--bad); } .warn { color: var(--warn); } .good { color: var(--good); } .quiet { color: var(--quiet); }
"""


def page(title: str, blocks: Iterable[Block]) -> str:
    """A whole page."""
    body = "\n".join(line for block in blocks for line in _lines(block))
    name = _text(title)
    return (
        f'<!doctype html>\n<html lang="en">\n<head>\n<meta charset="utf-8">\n<title>{name}</title>\n'
        f'<meta name="viewport" content="width=device-width">\n<style>\n{_STYLE}</style>\n</head>\n<body>\n'
        f"<h1>{name}</h1>\n{body}\n</body>\n</html>\n"
    )


def _lines(block: Block) -> Iterator[str]:
    match block:
        case Paragraph(cells, indent):
            kind = ' class="in"' if indent else ""
            yield f"<p{kind}>{''.join(map(_cell, cells))}</p>"
        case Blank():
            yield '<div class="gap"></div>'
        case Grid(rows, head):
            yield from _table(rows, head)
        case Groups(groups, head):
            for title, rows in groups:
                yield f"<h2>{_text(title)}</h2>"
                yield from _table(rows, head)
        case Code(lines):
            yield f"<pre>{_text(chr(10).join(lines), keep_lines=True)}</pre>"
        case Title(text, style):
            kind = f' class="{style}"' if style not in ("", "strong") else ""
            yield f"<h2{kind}>{_text(text)}</h2>"


def _table(rows: Sequence[Sequence[Cell | str]], head: Sequence[str]) -> Iterator[str]:
    yield "<table>"
    if head:
        yield f"<tr>{''.join(f'<th>{_text(text)}</th>' for text in head)}</tr>"
    for row in rows:
        yield f"<tr>{''.join(f'<td>{_cell(one)}</td>' for one in row)}</tr>"
    yield "</table>"


def _cell(one: Cell | str) -> str:
    if isinstance(one, str):
        return _text(one)
    text = _text(one.text)
    match one.style:
        case "":
            return text
        case "key":
            return f"<kbd>{text}</kbd>"
        case "strong":
            return f"<strong>{text}</strong>"
        case style:
            return f'<span class="{style}">{text}</span>'


def _text(text: str, keep_lines: bool = False) -> str:
    parts = text.split("\n") if keep_lines else [text]
    return "\n".join(escape(visible(part)) for part in parts)
