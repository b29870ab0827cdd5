"""`ombix narrow WHAT --where CONDITION`: has what is bound hold in fewer states."""

from typing import Any

import typer

from ombix.cli.asking import open_session
from ombix.cli.changing import answer_change
from ombix.cli.environment import Status, environment_of
from ombix.cli.options import AnywayOption, BoundArgument, DryRunOption, JsonOption, LayerOption, WorkspaceOption
from ombix.core.results.files import ChangeReport


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
    """Have what is bound hold only under a condition, beside the one that it has."""
    from ombix.session.wishes import EditWishes

    environment = environment_of(context)
    session = open_session(environment, workspace)
    found = session.narrow(*what, where=where, wishes=EditWishes(layer, dry_run, anyway))
    return answer_change(environment, found, dry_run, json)
