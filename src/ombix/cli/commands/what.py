"""`ombix what KEYS`: what happens when these keys are pressed, and why; what may follow."""

from typing import Any

import typer

from ombix.cli.asking import editor_asked, open_session
from ombix.cli.environment import Status, environment_of
from ombix.cli.options import (
    ConditionOption,
    EditorOption,
    FileOption,
    JsonOption,
    LayoutOption,
    PlatformOption,
    WorkspaceOption,
)
from ombix.core.results.looking import Explanation
from ombix.report.looking import explanation


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (Explanation,)


def run(
    context: typer.Context,
    keys: list[str] = typer.Argument(metavar="KEYS", help="Keys, like Ctrl+Shift+K or Space o f."),
    condition: ConditionOption = "",
    editor: EditorOption = "",
    file: FileOption = None,
    on: PlatformOption = "",
    layout: LayoutOption = "",
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:
    """What happens when I press this, and why; what may follow."""
    environment = environment_of(context)
    session = open_session(environment, workspace, file, editor)
    found = session.what(" ".join(keys), editor=editor_asked(file, editor), on=on, layout=layout, within=condition)
    environment.answer(found, lambda display: explanation(found, display), json)
    return Status.FINE if found.decisions or found.follows else Status.FOUND
