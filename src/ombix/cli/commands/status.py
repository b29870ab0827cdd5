"""`ombix status`: where the editors' own files stand."""

from typing import Any

import typer

from ombix.cli.asking import open_session
from ombix.cli.environment import Status, environment_of
from ombix.cli.options import JsonOption, WorkspaceOption
from ombix.core.results.applying import StatusReport
from ombix.report.applying import status_report


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (StatusReport,)


def run(
    context: typer.Context,
    editor: list[str] = typer.Argument(None, metavar="[EDITOR…]", help="Only these editors of the workspace."),
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:
    """Where the editors' own files stand: up to date, behind, edited by hand, missing, or of another version."""
    environment = environment_of(context)
    found = open_session(environment, workspace).status(*(editor or ()))
    environment.answer(found, lambda display: status_report(found, display), json)
    here = [one for one in found.editors if one.standing != "elsewhere"]
    return Status.FINE if all(one.standing == "up to date" for one in here) else Status.FOUND
