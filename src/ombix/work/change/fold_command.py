"""`ombix fold FILE`: keymaps of several platforms, folded into one portable definition."""

from pathlib import Path
from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import DryRunOption, JsonOption
from ombix.core.errors import InputError
from ombix.work.change import change_questions
from ombix.work.change.fold_answer import FoldReport
from ombix.work.change.fold_layout import fold_report


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (FoldReport,)


def run(
    context: typer.Context,
    output: Path = typer.Argument(metavar="FILE", help="The keymap file to write."),
    keymaps: list[str] = typer.Argument(
        metavar="PLATFORM=FILE...", help="The keymap on each platform, like mac=mac.keys.toml."
    ),
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Fold the keymaps of several platforms into one, with as few exceptions as possible."""
    environment = environment_of(context)
    files = _files_by_platform(keymaps)
    found = change_questions.fold(open_session(environment), files, str(output), dry_run)
    environment.answer(found, lambda display: fold_report(found, display, dry_run), json)
    return Status.FINE


def _files_by_platform(keymaps: list[str]) -> dict[str, str]:
    """The files that are named, by their platforms. Raises InputError."""
    files: dict[str, str] = {}
    for text in keymaps:
        platform, equals, file = text.partition("=")
        if not equals or not file:
            raise InputError(f"it is not said which platform {text} is for", f"Say it like this: mac={text.strip('=')}")
        if platform in files:
            raise InputError(f"{platform} has two keymaps: {files[platform]} and {file}", "Name one for each platform.")
        files[platform] = file
    return files
