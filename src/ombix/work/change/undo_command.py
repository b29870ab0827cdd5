"""`ombix undo`: takes a change back that Ombix wrote here."""

from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import DryRunOption, JsonOption, WorkspaceOption
from ombix.core.errors import InputError
from ombix.work.change import change_questions
from ombix.work.change.undo_answer import History, UndoReport
from ombix.work.change.undo_layout import history, undo_report


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (UndoReport, History)


def run(
    context: typer.Context,
    change: str = typer.Argument(
        "", metavar="[CHANGE]", help="A change by its name in the history; without it, the last."
    ),
    force: bool = typer.Option(False, "--force", help="Take it back also where the same lines were changed since."),
    skip: bool = typer.Option(False, "--skip", help="Forget the change, and leave its files as they are."),
    listed: bool = typer.Option(False, "--list", help="The changes that can be taken back, the newest first."),
    count: int = typer.Option(20, "--count", metavar="N", min=1, help="With --list: how many."),
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Undo one of Ombix's changes: the last, or any other one that is listed."""
    environment = environment_of(context)
    if force and skip:
        raise InputError("--force and --skip are two ways to go on", "Choose one of them.")
    session = open_session(environment, workspace)
    if listed:
        past = change_questions.history(session, count)
        environment.answer(past, lambda display: history(past, display), json)
        return Status.FINE
    found = change_questions.undo(session, change, dry_run=dry_run, force=force, skip=skip)
    if found is None:
        environment.say("There is nothing to take back here.")
        return Status.FOUND
    environment.answer(found, lambda display: undo_report(found, display, dry_run), json)
    return Status.FINE
