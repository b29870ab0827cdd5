"""`ombix layouts`: the keyboard layouts that Ombix knows, and what is on the keys of one."""

from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import JsonOption, LayoutArgument
from ombix.work.look import look_questions
from ombix.work.look.layouts_answer import KnownHardware, LayoutKeys
from ombix.work.look.layouts_layout import known_hardware, layout_keys


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (KnownHardware, LayoutKeys)


def run(context: typer.Context, name: LayoutArgument = "", json: JsonOption = False) -> Status:
    """Keyboard layouts, keyboards, terminals and desktops that Ombix knows; or what is on the keys of one layout."""
    environment = environment_of(context)
    session = open_session(environment)
    if name:
        one = look_questions.layout(session, name)
        keyboard = session.resources.shipped.keyboard("full", one.shape)
        environment.answer(one, lambda display: layout_keys(one, keyboard), json)
    else:
        found = look_questions.hardware(session)
        environment.answer(found, lambda display: known_hardware(found, display), json)
    return Status.FINE
