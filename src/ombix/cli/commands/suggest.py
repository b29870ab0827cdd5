"""`ombix suggest`: better keys for what is used."""

from typing import Any

import typer

from ombix.cli.asking import open_session
from ombix.cli.commands.savings import LogOption
from ombix.cli.commands.use import SinceOption, UntilOption
from ombix.cli.environment import Status, environment_of
from ombix.cli.options import DryRunOption, JsonOption, PlatformOption, WorkspaceOption
from ombix.core.results.use import SuggestReport
from ombix.report.savings import suggest_report
from ombix.session.suggesting import SuggestWishes
from ombix.session.use import UseWishes


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (SuggestReport,)


def run(
    context: typer.Context,
    log: LogOption = None,
    since: SinceOption = "",
    until: UntilOption = "",
    most: int = typer.Option(5, "--most", metavar="NUMBER", help="Changes at once.", min=1, max=300),
    take: str = typer.Option("", "--take", metavar="WHICH", help="Write all of them, or some by their numbers: 1,3."),
    on: PlatformOption = "",
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Better keys for what is used: which actions to bind or to move, and what that saves."""
    environment = environment_of(context)
    session = open_session(environment, workspace)
    found = session.suggest(UseWishes(tuple(map(str, log or ())), since, until), SuggestWishes(most, on, take, dry_run))
    environment.answer(found, lambda display: suggest_report(found, display, dry_run), json)
    return Status.FINE
