"""`ombix use`: what is used, how often, and by which ways."""

from pathlib import Path
from typing import Annotated, Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import JsonOption, ReportOption, WorkspaceOption
from ombix.console.page_files import write_page, write_plot
from ombix.core.errors import InputError
from ombix.work.usage import usage_questions
from ombix.work.usage.strain_answer import StrainReport
from ombix.work.usage.strain_layout import strain_report
from ombix.work.usage.use import UseOptions
from ombix.work.usage.use_answer import UseReport
from ombix.work.usage.use_layout import use_report

LogsArgument = Annotated[
    list[Path] | None, typer.Argument(metavar="[LOG…]", help="Logs: JSON Lines, or .csv; without one, what is kept.")
]
SinceOption = Annotated[str, typer.Option("--since", metavar="DAY", help="From this day on, like 2026-06-01.")]
UntilOption = Annotated[str, typer.Option("--until", metavar="DAY", help="Up to this day.")]


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (UseReport, StrainReport)


def run(
    context: typer.Context,
    logs: LogsArgument = None,
    editor: str = typer.Option("", "--editor", metavar="NAME", help="Only in this editor."),
    since: SinceOption = "",
    until: UntilOption = "",
    add: bool = typer.Option(False, "--add", help="Keep the logs' counts, by day, in your own folder."),
    forget: bool = typer.Option(False, "--forget", help="Forget what is kept; with --until, up to that day."),
    plot: Path | None = typer.Option(None, "--plot", metavar="FILE", help="Draw it: .png or .svg."),
    workspace: WorkspaceOption = None,
    everything: bool = typer.Option(False, "--all", help="All rows, also by keys and by day."),
    strain: bool = typer.Option(False, "--strain", help="What the keys load on fingers, hands, rows and modifiers."),
    report: ReportOption = None,
    json: JsonOption = False,
) -> Status:
    """What is used, how often and in which ways; what is never used, undone, or done in too many steps."""
    environment = environment_of(context)
    session = open_session(environment, workspace)
    names = tuple(map(str, logs or ()))
    if forget:
        if names or since:
            raise InputError("--forget forgets what is kept", "Name the last day with --until, or none.")
        days = usage_questions.forget_use(session, until)
        environment.say(f"forgot {days} day{'s' * (days != 1)}")
        return Status.FINE
    if add and not names:
        raise InputError("there is nothing to add", "Name a log.")
    options = UseOptions(names, since, until, editor, add)
    if strain:
        loads = usage_questions.strain(session, options)
        environment.answer(loads, lambda display: strain_report(loads, display), json)
        return Status.FINE
    found = usage_questions.use(session, options)
    environment.answer(found, lambda display: use_report(found, display, everything), json)
    if plot is not None:
        from ombix.work.usage.plots_layout import plot_use

        write_plot(environment, session, plot, lambda ending: plot_use(found, ending))
    if report is not None:
        write_page(
            environment, session, report, found, lambda display: use_report(found, display, True), "What is used"
        )
    return Status.FINE
