"""`ombix undo`: takes the last change back that Ombix wrote here."""

from typing import Any

import typer

from ombix.cli.asking import open_session
from ombix.cli.environment import Status, environment_of
from ombix.cli.options import DryRunOption, JsonOption, WorkspaceOption
from ombix.core.results.files import UndoReport
from ombix.report.known import undo_report


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (UndoReport,)


def run(
    context: typer.Context, workspace: WorkspaceOption = None, dry_run: DryRunOption = False, json: JsonOption = False
) -> Status:
    """Take the last change back that Ombix wrote here."""
    environment = environment_of(context)
    found = open_session(environment, workspace).undo(dry_run)
    if found is None:
        environment.say("There is nothing to take back here.")
        return Status.FOUND
    environment.answer(found, lambda display: undo_report(found, display, dry_run), json)
    return Status.FINE
