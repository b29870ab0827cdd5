"""`ombix changes [REV[..REV]]`: what changed by meaning since a version in git."""

from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import JsonOption, ReportOption, WorkspaceOption
from ombix.console.page_files import write_page
from ombix.report.terminal_text import visible
from ombix.work.versions import versions_questions
from ombix.work.versions.changes_answer import VersionChanges
from ombix.work.versions.changes_layout import message_lines, version_changes


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (VersionChanges,)


def run(
    context: typer.Context,
    revisions: str = typer.Argument(
        "", metavar="[REV[..REV]]", help="A version, or two; without one, since the last commit."
    ),
    staged: bool = typer.Option(False, "--staged", help="Up to what is staged, not to the files as they are."),
    message: bool = typer.Option(False, "--message", help="As the message of a commit."),
    workspace: WorkspaceOption = None,
    report: ReportOption = None,
    json: JsonOption = False,
) -> Status:
    """What changed by meaning since a version: keys given, taken, moved, and the habits that break."""
    environment = environment_of(context)
    session = open_session(environment, workspace)
    found = versions_questions.changes(session, revisions, staged=staged)
    if message and not json:
        environment.results.write(map(visible, message_lines(found)))
    else:
        environment.answer(found, lambda display: version_changes(found, display), json)
    if report is not None:
        write_page(environment, session, report, found, lambda display: version_changes(found, display), "What changed")
    return Status.FOUND if found.keys or found.habits or found.entries else Status.FINE
