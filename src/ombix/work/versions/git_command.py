"""`ombix git`: merges by meaning, readable differences, and a check before each commit, in a repository of git."""

import shutil
import sys
from typing import Annotated, Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import DryRunOption, JsonOption, SeverityOption
from ombix.work.audit import audit_questions
from ombix.work.audit.staged_answer import StagedReport
from ombix.work.audit.staged_layout import staged_report
from ombix.work.versions import versions_questions
from ombix.work.versions.git_answer import SetUpReport
from ombix.work.versions.git_layout import set_up_report
from ombix.work.versions.git_text_console import print_plain

app = typer.Typer(
    help="Merges by meaning, readable differences, and a check before each commit, in a repository of git.",
    rich_markup_mode=None, add_completion=False, invoke_without_command=True,
)  # fmt: skip
UserOption = Annotated[bool, typer.Option("--user", help="For all repositories of this user, not for this one alone.")]


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (SetUpReport, StagedReport)


def _program() -> str:
    """How git is to call this program."""
    from ombix.work.versions.git_setup import program_name

    return program_name(shutil.which("ombix"), sys.argv[0], sys.executable)


@app.callback()
def first(context: typer.Context) -> None:
    """Merges by meaning, readable differences, and a check before each commit, in a repository of git."""
    if context.invoked_subcommand is None:
        raise typer.Exit(check(context))


@app.command("setup")
def set_up(
    context: typer.Context, user: UserOption = False, dry_run: DryRunOption = False, json: JsonOption = False
) -> Status:
    """Have git merge, compare and check keymaps by what they mean."""
    environment = environment_of(context)
    found = versions_questions.git_setup(open_session(environment), _program(), user).set_up(dry_run)
    environment.answer(found, lambda display: set_up_report(found, display, dry_run), json)
    return Status.FINE


@app.command("check")
def check(context: typer.Context, user: UserOption = False, json: JsonOption = False) -> Status:
    """Whether all of that is set up as it should be."""
    environment = environment_of(context)
    found = versions_questions.git_setup(open_session(environment), _program(), user).check()
    environment.answer(found, lambda display: set_up_report(found, display), json)
    return Status.FOUND if any(part.stands in ("missing", "other") for part in found.parts) else Status.FINE


@app.command("remove")
def remove(
    context: typer.Context, user: UserOption = False, dry_run: DryRunOption = False, json: JsonOption = False
) -> Status:
    """Take out of git what setup put in."""
    environment = environment_of(context)
    found = versions_questions.git_setup(open_session(environment), _program(), user).remove(dry_run)
    environment.answer(found, lambda display: set_up_report(found, display, dry_run), json)
    return Status.FINE


@app.command("audit")
def audit(
    context: typer.Context,
    severity: SeverityOption = "error",
    is_open: bool = typer.Option(False, "--open", help="Only whether a merge left something open."),
    json: JsonOption = False,
) -> Status:
    """What is newly wrong with what is staged."""
    environment = environment_of(context)
    if is_open:
        audit_questions.check_nothing_open(open_session(environment))
        return Status.FINE
    found = audit_questions.audit_staged(open_session(environment), severity)
    environment.answer(found, lambda display: staged_report(found, display), json)
    return Status.FOUND if any(workspace.findings for workspace in found.workspaces) else Status.FINE


@app.command("text")
def text(
    context: typer.Context, file: str = typer.Argument(metavar="FILE", help="A keymap or workspace file.")
) -> Status:
    """What a file says, line by line, as git compares it."""
    return print_plain(environment_of(context), file)
