"""`ombix what KEYS`: what happens when these keys are pressed, and why; what may follow."""

from typing import Any

import typer

from ombix.console.environment import Status, environment_of
from ombix.console.options import (
    ConditionOption,
    EditorOption,
    FileOption,
    JsonOption,
    LayoutOption,
    PlatformOption,
    WorkspaceOption,
)
from ombix.work.look.lookup_console import Asked, what
from ombix.workspace.what_answer import Explanation


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (Explanation,)


def run(
    context: typer.Context,
    keys: list[str] = typer.Argument(metavar="KEYS", help="Keys, like Ctrl+Shift+K or Space o f."),
    editor: EditorOption = "",
    file: FileOption = None,
    on: PlatformOption = "",
    layout: LayoutOption = "",
    condition: ConditionOption = "",
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:
    """What happens when I press this, and why; what may follow."""
    asked = Asked(" ".join(keys), editor, file, on, layout, workspace, json, within=condition)
    return what(environment_of(context), asked)
