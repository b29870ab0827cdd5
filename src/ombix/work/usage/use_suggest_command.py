"""`ombix use suggest`: better keys for what is used."""

from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import DryRunOption, JsonOption, PlatformOption, WorkspaceOption
from ombix.work.usage import usage_questions
from ombix.work.usage.suggest import SuggestOptions
from ombix.work.usage.suggest_answer import SuggestReport
from ombix.work.usage.suggest_layout import suggest_report
from ombix.work.usage.use import UseOptions
from ombix.work.usage.use_command import SinceOption, UntilOption
from ombix.work.usage.use_savings_command import LogOption


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
    found = usage_questions.suggest(
        session, UseOptions(tuple(map(str, log or ())), since, until), SuggestOptions(most, on, take, dry_run)
    )
    environment.answer(found, lambda display: suggest_report(found, display, dry_run), json)
    return Status.FINE
