"""`ombix editors trust FOLDER`: shows what a description would start, and trusts it as it is now."""

from pathlib import Path
from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import JsonOption
from ombix.work.describe import describe_questions
from ombix.work.describe.trust_layout import trust_report
from ombix.workspace.trust_answer import TrustReport


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (TrustReport,)


def run(
    context: typer.Context,
    folder: Path = typer.Argument(metavar="FOLDER", help="The folder of a description of yours, or of a stranger's."),
    yes: bool = typer.Option(False, "--yes", help="Trust it without being asked."),
    forget: bool = typer.Option(False, "--forget", help="Trust it no longer."),
    json: JsonOption = False,
) -> Status:
    """Show what a description would start, and trust it as it is now."""
    environment = environment_of(context)
    session = open_session(environment)
    if forget:
        was = describe_questions.forget_trust(session, str(folder))
        environment.say(f"{folder} is trusted no longer." if was else f"{folder} was not trusted.")
        return Status.FINE if was else Status.FOUND
    found = describe_questions.trust(session, str(folder))
    if not json:
        environment.show(trust_report(found, environment.display))
    if found.is_trusted != "trusted":
        asks = environment.can_ask and not json
        if yes or (asks and typer.confirm("Do you trust it?", default=False, err=True)):
            found = describe_questions.trust(session, str(folder), accept=True)
            said = f"{folder} is trusted, until a file of it changes."
        else:
            said = "It is not trusted. To trust it as it is now: ombix editors trust FOLDER --yes"
        if not json:
            environment.say(said)
    if json:
        environment.answer(found, lambda display: trust_report(found, display), json)
    return Status.FINE if found.is_trusted == "trusted" else Status.FOUND
