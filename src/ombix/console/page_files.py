"""Answers written to files: the name's ending says in which form."""

import re
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

from ombix.console.environment import Environment
from ombix.core.errors import InputError, Place
from ombix.report.blocks import Block
from ombix.report.terminal_text import Display
from ombix.workspace.open_workspace import OpenWorkspace

ENDINGS = (".md", ".html", ".json")

Blocks = Callable[[Display], Iterable[Block]]


def page(environment: Environment, file: Path, title: str, result: Any, blocks: Blocks) -> str:
    """A result as the text of a file. Raises InputError for an ending that is no form."""
    display = environment.display._replace(width=100, colour=False)
    match file.suffix:
        case ".md":
            from ombix.report import markdown

            return markdown.page(title, blocks(display))
        case ".html":
            from ombix.report import html

            return html.page(title, blocks(display))
        case ".txt":
            from ombix.report.terminal_text import render, visible

            return "\n".join([visible(title), "", *render(blocks(display), display), ""])
        case ".json":
            from ombix.report import json

            return json.text(result, display) + "\n"
    from ombix.core.report_forms import report_endings, report_for

    text = report_for(file.suffix, result)
    if text is None:
        known = dict.fromkeys([*ENDINGS, *report_endings()])
        raise InputError(f"there is no form of report for {file.name}", f"Let its name end in {', '.join(known)}.")
    return text


def named_lines(session: OpenWorkspace, file: Path) -> tuple[tuple[str, Place], ...]:
    """The lines of a list that a user named, without blank ones and comments, with their places."""
    rows = [
        (row.partition("#")[0].strip(), number) for number, row in enumerate(session.read(str(file)).split("\n"), 1)
    ]
    return tuple((row, Place(str(file), number, 1)) for row, number in rows if row)


def counted_lines(session: OpenWorkspace, file: Path) -> dict[str, int]:
    """The numbers of a file by keys, a line for each like `Ctrl+S 40`. Raises InputError for a line that has none."""
    found = {}
    for row, place in named_lines(session, file):
        match = re.fullmatch(r"(.+?)\s+(\d{1,12})", row)
        if match is None:
            raise InputError("this line has no keys with a number", "Write them like: Ctrl+S 40", place, row)
        found[match[1]] = int(match[2])
    return found


def write_plot(environment: Environment, session: OpenWorkspace, file: Path, draw: Callable[[str], bytes]) -> None:
    """Write what `draw` makes for the ending of a file's name, and say so."""
    for path in session.write(f"plot {file.name}", {str(file): draw(file.suffix)}):
        environment.say(f"wrote {environment.messages.display.path(str(path))}")


def write_page(
    environment: Environment, session: OpenWorkspace, file: Path, result: Any, blocks: Blocks, title: str = ""
) -> None:
    """Write a result to a file, and say so."""
    text = page(environment, file, title or file.stem, result, blocks)
    for path in session.write(f"report {file.name}", {str(file): text}):
        environment.say(f"wrote {environment.messages.display.path(str(path))}")
