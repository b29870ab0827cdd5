"""`ombix layouts`: the keyboard layouts that Ombix knows, and what is on the keys of one."""

from typing import Any

import typer

from ombix.cli.asking import open_session
from ombix.cli.environment import Status, environment_of
from ombix.cli.options import JsonOption, LayoutArgument
from ombix.core.results.files import KnownHardware, LayoutKeys
from ombix.report.keyboard import layout_keys
from ombix.report.known import known_hardware


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (KnownHardware, LayoutKeys)


def run(context: typer.Context, name: LayoutArgument = "", json: JsonOption = False) -> Status:
    """Keyboard layouts, keyboards, terminals and desktops that Ombix knows; or what is on the keys of one layout."""
    environment = environment_of(context)
    session = open_session(environment)
    if name:
        one = session.layout(name)
        keyboard = session.resources.shipped.keyboard("full", one.shape)
        environment.answer(one, lambda display: layout_keys(one, keyboard), json)
    else:
        found = session.hardware()
        environment.answer(found, lambda display: known_hardware(found, display), json)
    return Status.FINE
