"""`ombix status`: where the editors' own files stand."""

from typing import Any

import typer

from ombix.console.asking import machines_asked, open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import JsonOption, MachinesOption, WorkspaceOption
from ombix.report.blocks import Block, Title
from ombix.report.terminal_text import Display
from ombix.work.carry import carry_questions
from ombix.work.carry.apply_answer import StatusReport
from ombix.work.carry.apply_layout import status_report


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (StatusReport, tuple[StatusReport, ...])


def run(
    context: typer.Context,
    editor: list[str] = typer.Argument(None, metavar="[EDITOR…]", help="Only these editors of the workspace."),
    machine: MachinesOption = None,
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:
    """Where the editors' own files stand: up to date, behind, edited by hand, missing, or of another version."""
    environment = environment_of(context)
    sessions = machines_asked(open_session(environment, workspace), machine)
    found = [carry_questions.status(session, *(editor or ())) for session in sessions]

    def blocks(display: Display) -> list[Block]:
        parts = [([Title(one.machine)] if one.machine else [], status_report(one, display)) for one in found]
        return [block for title, part in parts for block in (*title, *part)]

    environment.answer(found[0] if len(found) == 1 else tuple(found), blocks, json)
    here = [editor for one in found for editor in one.editors if editor.standing != "elsewhere"]
    return Status.FINE if all(one.standing == "up to date" for one in here) else Status.FOUND
