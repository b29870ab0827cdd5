"""`ombix how WORDS…`: finds actions by words that describe them, and gives their keys."""

from typing import Any

import typer

from ombix.cli.asking import editor_asked, open_session
from ombix.cli.environment import Status, environment_of
from ombix.cli.options import EditorOption, FileOption, JsonOption, LayoutOption, PlatformOption, WorkspaceOption
from ombix.core.results.looking import FoundActions
from ombix.report.looking import found_actions


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (FoundActions,)


def run(
    context: typer.Context,
    words: list[str] = typer.Argument(metavar="WORDS", help="What you want to do, in your own words."),
    editor: EditorOption = "",
    file: FileOption = None,
    on: PlatformOption = "",
    layout: LayoutOption = "",
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:
    """How do I …? Finds actions by words and gives their keys."""
    environment = environment_of(context)
    session = open_session(environment, workspace, file, editor)
    found = session.how(" ".join(words), editor=editor_asked(file, editor), on=on, layout=layout)
    if not found.actions and not json:
        environment.say(f"No action is described by “{found.words}”. Try another word for it.")
        return Status.FOUND
    environment.answer(found, lambda display: found_actions(found, display), json)
    if found.actions and not found.actions[0].keys and not json and file is None:
        environment.say(f"Give it keys with: ombix bind {found.actions[0].action} KEYS")
    return Status.FINE if found.actions else Status.FOUND
