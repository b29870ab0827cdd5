"""`ombix port --to NAME`: writes the keymap for other editors, with a verdict for each binding."""

from pathlib import Path
from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import (
    CarefulOption,
    DryRunOption,
    FromOption,
    JsonOption,
    PlatformOption,
    RehomeOption,
    ReportOption,
    ToManyOption,
    WorkspaceOption,
)
from ombix.console.page_files import page
from ombix.core.errors import InputError, Place
from ombix.report.blocks import Blank, Block
from ombix.report.terminal_text import Display
from ombix.report.written import written
from ombix.work.carry import carry_questions
from ombix.work.carry.port_answer import PortReport
from ombix.work.carry.port_layout import port_page, port_report


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (PortReport, tuple[PortReport, ...])


def run(
    context: typer.Context,
    to: ToManyOption = None,
    source: FromOption = "",
    output: Path | None = typer.Option(
        None, "--output", metavar="FILE", help="Where to write, for one editor; without it, ported/NAME/."
    ),
    rehome: RehomeOption = False,
    careful: CarefulOption = False,
    report: ReportOption = None,
    everything: bool = typer.Option(False, "--all", help="Show the exact ones as well."),
    on: PlatformOption = "",
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Write the keymap for other editors, with a verdict for each binding."""
    from ombix.work.carry.port import report as account

    environment = environment_of(context)
    session = open_session(environment, workspace)
    made = carry_questions.make_ports(session, *(to or ()), source=source, on=on, rehome=rehome, careful=careful)
    if len(made) > 1 and (output is not None or report is not None):
        raise InputError("--output and --report are for one editor", "Name one with --to, or leave them out.")
    accounts = [account(one, environment.folders.here / output if output is not None else None) for one in made]
    pages = {}
    if report is not None:
        one = accounts[0]
        title = f"From {one.source} to {one.target}"
        pages[str(report)] = page(environment, report, title, one, lambda display: port_page(one, display))
    paths = carry_questions.write_ports(session, made, str(output) if output is not None else "", pages, dry_run)

    def blocks(display: Display) -> list[Block]:
        found: list[Block] = []
        for number, one in enumerate(accounts):
            found += [*([Blank()] if number else []), *port_report(one, display, everything)]
        return [*found, *(written((Place(str(path)),), dry_run, display) for path in paths)]

    environment.answer(accounts[0] if len(accounts) == 1 else tuple(accounts), blocks, json)
    return Status.FOUND if any(one.counts["lost"] for one in accounts) else Status.FINE
