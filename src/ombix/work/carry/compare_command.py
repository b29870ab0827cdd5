"""`ombix compare A B`: two keymaps or editors, decision by decision, over all states at once."""

from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import (
    ConditionOption,
    EditorOption,
    JsonOption,
    PlatformOption,
    ReportOption,
    WorkspaceOption,
)
from ombix.console.page_files import write_page
from ombix.report.blocks import Block
from ombix.report.terminal_text import Display
from ombix.work.carry import carry_questions
from ombix.work.carry.compare_answer import ComparisonReport
from ombix.work.carry.compare_layout import comparison_report


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (ComparisonReport,)


def run(
    context: typer.Context,
    first: str = typer.Argument(metavar="A", help="An editor, a keymap file, or an editor's file."),
    second: str = typer.Argument(metavar="B", help="The other one."),
    editor: EditorOption = "",
    everything: bool = typer.Option(False, "--all", help="Show what only one of the two binds as well."),
    same: bool = typer.Option(False, "--same", help="Show which keys do the same, and when."),
    within: ConditionOption = "",
    on: PlatformOption = "",
    workspace: WorkspaceOption = None,
    report: ReportOption = None,
    json: JsonOption = False,
) -> Status:
    """Two keymaps or editors, decision by decision."""
    environment = environment_of(context)
    session = open_session(environment, workspace)
    found = carry_questions.compare(session, first, second, editor=editor, on=on, within=within)
    environment.answer(found, lambda display: comparison_report(found, display, everything, same), json)
    if report is not None:

        def blocks(display: Display) -> list[Block]:
            return comparison_report(found, display, True)

        write_page(environment, session, report, found, blocks, f"{found.first} and {found.second}")
    return Status.FOUND if found.differences or found.waits else Status.FINE
