"""`ombix undo`: takes the last change back that Ombix wrote."""

import typer

from ombix.cli.environment import Status, environment_of, shown_path
from ombix.cli.options import DryRunOption
from ombix.store.files import Journal


def run(context: typer.Context, dry_run: DryRunOption = False) -> Status:
    """Take the last change back."""
    environment = environment_of(context)
    taken = Journal(environment.state_folder).take_back(dry_run)
    if taken is None:
        environment.say("There is nothing to take back.")
        return Status.FOUND
    command, files = taken
    names = ", ".join(shown_path(file, environment) for file in files)
    environment.out(f"{'would take back' if dry_run else 'took back'} “{command}”: {names}")
    return Status.FINE
