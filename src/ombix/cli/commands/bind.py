"""`ombix bind ACTION KEYS`: one change to the keymap file, comments kept."""

import typer

from ombix.cli.common import find_setting
from ombix.cli.environment import Status, environment_of, shown_path
from ombix.cli.options import ActionArgument, DryRunOption, PlatformOption, WorkspaceOption
from ombix.core.errors import InputError, did_you_mean
from ombix.core.keys import parse, write
from ombix.data import shipped
from ombix.store import editing, keymaps
from ombix.store.files import Journal, locked, read_text


def run(
    context: typer.Context,
    action: ActionArgument,
    keys: list[str] = typer.Argument(metavar="KEYS", help="Keys, like Mod+Shift+Y or Space l d."),
    where: str = typer.Option("", "--where", metavar="CONDITION", help="Only under this condition."),
    also: bool = typer.Option(False, "--also", help="Keep the keys that the action has in this file."),
    on: PlatformOption = "",
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
) -> Status:
    """Give an action keys: adds or replaces one entry of the keymap file."""
    environment = environment_of(context)
    catalogue, facts = shipped.catalogue(), shipped.facts()
    if action not in catalogue.actions:
        raise InputError(
            f"unknown action: {action}",
            did_you_mean(action, list(catalogue.actions)) or f"Look for it with: ombix how {action.replace('.', ' ')}",
        )
    trigger = parse(" ".join(keys))
    if on:
        shipped.platform(on)
    setting = find_setting(environment, workspace, "", "")
    assert setting.workspace is not None
    path = setting.workspace.keymap_path
    with locked(path, environment.state_folder):
        before = read_text(path)
        keymaps.read(before, shown_path(path, environment), catalogue, facts)
        changed = editing.bind(before, action, trigger, where, on, also)
        layer = keymaps.read(changed.text, shown_path(path, environment), catalogue, facts)
        if not dry_run:
            Journal(environment.state_folder).write_all(f"bind {action} {write(trigger)}", {path: changed.text})
    shown = shown_path(path, environment)
    verb = "would write" if dry_run else "wrote"
    environment.out(f"{verb} {shown}: {changed.line}")
    if changed.was:
        environment.out(f"  in place of {changed.was}")
    others = [
        binding
        for binding in layer.bindings
        if binding.trigger == trigger and str(binding.outcome).partition("(")[0] != action
    ]
    for binding in others:
        environment.say(f"{write(trigger)} is bound to {binding.outcome} as well, in {binding.place}. See: ombix audit")
    return Status.FINE
