"""`ombix press KEYS`: runs keys on a text, step by step, in a simulated editor."""

from pathlib import Path
from typing import Annotated, Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import (
    AtOption,
    ConditionOption,
    EditorOption,
    JsonOption,
    PlatformOption,
    TextFileOption,
    TextOption,
    WorkspaceOption,
)
from ombix.core.errors import InputError
from ombix.work.tryout import tryout_questions
from ombix.work.tryout.live_console import show_live
from ombix.work.tryout.press_answer import StageReport
from ombix.work.tryout.press_layout import stage_report
from ombix.work.tryout.sample_text import text_asked


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (StageReport,)


def run(
    context: typer.Context,
    keys: Annotated[
        list[str] | None, typer.Argument(metavar="KEYS", help="Keys one after the other; 700ms is a pause.")
    ] = None,
    live: bool = typer.Option(False, "--live", help="Show what the keys do that you press now."),
    editor: EditorOption = "",
    file: Path | None = typer.Option(
        None,
        "--file",
        metavar="FILE",
        help="An editor's own file, or a keymap file; without it, the workspace's keymap.",
    ),
    text: TextOption = None,
    text_file: TextFileOption = None,
    at: AtOption = "1:1",
    condition: ConditionOption = "always",
    on: PlatformOption = "",
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:
    """Run keys on a text, step by step, in a simulated editor."""
    from ombix.work.tryout.stage_session import place_on

    environment = environment_of(context)
    session = open_session(environment, workspace)
    place = place_on(text_asked(session, text, text_file), at, condition)
    named = str(file) if file is not None else ""
    if live:
        if keys or json:
            raise InputError("--live takes the keys that you press", "Leave out what is named.")
        show_live(environment, tryout_questions.live(session, place, editor=editor, file=named, on=on))
        return Status.FINE
    found = tryout_questions.press(session, *(keys or ()), place=place, editor=editor, file=named, on=on)
    environment.answer(found, lambda display: stage_report(found, display), json)
    steps = [step for press in found.presses for step in press.steps]
    return Status.FINE if any(step.kind in ("runs", "types") for step in steps) else Status.FOUND
