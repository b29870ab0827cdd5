"""`ombix unbind ACTION`: takes an action's keys away, in this keymap and all below it, with the reason kept."""

import typer

from ombix.cli.common import find_setting
from ombix.cli.environment import Status, environment_of, shown_path
from ombix.cli.options import ActionArgument, DryRunOption, WorkspaceOption
from ombix.core.errors import InputError, did_you_mean
from ombix.data import shipped
from ombix.store import editing, keymaps
from ombix.store.files import Journal, locked, read_text


def run(
    context: typer.Context,
    action: ActionArgument,
    why: str = typer.Option("", "--why", metavar="REASON", help="Kept in the file, so that it is not undone unawares."),
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
) -> Status:
    """Take an action's keys away on purpose, with the reason kept."""
    environment = environment_of(context)
    catalogue, facts = shipped.catalogue(), shipped.facts()
    if action not in catalogue.actions:
        raise InputError(f"unknown action: {action}", did_you_mean(action, list(catalogue.actions)))
    setting = find_setting(environment, workspace, "", "")
    assert setting.workspace is not None
    path = setting.workspace.keymap_path
    shown = shown_path(path, environment)
    with locked(path, environment.state_folder):
        before = read_text(path)
        keymaps.read(before, shown, catalogue, facts)
        changed = editing.remove(before, action, why)
        keymaps.read(changed.text, shown, catalogue, facts)
        if not dry_run:
            Journal(environment.state_folder).write_all(f"unbind {action}", {path: changed.text})
    environment.out(f"{'would write' if dry_run else 'wrote'} {shown}: {changed.line}")
    if changed.was:
        environment.out(f"  in place of {changed.was}")
    return Status.FINE
