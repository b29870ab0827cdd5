"""`ombix move WHAT KEYS`: puts what is bound on other keys, in the place where it is bound."""

from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import AnywayOption, DryRunOption, JsonOption, LayerOption, MovedArgument, WorkspaceOption
from ombix.core.errors import InputError
from ombix.work.change import change_questions
from ombix.work.change.change_console import answer_change
from ombix.workspace.change_answer import ChangeReport

_MOST = 2
"""Words that say what is moved: an action, and one of its keys."""


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (ChangeReport,)


def run(
    context: typer.Context,
    what: MovedArgument,
    layer: LayerOption = "",
    anyway: AnywayOption = False,
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Put what is bound on other keys; the rest of its entry stays as it is."""
    from ombix.workspace.edit_options import EditOptions

    environment = environment_of(context)
    session = open_session(environment, workspace)
    *bound, keys = what
    if not bound:
        raise InputError("there are no new keys", "Say WHAT, then its new keys: ombix move F3 F4")
    if len(bound) > _MOST:
        raise InputError(
            "this is more than an action, its keys and the new keys", 'Put a sequence in quotes: "Space l d".'
        )
    found = change_questions.move(session, *bound, to=keys, options=EditOptions(layer, dry_run, anyway))
    return answer_change(environment, found, dry_run, json)
