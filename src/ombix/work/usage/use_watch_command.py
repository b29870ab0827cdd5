"""`ombix use watch -- COMMAND…`: runs an editor as it is, and counts which bindings are used."""

from pathlib import Path
from typing import Annotated

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import WorkspaceOption
from ombix.core.errors import OutsideError
from ombix.work.usage import usage_questions

CommandArgument = Annotated[
    list[str], typer.Argument(metavar="COMMAND…", help="The editor as it is called, with its arguments, behind --.")
]


def run(
    context: typer.Context,
    command: CommandArgument,
    editor: str = typer.Option(
        "", "--editor", metavar="NAME", help="Which editor it is, where its name does not tell."
    ),
    file: Path | None = typer.Option(
        None, "--file", metavar="FILE", help="Its own key file, where it is not where the editor has it."
    ),
    workspace: WorkspaceOption = None,
) -> Status:
    """Run a terminal editor as it is, and count which bindings are used; of text only how much."""
    environment = environment_of(context)
    session = open_session(environment, workspace)
    watched = usage_questions.watch(session, command[0], editor=editor, file=str(file or ""))
    watched.start(command[1:])
    try:
        from ombix.work.usage.watch_console import run_watched
    except ImportError:
        raise OutsideError(
            "this system has no terminals that a program can stand between", "Read a log: ombix use"
        ) from None

    def keep() -> None:
        usage_questions.keep_use(session, watched.taken())

    try:
        status = run_watched(command, watched, keep)
    finally:
        keep()
    if status:
        raise SystemExit(status)  # the editor's own
    return Status.FINE
