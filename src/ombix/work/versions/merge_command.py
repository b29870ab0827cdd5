"""`ombix merge BASE OURS THEIRS`: two people's changes to one file, put together by what they mean."""

from pathlib import Path
from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import DryRunOption, JsonOption, WorkspaceOption
from ombix.work.versions import versions_questions
from ombix.work.versions.merge_answer import MergeReport
from ombix.work.versions.merge_layout import merge_report


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (MergeReport,)


def run(
    context: typer.Context,
    base: Path = typer.Argument(metavar="BASE", help="The file as it was before both changed it; may be empty."),
    ours: Path = typer.Argument(metavar="OURS", help="The file as it is here."),
    theirs: Path = typer.Argument(metavar="THEIRS", help="The file as the other side has it."),
    output: str = typer.Option("", "--output", metavar="FILE", help="Where the merged file goes; - prints it."),
    path: str = typer.Option("", "--path", metavar="FILE", help="Where the file belongs, if OURS is a copy of it."),
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Merge two sides' changes to a keymap or workspace file."""
    environment = environment_of(context)
    session = open_session(environment, workspace)
    merged = versions_questions.merge(session, str(base), str(ours), str(theirs), path=path)
    report = merged.report
    if output == "-":
        environment.results.stream.write(merged.text)
        environment.tell(merge_report(report._replace(written="-"), environment.messages.display))
        return Status.FOUND if report.conflicts else Status.FINE
    if (
        Path(output).name.startswith(".merge_file_") and path and not dry_run
    ):  # a copy of git's, which keeps the versions
        session.hand_over(output, merged.text)
        report = report._replace(written=path)
    elif output:
        session.write(f"merge {Path(output).name}", {output: merged.text}, dry_run)
        report = report._replace(written=str(session.path(output)))
    environment.answer(report, lambda display: merge_report(report, display, dry_run), json)
    return Status.FOUND if report.conflicts else Status.FINE
