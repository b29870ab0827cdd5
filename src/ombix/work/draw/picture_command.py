"""`ombix picture`: the keyboard at hand, with what is on its keys."""

from pathlib import Path
from typing import Annotated, Any

import typer

from ombix.console.asking import editor_asked, open_session
from ombix.console.drawn_files import DRAWN, DrawnAnswer, check_forms, write_drawn
from ombix.console.environment import Status, environment_of
from ombix.console.options import (
    ConditionOption,
    EditorOption,
    FileOption,
    JsonOption,
    KeyboardOption,
    LayoutOption,
    PlatformOption,
    WorkspaceOption,
)
from ombix.console.page_files import counted_lines
from ombix.core.errors import InputError
from ombix.work.draw import draw_questions
from ombix.work.draw.picture import PictureOptions
from ombix.work.draw.picture_answer import KeyboardPicture
from ombix.work.draw.picture_layout import picture_blocks, picture_pages
from ombix.work.usage import usage_questions
from ombix.work.usage.use import UseOptions
from ombix.work.usage.use_savings_command import LogOption


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (KeyboardPicture,)


Modifiers = Annotated[
    list[str] | None,
    typer.Option("--with", metavar="MODIFIERS", help="Only these held, like Ctrl+Shift, or none; repeatable."),
]
Outputs = Annotated[
    list[Path] | None,
    typer.Option("--output", metavar="FILE", help="Write it: .svg, .png or .pdf; repeatable."),
]


def run(
    context: typer.Context,
    modifiers: Modifiers = None,
    after: str = typer.Option("", "--after", metavar="KEYS", help="What may follow these keys."),
    condition: ConditionOption = "",
    strain: bool = typer.Option(False, "--strain", help="The seconds that each key costs the hands, as a scale of colours."),
    counts: Path | None = typer.Option(
        None, "--counts", metavar="FILE", help="How often keys are used, as a scale: lines of KEYS NUMBER."
    ),
    used: bool = typer.Option(False, "--used", help="How often keys are used, as ombix use watch has counted, as a scale."),
    log: LogOption = None,
    title: str = typer.Option("", "--title", metavar="TEXT", help="What stands above it."),
    output: Outputs = None,
    editor: EditorOption = "",
    file: FileOption = None,
    on: PlatformOption = "",
    layout: LayoutOption = "",
    keyboard: KeyboardOption = "",
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:  # fmt: skip
    """Your keyboard, with what is on its keys: what they do, which are free, which are reserved or cannot be pressed."""
    environment = environment_of(context)
    if strain + (counts is not None) + (used or bool(log)) > 1:
        raise InputError("--strain, --counts, --used and --log are several scales", "Name one of them.")
    check_forms(output or (), DRAWN)
    session = open_session(environment, workspace, file, editor)
    numbers = counted_lines(session, counts) if counts is not None else {}
    if used or log:
        numbers = usage_questions.used_keys(session, UseOptions(tuple(map(str, log or ())), editor=editor))
    options = PictureOptions(condition, after, tuple(modifiers or ()), keyboard, strain, numbers, title)
    found = draw_questions.picture(session, options, editor=editor_asked(file, editor), on=on, layout=layout)
    if not output or json:
        environment.answer(found, lambda display: picture_blocks(found, display), json)
    if output:
        answer = DrawnAnswer(
            found.title, found, lambda display: picture_blocks(found, display),
            lambda typefaces, on_paper: picture_pages(found, on_paper, typefaces),
        )  # fmt: skip
        write_drawn(environment, session, output, answer)
    return Status.FINE
