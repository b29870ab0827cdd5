"""`ombix narrow WHAT --where CONDITION`: has what is bound hold in fewer states."""

from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import AnywayOption, BoundArgument, DryRunOption, JsonOption, LayerOption, WorkspaceOption
from ombix.work.change import change_questions
from ombix.work.change.change_console import answer_change
from ombix.workspace.change_answer import ChangeReport


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (ChangeReport,)


def run(
    context: typer.Context,
    what: BoundArgument,
    where: str = typer.Option(..., "--where", metavar="CONDITION", help="Only when this is true, too."),
    layer: LayerOption = "",
    anyway: AnywayOption = False,
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Add a condition to a binding, beside the one that it has."""
    from ombix.workspace.edit_options import EditOptions

    environment = environment_of(context)
    session = open_session(environment, workspace)
    found = change_questions.narrow(session, *what, where=where, options=EditOptions(layer, dry_run, anyway))
    return answer_change(environment, found, dry_run, json)
