"""`ombix fold FILE`: keymaps of three platforms, folded into one portable definition."""

from pathlib import Path
from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import DryRunOption, JsonOption
from ombix.work.change import change_questions
from ombix.work.change.fold_answer import FoldReport
from ombix.work.change.fold_layout import fold_report


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (FoldReport,)


def run(
    context: typer.Context,
    output: Path = typer.Argument(metavar="FILE", help="The keymap file to write."),
    linux: Path | None = typer.Option(None, "--linux", metavar="FILE", help="The keymap on Linux."),
    mac: Path | None = typer.Option(None, "--mac", metavar="FILE", help="The keymap on a Mac."),
    windows: Path | None = typer.Option(None, "--windows", metavar="FILE", help="The keymap on Windows."),
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Fold the keymaps of several platforms into one, with as few exceptions as possible."""
    environment = environment_of(context)
    named = (("linux", linux), ("mac", mac), ("windows", windows))
    files = {name: str(file) for name, file in named if file is not None}
    found = change_questions.fold(open_session(environment), files, str(output), dry_run)
    environment.answer(found, lambda display: fold_report(found, display, dry_run), json)
    return Status.FINE
