"""`ombix what KEYS`: what happens when these keys are pressed, and why; what may follow."""

from typing import Any

import typer

from ombix.cli.environment import Status, environment_of
from ombix.cli.look_ups import Asked, what
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
