"""`ombix changes blame KEYS`: which commit gave keys the meaning that they have."""

from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import EditorOption, JsonOption, PlatformOption, WorkspaceOption
from ombix.work.versions import versions_questions
from ombix.work.versions.blame_answer import BlameReport
from ombix.work.versions.blame_layout import blame_report


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (BlameReport,)


def run(
    context: typer.Context,
    keys: list[str] = typer.Argument(metavar="KEYS", help="Keys, like Ctrl+K, or a sequence of them."),
    editor: EditorOption = "",
    on: PlatformOption = "",
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:
    """Which commit gave keys the meaning that they have, and what they did before."""
    environment = environment_of(context)
    found = versions_questions.blame(open_session(environment, workspace), " ".join(keys), editor=editor, on=on)
    environment.answer(found, lambda display: blame_report(found, display), json)
    return Status.FINE if found.commits else Status.FOUND
