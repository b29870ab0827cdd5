"""`ombix how WORDS…`: finds actions by words that describe them, and gives their keys."""

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
    domains,
)
from ombix.work.look.lookup_console import Asked, how
from ombix.workspace.how_answer import FoundActions


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (FoundActions,)


def run(
    context: typer.Context,
    words: list[str] = typer.Argument(metavar="WORDS", help="What you want to do, in your own words."),
    editor: EditorOption = "",
    file: FileOption = None,
    on: PlatformOption = "",
    layout: LayoutOption = "",
    condition: ConditionOption = "",
    domain: str = typer.Option(
        "", "--domain", metavar="KIND", help="Only one kind of work, like versions or debug.", autocompletion=domains
    ),
    everything: bool = typer.Option(False, "--all", help="All that comes near, by kind of work."),
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:
    """How do I …? Finds actions by words and gives their keys."""
    asked = Asked(" ".join(words), editor, file, on, layout, workspace, json, domain, everything, condition)
    return how(environment_of(context), asked)
