"""`ombix use savings`: how much time keys save, and what deserves keys."""

import re
from pathlib import Path
from typing import Annotated, Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import JsonOption, ReportOption, WorkspaceOption
from ombix.console.page_files import write_page, write_plot
from ombix.core.errors import InputError, did_you_mean
from ombix.core.usage.counts import BYS, By
from ombix.work.usage import usage_questions
from ombix.work.usage.savings import WORKING_DAYS, SavingsOptions
from ombix.work.usage.savings_answer import SavingsReport
from ombix.work.usage.savings_layout import savings_report
from ombix.work.usage.use import UseOptions
from ombix.work.usage.use_command import SinceOption, UntilOption

EstimatesArgument = Annotated[
    list[str] | None, typer.Argument(metavar="[ACTION RATE]…", help="Estimates, like line.copy-down 100/day.")
]
LogOption = Annotated[
    list[Path] | None,
    typer.Option("--log", metavar="LOG", help="A log, in place of what is kept; repeatable."),
]


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (SavingsReport,)


def run(
    context: typer.Context,
    estimates: EstimatesArgument = None,
    log: LogOption = None,
    since: SinceOption = "",
    until: UntilOption = "",
    by: str = typer.Option(
        "menu", "--by", metavar="WAY", help="How estimates are started now: menu, mouse, command line."
    ),
    skill: str = typer.Option("average", "--skill", metavar="SKILL", help="best, good, average, casual or unfamiliar."),
    pointing: str = typer.Option(
        "", "--pointing", metavar="WAY/SIZE", help="How far the mouse goes, and how large its target is: 300/20."
    ),
    levels: int = typer.Option(0, "--levels", metavar="NUMBER", help="Levels of a menu.", min=0, max=10),
    working_days: int = typer.Option(WORKING_DAYS, "--working-days", metavar="NUMBER", help="A year.", min=1, max=366),
    plot: Path | None = typer.Option(None, "--plot", metavar="FILE", help="Draw it: .png or .svg."),
    workspace: WorkspaceOption = None,
    everything: bool = typer.Option(False, "--all", help="All actions."),
    report: ReportOption = None,
    json: JsonOption = False,
) -> Status:
    """How much time keys save and could save, in ranges, and what deserves keys."""
    environment = environment_of(context)
    session = open_session(environment, workspace)
    if estimates and (log or since or until):
        raise InputError("there are estimates and a log", "Give one of them.")
    options = SavingsOptions({}, _way(by), skill, working_days, levels, _pointing(pointing))
    found = usage_questions.savings(
        session, estimates or [], options, UseOptions(tuple(map(str, log or ())), since, until)
    )
    environment.answer(found, lambda display: savings_report(found, display, everything), json)
    if plot is not None:
        from ombix.work.usage.plots_layout import plot_savings

        write_plot(environment, session, plot, lambda ending: plot_savings(found, ending))
    if report is not None:
        write_page(
            environment, session, report, found, lambda display: savings_report(found, display, True), "What keys save"
        )
    return Status.FINE


def _pointing(text: str) -> tuple[float, float] | None:
    match = re.fullmatch(r"(\d{1,6}(?:\.\d+)?)/(\d{1,6}(?:\.\d+)?)", text)
    if text and (match is None or not float(match[1]) or not float(match[2])):
        raise InputError(f"{text} is no way of the mouse", "Write how far it goes and how large its target is: 300/20.")
    return (float(match[1]), float(match[2])) if match is not None else None


def _way(by: str) -> By:
    for one in BYS:
        if one == by and one != "keys":
            return one
    known = [one for one in BYS if one != "keys"]
    raise InputError(f"unknown way: {by}", did_you_mean(by, known) or f"Ways are {', '.join(known)}.")
