"""`ombix free [ACTION]`: which keys are free here, and which of them suit an action."""

from typing import Any

import typer

from ombix.console.asking import editor_asked, open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import (
    ConditionOption,
    EditorOption,
    FileOption,
    FreeArgument,
    JsonOption,
    LayoutOption,
    PlatformOption,
    WorkspaceOption,
)
from ombix.work.look import look_questions
from ombix.work.look.free_answer import FreeReport
from ombix.work.look.free_layout import free_report


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (FreeReport,)


def run(
    context: typer.Context,
    action: FreeArgument = None,
    keys: str = typer.Option("", "--keys", metavar="KEYS", help="Only say whether these are free, and if not, why."),
    condition: ConditionOption = "",
    count: int = typer.Option(10, "--count", metavar="N", min=1, max=1000, help="How many are listed."),
    editor: EditorOption = "",
    file: FileOption = None,
    on: PlatformOption = "",
    layout: LayoutOption = "",
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:
    """Which keys are free on every platform, layout and terminal and in every editor here, the easiest first."""
    environment = environment_of(context)
    session = open_session(environment, workspace, file, editor)
    found = look_questions.free(session,
        " ".join(action or ()), keys=keys, where=condition, count=count, editor=editor_asked(file, editor), on=on,
        layout=layout,
    )  # fmt: skip
    environment.answer(found, lambda display: free_report(found, display), json)
    return Status.FINE if found.keys else Status.FOUND
