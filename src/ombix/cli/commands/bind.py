"""`ombix bind ACTION KEYS`: one change to the keymap file, comments kept."""

from typing import Any

import typer

from ombix.cli.asking import open_session
from ombix.cli.environment import Status, environment_of
from ombix.cli.options import ActionArgument, DryRunOption, EditorOption, JsonOption, PlatformOption, WorkspaceOption
from ombix.core.errors import InputError
from ombix.core.results.files import ChangeReport
from ombix.report.known import change_report


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (ChangeReport,)


def run(
    context: typer.Context,
    action: ActionArgument,
    keys: list[str] = typer.Argument(metavar="KEYS", help="Keys, like Mod+Shift+Y or Space l d."),
    where: str = typer.Option("", "--where", metavar="CONDITION", help="Only under this condition."),
    also: bool = typer.Option(False, "--also", help="Keep the keys that the action has, here and in lower layers."),
    told: list[str] | None = typer.Option(
        None, "--with", metavar="NAME=VALUE", help="What the action has to be told; may be given again."
    ),
    why: str = typer.Option("", "--why", metavar="REASON", help="Kept in the file."),
    editor: EditorOption = "",
    on: PlatformOption = "",
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Give an action keys: adds or replaces one entry of the keymap file. With --editor, a command that only it has."""
    from ombix.session.changing import WantedBinding

    environment = environment_of(context)
    wanted = WantedBinding(action, " ".join(keys), where, on, also, _arguments(told or []), editor, why)
    found = open_session(environment, workspace).bind(wanted, dry_run)
    environment.answer(found, lambda display: change_report(found, display, dry_run), json)
    for remark in found.remarks if not json else ():
        environment.say(remark)
    return Status.FINE


def _arguments(told: list[str]) -> tuple[tuple[str, str], ...]:
    found = []
    for text in told:
        name, sign, value = text.partition("=")
        if not sign or not name:
            raise InputError(f"not a name and a value: {text}", "Write them like --with count=3.")
        found.append((name.strip(), value.strip()))
    return tuple(found)
