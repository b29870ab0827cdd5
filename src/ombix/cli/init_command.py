"""`ombix init`: starts a workspace here, with the key files of this machine that its user takes in."""

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Environment, Status, environment_of
from ombix.console.options import AdoptOption, DryRunOption, JsonOption
from ombix.report.terminal_text import visible
from ombix.work.audit.overview_layout import next_steps
from ombix.work.carry import carry_questions
from ombix.work.carry.adopt_answer import StartReport
from ombix.work.carry.adopt_layout import start_report

if TYPE_CHECKING:
    from ombix.work.carry.adopt import Read


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (StartReport,)


def run(
    context: typer.Context,
    name: str = typer.Option("mine", "--name", metavar="NAME", help="The name of the keymap."),
    adopt: AdoptOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Start a workspace here, and take in the key files of this machine that you choose."""
    environment = environment_of(context)
    session = open_session(environment)
    files = carry_questions.files_on_this_machine(session)
    chosen = adopt if adopt is not None else _asked(environment, files) if not json else []
    found = carry_questions.start(session, name, files, chosen, dry_run)
    environment.answer(found, lambda display: start_report(found, display, dry_run), json)
    if not json:
        environment.show(next_steps(found.next_steps))
        if files and not found.adopted:
            environment.say("To take a key file in from the start: ombix init --adopt NAME, or --adopt all")
    return Status.FINE


def _asked(environment: Environment, files: "Sequence[Read]") -> list[str]:
    """The editors that a user at a terminal says yes to; none elsewhere."""
    if not environment.can_ask:
        return []
    display = environment.messages.display
    return [
        one.editor.name
        for one in files
        if typer.confirm(
            f"{visible(display.path(str(one.file)))} has {len(one.reading.layer.bindings)} bindings for {one.editor.name}. "
            "Take it in?", default=True, err=True,
        )
    ]  # fmt: skip
