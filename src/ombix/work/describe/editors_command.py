"""`ombix editors`: the editors that Ombix knows, and what each can express."""

from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import EditorArgument, JsonOption
from ombix.work.describe import describe_questions
from ombix.work.describe.editors_answer import EditorAbilities, EditorList
from ombix.work.describe.editors_layout import editor_abilities, editor_list


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (EditorList, EditorAbilities)


def run(
    context: typer.Context,
    name: EditorArgument = "",
    commands: bool = typer.Option(False, "--commands", help="With NAME: every command and its action."),
    keys: bool = typer.Option(False, "--keys", help="With NAME: the default keys."),
    json: JsonOption = False,
) -> Status:
    """Editors that Ombix knows: what each can express."""
    environment = environment_of(context)
    session = open_session(environment)
    if name:
        one = describe_questions.editor(session, name)
        environment.answer(one, lambda display: editor_abilities(one, display, commands, keys), json)
    else:
        found = describe_questions.editors(session)
        environment.answer(found, lambda display: editor_list(found, display), json)
    return Status.FINE
