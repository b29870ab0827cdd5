"""`ombix unbind WHAT`: takes an action's keys away, or has keys do nothing, with the reason kept."""

from typing import Any

import typer

from ombix.cli.asking import open_session
from ombix.cli.environment import Status, environment_of
from ombix.cli.options import DryRunOption, JsonOption, UnbindArgument, WorkspaceOption
from ombix.core.results.files import ChangeReport
from ombix.report.known import change_report


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (ChangeReport,)


def run(
    context: typer.Context,
    what: UnbindArgument,
    where: str = typer.Option("", "--where", metavar="CONDITION", help="With keys: only under this condition."),
    why: str = typer.Option("", "--why", metavar="REASON", help="Kept in the file, so that it is not undone unawares."),
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Take an action's keys away on purpose, or have keys do nothing, with the reason kept."""
    environment = environment_of(context)
    found = open_session(environment, workspace).unbind(" ".join(what), where=where, why=why, dry_run=dry_run)
    environment.answer(found, lambda display: change_report(found, display, dry_run), json)
    for remark in found.remarks if not json else ():
        environment.say(remark)
    return Status.FINE
