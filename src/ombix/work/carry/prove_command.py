"""`ombix prove --to NAME`: presses the ported keys in the real editor or the stand-in, and compares."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Environment, Status, environment_of
from ombix.console.options import (
    CarefulOption,
    FromOption,
    JsonOption,
    PlatformOption,
    RehomeOption,
    ReportOption,
    ToOption,
    WorkspaceOption,
)
from ombix.console.page_files import write_page
from ombix.core.errors import InputError
from ombix.report.terminal_text import visible
from ombix.work.carry import carry_questions
from ombix.work.carry.prove_answer import ProofReport
from ombix.work.carry.prove_layout import proof_report


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (ProofReport,)


def run(
    context: typer.Context,
    to: ToOption = "",
    source: FromOption = "",
    file: Path | None = typer.Option(
        None, "--file", metavar="FILE", help="Press with this file instead of the ported one."
    ),
    rehome: RehomeOption = False,
    careful: CarefulOption = False,
    on_stage: bool = typer.Option(
        False, "--on-stage", help="Press in the editor as it is described, simulated; nothing has to be installed."
    ),
    against_source: bool = typer.Option(
        False, "--against-source", help="Press the keys in the editor that they come from as well, and compare."
    ),
    on: PlatformOption = "",
    workspace: WorkspaceOption = None,
    everything: bool = typer.Option(
        False, "--all", help="Show those that agree and those that cannot be checked as well."
    ),
    report: ReportOption = None,
    json: JsonOption = False,
) -> Status:
    """Press the ported keys in the real editor, or in the stand-in, and compare what happened with what should."""
    from ombix.work.carry.port import PortOptions

    if on_stage and against_source:
        raise InputError("a source is not pressed in on the stage", "Take --on-stage or --against-source away.")
    environment = environment_of(context)
    session = open_session(environment, workspace)
    to = session.editor_meant(to)
    with _progress(environment, to) as progress:
        found = carry_questions.prove(session,
            to, source=source, file=str(file) if file is not None else "",
            press_in="stage" if on_stage else "both" if against_source else "target", on=on,
            options=PortOptions(rehome, careful), progress=progress,
        )  # fmt: skip
    environment.answer(found, lambda display: proof_report(found, display, everything), json)
    if report is not None:
        title = f"Proof of {found.editor}"
        write_page(environment, session, report, found, lambda display: proof_report(found, display, True), title)
    differ = found.do_not_work or found.exact_that_differ or found.adapted_that_differ_otherwise
    return Status.FOUND if differ or not _is_checked(found) else Status.FINE


def _is_checked(found: ProofReport) -> bool:
    """Whether pressing showed anything: a proof in which nothing was checked is none."""
    checked = {key.verdict for key in found.keys if key.result != "not checked"}
    has_exact = any(key.verdict == "exact" for key in found.keys)
    return "exact" in checked if has_exact else bool(checked)


@contextmanager
def _progress(environment: Environment, name: str) -> "Iterator[Callable[[int], Callable[[], None]]]":
    """A progress bar on a terminal, nothing elsewhere."""
    if not (environment.messages.stream.isatty() and environment.is_terminal):
        yield lambda count: lambda: None
        return
    from rich.console import Console
    from rich.markup import escape
    from rich.progress import Progress

    with Progress(console=Console(file=environment.messages.stream), transient=True) as bar:

        def start(count: int) -> Callable[[], None]:
            task = bar.add_task(f"Pressing in {escape(visible(name))}", total=count)
            return lambda: bar.advance(task)

        yield start
