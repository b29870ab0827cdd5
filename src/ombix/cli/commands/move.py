"""`ombix move WHAT --to KEYS`: puts what is bound on other keys, in the place where it is bound."""

from typing import Any

import typer

from ombix.cli.asking import open_session
from ombix.cli.changing import answer_change
from ombix.cli.environment import Status, environment_of
from ombix.cli.options import AnywayOption, BoundArgument, DryRunOption, JsonOption, LayerOption, WorkspaceOption
from ombix.core.results.files import ChangeReport


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (ChangeReport,)


def run(
    context: typer.Context,
    what: BoundArgument,
    to: str = typer.Option(..., "--to", metavar="KEYS", help="The new keys, like Mod+Shift+Y or Space l d."),
    layer: LayerOption = "",
    anyway: AnywayOption = False,
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Put what is bound on other keys; the rest of its entry stays as it is."""
    from ombix.session.wishes import EditWishes

    environment = environment_of(context)
    session = open_session(environment, workspace)
    found = session.move(*what, to=to, wishes=EditWishes(layer, dry_run, anyway))
    return answer_change(environment, found, dry_run, json)
