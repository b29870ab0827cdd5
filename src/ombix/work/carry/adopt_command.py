"""`ombix adopt FILE`: reads an editor's own file into the workspace as a layer."""

from pathlib import Path
from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import DryRunOption, EditorOption, JsonOption, WorkspaceOption
from ombix.work.carry import carry_questions
from ombix.work.carry.adopt_answer import Adoption
from ombix.work.carry.adopt_layout import adoption


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (Adoption,)


def run(
    context: typer.Context,
    file: Path = typer.Argument(metavar="FILE", help="The editor's key-binding file."),
    editor: EditorOption = "",
    name: str = typer.Option("", "--name", metavar="NAME", help="The name of the layer; without it, the editor's."),
    workspace: WorkspaceOption = None,
    everything: bool = typer.Option(False, "--all", help="Show every line, not only those that need a look."),
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Read an editor's own file into the workspace as a layer."""
    environment = environment_of(context)
    found = carry_questions.adopt(
        open_session(environment, workspace), str(file), editor=editor, name=name, dry_run=dry_run
    )
    environment.answer(found, lambda display: adoption(found, display, everything, dry_run), json)
    return Status.FOUND if any(line.fault for line in found.lines) else Status.FINE
