"""`ombix sheet`: what is bound, to be printed or looked at."""

from pathlib import Path
from typing import Annotated, Any

import typer

from ombix.console.asking import open_session
from ombix.console.drawn_files import DrawnAnswer, check_forms, write_drawn
from ombix.console.environment import Status, environment_of
from ombix.console.options import ConditionOption, FileOption, JsonOption, MachinesOption, WorkspaceOption
from ombix.console.page_files import named_lines
from ombix.core.errors import InputError
from ombix.work.learn import learn_questions
from ombix.work.learn.sheet import SheetOptions
from ombix.work.learn.sheet_answer import Sheet
from ombix.work.learn.sheet_layout import PAPERS, sheet_blocks, sheet_pages


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (Sheet,)


Several = Annotated[list[str] | None, typer.Option("--editor", metavar="NAME", help="An editor; each has a column.")]
Platforms = Annotated[
    list[str] | None, typer.Option("--on", metavar="PLATFORM", help="linux, mac or windows; each has a column.")
]
Layouts = Annotated[
    list[str] | None, typer.Option("--layout", metavar="NAME", help="A keyboard layout; each has a column.")
]

Outputs = Annotated[
    list[Path] | None,
    typer.Option("--output", metavar="FILE", help="Write it: .pdf, .png, .svg, .html, .md or .txt; repeatable."),
]


def run(
    context: typer.Context,
    by: str = typer.Option("work", "--by", metavar="ORDER", help="work, key or state."),
    own: bool = typer.Option(False, "--own", help="Only the keymap's own bindings, no editor's defaults."),
    differing: bool = typer.Option(False, "--differing", help="Only what is not what the editor does by itself."),
    since: str = typer.Option("", "--since", metavar="VERSION", help="Only what changed since a version in git."),
    against: Path | None = typer.Option(None, "--against", metavar="FILE", help="Only what another keymap, or workspace, has not."),
    only: Path | None = typer.Option(None, "--only", metavar="FILE", help="Only what a list names: an action or a title a line."),
    condition: ConditionOption = "",
    editor: Several = None,
    on: Platforms = None,
    layout: Layouts = None,
    title: str = typer.Option("", "--title", metavar="TEXT", help="What stands above it."),
    output: Outputs = None,
    paper: str = typer.Option("a4", "--paper", metavar="SIZE", help="a4 or letter."),
    one_page: bool = typer.Option(False, "--one-page", help="On one page at any price, be the text as small as it may."),
    template: Path | None = typer.Option(
        None, "--template", metavar="FILE", help="A Jinja template that the output is made by."
    ),
    file: FileOption = None,
    machine: MachinesOption = None,
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:  # fmt: skip
    """A sheet of the keys in force, to print or to look at, as they are printed on your keyboard."""
    environment = environment_of(context)
    if since and against is not None:
        raise InputError("--since and --against are two things to compare with", "Name one of them.")
    if template is not None and not output:
        raise InputError("--template says nothing about a terminal", "Say where to write it, with --output.")
    if paper not in PAPERS:
        raise InputError(f"there is no paper {paper}", f"There are {', '.join(PAPERS)}.")
    if template is None:
        check_forms(output or ())
    session = open_session(environment, workspace, file, (editor or [""])[0])
    editors = () if file is not None else tuple(editor or ())
    options = SheetOptions(by, own, differing, condition, named_lines(session, only) if only is not None else (), title)
    other = None
    if against is not None:
        is_file = against.suffix == ".toml" and against.name != "ombix.toml" and not against.is_dir()
        other = open_session(environment, *((None, against) if is_file else (against, None)))
    found = learn_questions.sheet(session,
        options, editors=editors, on=tuple(on or ()), layouts=tuple(layout or ()), machines=tuple(machine or ()), since=since,
        against=other,
    )  # fmt: skip
    if not output or json:
        environment.answer(found, lambda display: sheet_blocks(found, display), json)
        if not found.groups and not json:
            environment.say("Nothing is on it.")
    if output:
        answer = DrawnAnswer(
            found.title, found, lambda display: sheet_blocks(found, display),
            lambda typefaces, on_paper: sheet_pages(found, paper if on_paper else "", typefaces, one_page),
        )  # fmt: skip
        write_drawn(environment, session, output, answer, template)
    return Status.FINE if found.groups else Status.FOUND
