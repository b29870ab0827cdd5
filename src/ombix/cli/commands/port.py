"""`ombix port --to NAME`: writes the keymap for another editor, with a verdict for each binding."""

from pathlib import Path

import typer

from ombix.cli.environment import Environment, Status, environment_of, shown_path
from ombix.cli.options import DryRunOption, JsonOption, PlatformOption, WorkspaceOption
from ombix.cli.ported import FromOption, ToOption, ported
from ombix.core.keys import write
from ombix.core.porting import Entry
from ombix.dialects.porting import PortedFile
from ombix.report.plain import Cell, table, wrap
from ombix.store.files import Journal, locked

_STYLES = {"exact": "good", "adapted": "warn", "lost": "bad"}


def run(
    context: typer.Context,
    to: ToOption,
    source: FromOption = "",
    output: Path | None = typer.Option(
        None, "--output", metavar="FILE", help="Where to write; without it, ported/NAME/."
    ),
    everything: bool = typer.Option(False, "--all", help="Show the exact ones as well."),
    on: PlatformOption = "",
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Write the keymap for another editor, with a verdict for each binding."""
    environment = environment_of(context)
    work = ported(environment, workspace, on, to, source)
    path = output or work.folder / "ported" / to / work.target.description.file.name
    if not dry_run:
        with locked(path, environment.state_folder):
            Journal(environment.state_folder).write_all(f"port --to {to}", {path: work.file.text})
    if json:
        environment.json(_document(work.file, path, work.source_name))
    else:
        _print(environment, work.file, work.source_name, to, everything)
        environment.out(f"{'would write' if dry_run else 'wrote'} {shown_path(path, environment)}")
    return Status.FOUND if work.file.count("lost") else Status.FINE


def _print(environment: Environment, file: PortedFile, source: str, to: str, everything: bool) -> None:
    paper = environment.paper
    counts = ", ".join(
        f"{paper.style(str(file.count(verdict)), style)} {verdict}" for verdict, style in _STYLES.items()
    )
    environment.out(f"From {source} to {to}: {counts}.")
    compared = f"Read back and compared: {file.checked} decisions, none differs without a verdict."
    environment.out(*wrap(compared, paper), "")
    for verdict in ("exact", "adapted") if everything else ("adapted",):
        entries = [entry for entry in file.entries if entry.verdict == verdict]
        if entries:
            environment.out(paper.style(f"{verdict} ({len(entries)})", _STYLES[verdict]))
            rows: list[list[Cell | str]] = [
                [Cell(write(entry.source.trigger), "key"), str(entry.source.outcome), entry.how] for entry in entries
            ]
            environment.out(*table(rows, paper, indent=2), "")
    lost: dict[str, list[Entry]] = {}
    for entry in file.entries:
        if entry.verdict == "lost":
            lost.setdefault(entry.how, []).append(entry)
    if lost:
        environment.out(paper.style(f"lost ({file.count('lost')})", _STYLES["lost"]))
        for why, entries in lost.items():
            environment.out(*wrap(why, paper, 2))
            rows = [[Cell(write(entry.source.trigger), "key"), str(entry.source.outcome)] for entry in entries]
            environment.out(*table(rows, paper, indent=4))
        environment.out("")
    displaced = [entry for entry in file.entries if entry.displaced]
    if displaced:
        environment.out(f"Keys taken from {to}'s defaults")
        rows = [
            [
                Cell(write(entry.trigger or entry.source.trigger), "key"),
                f"was {_was(entry)}",
                f"now {entry.source.outcome}",
            ]
            for entry in displaced
        ]
        environment.out(*table(rows, paper, indent=2), "")


def _was(entry: Entry) -> str:
    return ", ".join(dict.fromkeys(str(outcome) for _section, outcome in entry.displaced))


def _document(file: PortedFile, path: Path, source: str) -> dict[str, object]:
    return {
        "from": source,
        "to": file.target,
        "file": str(path),
        "counts": {verdict: file.count(verdict) for verdict in _STYLES},
        "decisions_compared": file.checked,
        "bindings": [
            {
                "keys": write(entry.source.trigger), "action": str(entry.source.outcome), "where": entry.source.where,
                "verdict": entry.verdict, "how": entry.how, "written": list(entry.written),
                "target_keys": write(entry.trigger) if entry.trigger else None,
                "displaced": {section: str(outcome) for section, outcome in entry.displaced},
            }
            for entry in file.entries
        ],
    }  # fmt: skip
