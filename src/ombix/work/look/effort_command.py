"""`ombix effort KEYS`: what keys cost the hands, and why."""

from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import (
    HandsOption,
    JsonOption,
    KeyboardOption,
    LayoutOption,
    PlatformOption,
    WorkspaceOption,
)
from ombix.work.look import look_questions
from ombix.work.look.effort_answer import EffortReport
from ombix.work.look.effort_layout import effort_report


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (EffortReport,)


def run(
    context: typer.Context,
    keys: list[str] = typer.Argument(metavar="KEYS", help="Keys, like Mod+Shift+K or Space o f."),
    beside: list[str] | None = typer.Option(
        None, "--beside", metavar="KEYS", help="Other keys to compare with; repeatable."
    ),
    hands: HandsOption = "both",
    keyboard: KeyboardOption = "",
    on: PlatformOption = "",
    layout: LayoutOption = "",
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:
    """How hard keys are to press: seconds, finger by finger, and where the figures come from."""
    environment = environment_of(context)
    session = open_session(environment, workspace)
    found = look_questions.effort(
        session, " ".join(keys), *(beside or ()), hands=hands, keyboard=keyboard, on=on, layout=layout
    )
    environment.answer(found, lambda display: effort_report(found, display), json)
    return Status.FINE if all(effort.seconds is not None for effort in found.efforts) else Status.FOUND
