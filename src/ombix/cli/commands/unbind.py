"""`ombix unbind WHAT`: takes an action's keys away, all or one, or has keys do nothing, with the reason kept."""

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
    where: str = typer.Option("", "--where", metavar="CONDITION", help="With keys: only under this condition."),
    why: str = typer.Option("", "--why", metavar="REASON", help="Kept in the file, so that it is not undone unawares."),
    layer: LayerOption = "",
    anyway: AnywayOption = False,
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Take an action's keys away on purpose, all or one, or have keys do nothing, with the reason kept."""
    from ombix.session.wishes import EditWishes

    environment = environment_of(context)
    session = open_session(environment, workspace)
    found = session.unbind(*what, where=where, why=why, wishes=EditWishes(layer, dry_run, anyway))
    return answer_change(environment, found, dry_run, json)
