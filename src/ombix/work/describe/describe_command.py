"""`ombix describe`: drafts a description of an editor that Ombix does not know, or tests one."""

from pathlib import Path
from typing import Any

import typer
from msgspec.structs import replace

from ombix.console.asking import open_session
from ombix.console.environment import Environment, Status, environment_of
from ombix.console.options import DryRunOption, JsonOption
from ombix.core.errors import InputError
from ombix.report.terminal_text import visible
from ombix.work.describe import describe_questions
from ombix.work.describe.describe_answer import DraftReport
from ombix.work.describe.describe_layout import draft_report
from ombix.work.describe.editors_answer import DescriptionReport
from ombix.work.describe.editors_layout import description_report

_LEAVE, _STOP = "", "q"


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (DraftReport, DescriptionReport)


def run(
    context: typer.Context,
    samples: list[Path] = typer.Argument(
        None, metavar="[SAMPLE…]", help="Key files of the editor, with some bindings in them."
    ),
    commands: list[Path] = typer.Option(
        [],
        "--commands",
        metavar="FILE",
        help="A list of its commands: lines, JSON, CSV or a table; repeatable.",
    ),
    default_keys: list[Path] = typer.Option(
        [], "--default-keys", metavar="FILE", help="Its default keys: a key file, or a list; repeatable."
    ),
    name: str = typer.Option(
        "", "--name", metavar="NAME", help="What the editor is called; without it, as the sample."
    ),
    output: Path | None = typer.Option(None, "--output", metavar="FOLDER", help="Where to write; without it, ./NAME."),
    check: Path | None = typer.Option(None, "--check", metavar="FOLDER", help="Test a description, and draft nothing."),
    everything: bool = typer.Option(False, "--all", help="Show all that is unsure, and what is sure as well."),
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Draft a description of an editor from samples of its files, or test one."""
    environment = environment_of(context)
    session = open_session(environment)
    if check is not None:
        if samples:
            raise InputError("--check tests a description, and drafts none", "Leave out the samples, or --check.")
        tested = describe_questions.check_description(session, str(check))
        environment.answer(tested, lambda display: description_report(tested, display), json)
        return Status.FOUND if tested.faults else Status.FINE
    if not samples:
        raise InputError("there is no sample to draft from", "Name a key file of the editor: ombix describe FILE")
    from ombix.work.describe.describe import DraftRequest

    folder = str(output) if output is not None else ""
    wanted = DraftRequest([*map(str, samples)], [*map(str, commands)], [*map(str, default_keys)], name, folder)
    if environment.can_ask and not json:
        actions, states = _asked(environment, describe_questions.describe(session, wanted, dry_run=True))
        wanted = replace(wanted, actions=actions, states=states)
    found = describe_questions.describe(session, wanted, dry_run=dry_run)
    environment.answer(found, lambda display: draft_report(found, display, everything, dry_run), json)
    return Status.FOUND if found.faults else Status.FINE


def _asked(environment: Environment, found: DraftReport) -> tuple[dict[str, str], dict[str, str]]:
    """What a user at a terminal answers to what is unsure."""
    actions: dict[str, str] = {}
    states: dict[str, str] = {}
    unsure = [command for command in found.commands if not command.action and command.candidates]
    words = [state for state in found.states if not state.means and state.may_mean]
    if not unsure and not words:
        return actions, states
    environment.say("A number takes an answer, Enter leaves it open, q ends the questions.")
    for number, one in enumerate(unsure, 1):
        said = f": {one.said}" if one.said else ""
        environment.say(visible(f"{number} of {len(unsure)}  {one.command}{said}"))
        for index, each in enumerate(one.candidates, 1):
            environment.say(f"  {index}  {each.title} ({each.action})")
        answer = typer.prompt("  which one", default=_LEAVE, show_default=False, err=True).strip()
        if answer == _STOP:
            return actions, states
        if answer.isdigit() and 1 <= int(answer) <= len(one.candidates):
            actions[one.command] = one.candidates[int(answer) - 1].action
    for state in words:
        if typer.confirm(visible(f"{state.word} means: {state.may_mean}?"), default=False, err=True):
            states[state.word] = state.may_mean
    environment.say("")
    return actions, states
