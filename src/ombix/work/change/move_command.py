"""`ombix move WHAT --to KEYS`: puts what is bound on other keys, in the place where it is bound."""

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
    to: str = typer.Option(..., "--to", metavar="KEYS", help="The new keys, like Mod+Shift+Y or Space l d."),
    layer: LayerOption = "",
    anyway: AnywayOption = False,
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Put what is bound on other keys; the rest of its entry stays as it is."""
    from ombix.workspace.edit_options import EditOptions

    environment = environment_of(context)
    session = open_session(environment, workspace)
    found = change_questions.move(session, *what, to=to, options=EditOptions(layer, dry_run, anyway))
    return answer_change(environment, found, dry_run, json)
