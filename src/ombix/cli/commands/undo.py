"""`ombix undo`: takes the last change back that Ombix wrote here."""

from typing import Any

import typer

from ombix.cli.asking import open_session
from ombix.cli.environment import Status, environment_of
from ombix.cli.options import DryRunOption, JsonOption, WorkspaceOption
from ombix.core.errors import InputError
from ombix.core.results.files import UndoReport
from ombix.report.known import undo_report


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (UndoReport,)


def run(
    context: typer.Context,
    force: bool = typer.Option(False, "--force", help="Take it back also where a file was changed since."),
    skip: bool = typer.Option(False, "--skip", help="Forget the last change, and leave its files as they are."),
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Take the last change back that Ombix wrote here."""
    environment = environment_of(context)
    if force and skip:
        raise InputError("--force and --skip are two ways to go on", "Choose one of them.")
    found = open_session(environment, workspace).undo(dry_run=dry_run, force=force, skip=skip)
    if found is None:
        environment.say("There is nothing to take back here.")
        return Status.FOUND
    environment.answer(found, lambda display: undo_report(found, display, dry_run), json)
    return Status.FINE
