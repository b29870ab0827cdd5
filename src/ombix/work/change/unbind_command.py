"""`ombix unbind WHAT`: takes an action's keys away, all or one, or has keys do nothing, with the reason kept."""

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
    where: str = typer.Option("", "--where", metavar="CONDITION", help="With keys: only under this condition."),
    why: str = typer.Option("", "--why", metavar="REASON", help="Kept in the file, so that it is not undone unawares."),
    layer: LayerOption = "",
    anyway: AnywayOption = False,
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Take keys away from an action, or have keys do nothing, with the reason kept."""
    from ombix.workspace.edit_options import EditOptions

    environment = environment_of(context)
    session = open_session(environment, workspace)
    found = change_questions.unbind(session, *what, where=where, why=why, options=EditOptions(layer, dry_run, anyway))
    return answer_change(environment, found, dry_run, json)
