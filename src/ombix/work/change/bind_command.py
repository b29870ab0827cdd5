"""`ombix bind ACTION KEYS`: one change to a keymap file, comments kept; without keys, those that are free and suit."""

from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Environment, Status, environment_of
from ombix.console.options import (
    ActionArgument,
    AnywayOption,
    DryRunOption,
    EditorOption,
    JsonOption,
    LayerOption,
    PlatformOption,
    WorkspaceOption,
)
from ombix.core.errors import InputError, NotationError
from ombix.core.keys.notation import write
from ombix.work.change import change_questions
from ombix.work.change.change_console import answer_change
from ombix.work.look import look_questions
from ombix.work.look.free_answer import FreeReport
from ombix.work.look.free_layout import free_report, free_rows
from ombix.workspace.change_answer import ChangeReport

_PROPOSED = 5


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (ChangeReport, FreeReport)


def run(
    context: typer.Context,
    action: ActionArgument,
    keys: list[str] = typer.Argument(
        None, metavar="[KEYS]", help="Keys, like Mod+Shift+Y or Space l d; without them, five are proposed."
    ),
    where: str = typer.Option("", "--where", metavar="CONDITION", help="Only under this condition."),
    also: bool = typer.Option(False, "--also", help="Keep the keys that the action has, here and in lower layers."),
    told: list[str] | None = typer.Option(
        None, "--with", metavar="NAME=VALUE", help="What the action has to be told; repeatable."
    ),
    why: str = typer.Option("", "--why", metavar="REASON", help="Kept in the file."),
    editor: EditorOption = "",
    on: PlatformOption = "",
    layer: LayerOption = "",
    anyway: AnywayOption = False,
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Give an action keys: adds or replaces one entry of the keymap file. With --editor, a command that only it has."""
    from ombix.work.change.edits import WantedBinding
    from ombix.workspace.edit_options import EditOptions

    environment = environment_of(context)
    session = open_session(environment, workspace)
    pressed = " ".join(keys or ())
    if (turned := _the_other_way_round(action, pressed)) and not editor:
        action, pressed = turned
        environment.say(f"Read as: ombix bind {action} {pressed}")
    if not pressed:
        if editor:
            raise InputError(
                "which keys?", "A command that only one editor has takes keys: ombix bind COMMAND KEYS --editor NAME."
            )
        proposed = look_questions.free(session, action, where=where, on=on, count=_PROPOSED)
        pressed = _chosen(environment, proposed) if environment.can_ask and not json else ""
        if not pressed:
            environment.answer(proposed, lambda display: free_report(proposed, display), json)
            environment.say(f"Nothing is bound yet. Take one with: ombix bind {proposed.action} KEYS")
            return Status.FOUND
    wanted = WantedBinding(action, pressed, where, on, also, _arguments(told or []), editor, why)
    found = change_questions.bind(session, wanted, EditOptions(layer, dry_run, anyway))
    status = answer_change(environment, found, dry_run, json)
    if found.refused and found.consequences.arriving and not json:
        free = look_questions.free(session, where=where, on=on, count=_PROPOSED)
        if free.keys:
            environment.say(f"Free there: {', '.join(one.keys for one in free.keys)}.")
    return status


def _the_other_way_round(action: str, pressed: str) -> tuple[str, str] | None:
    """The action and the keys, where the keys were typed first; None where they were not."""
    from ombix.data.shipped import Shipped
    from ombix.workspace.named_action import is_name

    shipped = Shipped()
    if not pressed or is_name(action, shipped) or (not is_name(pressed, shipped) and _are_keys(pressed)):
        return None
    return (pressed, action) if _are_keys(action) else None


def _are_keys(text: str) -> bool:
    from ombix.work.look.what import read_keys

    try:
        read_keys(text)
    except NotationError:
        return False
    return True


def _chosen(environment: Environment, proposed: FreeReport) -> str:
    """The keys that a user at a terminal takes of those proposed, or types; empty where none."""
    if not proposed.keys:
        return ""
    environment.show([free_rows(proposed.keys, numbered=True)])
    answer = str(
        typer.prompt(
            f"keys for {proposed.title} (a number, other keys, or Enter for none)",
            default="",
            show_default=False,
            err=True,
        )
    )
    answer = _pressed(answer).strip()
    if answer.isdigit() and 1 <= int(answer) <= len(proposed.keys):
        return proposed.keys[int(answer) - 1].keys
    return answer


def _pressed(answer: str) -> str:
    """What was typed; or the keys that were pressed, where a terminal sent them as codes."""
    if answer.isprintable():
        return answer
    from ombix.core.pressing.sent_keys import keys_sent
    from ombix.data.shipped import Shipped

    chords, _lost = keys_sent(answer.encode(), Shipped().terminal("xterm"))
    return write(tuple(chords))


def _arguments(told: list[str]) -> tuple[tuple[str, str], ...]:
    found = []
    for text in told:
        name, sign, value = text.partition("=")
        if not sign or not name:
            raise InputError(f"not a name and a value: {text}", "Write them like --with count=3.")
        found.append((name.strip(), value.strip()))
    return tuple(found)
