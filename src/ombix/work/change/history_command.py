"""`ombix history`: the changes that Ombix wrote here and that can be taken back."""

from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import JsonOption, WorkspaceOption
from ombix.work.change import change_questions
from ombix.work.change.undo_answer import History
from ombix.work.change.undo_layout import history


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (History,)


def run(
    context: typer.Context,
    count: int = typer.Option(20, "--count", metavar="N", min=1, help="How many are listed."),
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:
    """The changes that Ombix wrote here and that can be taken back, the newest first."""
    environment = environment_of(context)
    found = change_questions.history(open_session(environment, workspace), count)
    environment.answer(found, lambda display: history(found, display), json)
    return Status.FINE
