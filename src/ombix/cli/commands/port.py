"""`ombix port --to NAME`: writes the keymap for other editors, with a verdict for each binding."""

from pathlib import Path

import typer

from ombix.cli.common import find_setting
from ombix.cli.environment import Environment, Status, environment_of, shown_path
from ombix.cli.options import DryRunOption, JsonOption, PlatformOption, WorkspaceOption
from ombix.cli.ported import FromOption, RehomeOption, ToManyOption, ported
from ombix.core.errors import InputError
from ombix.core.keys import write
from ombix.core.verdicts import Entry
from ombix.dialects.porting import PortedFile
from ombix.report.plain import Cell, table, visible, wrap
from ombix.store.files import Journal, locked

_STYLES = {"exact": "good", "adapted": "warn", "lost": "bad"}


def run(
    context: typer.Context,
    to: ToManyOption = None,
    source: FromOption = "",
    output: Path | None = typer.Option(
        None, "--output", metavar="FILE", help="Where to write, for one editor; without it, ported/NAME/."
    ),
    rehome: RehomeOption = False,
    report: Path | None = typer.Option(
        None, "--report", metavar="FILE", help="Write the whole account as Markdown, too; for one editor."
    ),
    everything: bool = typer.Option(False, "--all", help="Show the exact ones as well."),
    on: PlatformOption = "",
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Write the keymap for other editors, with a verdict for each binding."""
    environment = environment_of(context)
    names = list(dict.fromkeys(to or _all_editors(environment, workspace)))
    if len(names) > 1 and (output is not None or report is not None):
        raise InputError("--output and --report are for one editor", "Name one with --to, or leave them out.")
    works = [ported(environment, workspace, on, name, source, rehome) for name in names]
    texts: dict[Path, str] = {}
    documents: list[dict[str, object]] = []
    paths = [
        output or work.folder / "ported" / name / work.target.description.file.name
        for name, work in zip(names, works, strict=True)
    ]
    for name, work, path in zip(names, works, paths, strict=True):
        texts[path] = work.file.text
        if report is not None:
            texts[environment.folder / report] = _markdown(work.file, work.source_name, name)
    if not dry_run:
        with locked(paths[0], environment.state_folder):
            Journal(environment.state_folder).write_all(f"port --to {' --to '.join(names)}", texts)
    for number, (name, work, path) in enumerate(zip(names, works, paths, strict=True)):
        if json:
            documents.append(_document(work.file, path, work.source_name))
            continue
        environment.out(*([""] if number else []))
        _print(environment, work.file, work.source_name, name, everything)
    if json:
        environment.json(documents[0] if len(documents) == 1 else documents)
    else:
        for path in texts:
            environment.out(f"{'would write' if dry_run else 'wrote'} {shown_path(path, environment)}")
    return Status.FOUND if any(work.file.count("lost") for work in works) else Status.FINE


def _all_editors(environment: Environment, workspace: Path | None) -> list[str]:
    """The editors of the workspace."""
    setting = find_setting(environment, workspace, "", "")
    assert setting.workspace is not None
    if not setting.workspace.editors:
        raise InputError("the workspace names no editor", "Say --to NAME, or write [editor.pier] in ombix.toml.")
    return list(setting.workspace.editors)


def _markdown(file: PortedFile, source: str, to: str) -> str:
    """The account as a Markdown page: counts, and a table of every binding."""
    counts = ", ".join(f"{file.count(verdict)} {verdict}" for verdict in _STYLES)
    lines = [f"# From {source} to {to}", "", f"{counts}. Read back and compared: {file.checked} decisions.", ""]
    lines += ["| verdict | keys | action | when | how |", "|---|---|---|---|---|"]
    for verdict in _STYLES:
        for entry in file.entries:
            if entry.verdict == verdict:
                where = "" if entry.source.where == "always" else entry.source.where
                how = f"{entry.how}; has {write(entry.elsewhere)} there" if entry.elsewhere else entry.how
                row = (verdict, f"`{write(entry.source.trigger)}`", str(entry.source.outcome), where, how)
                lines.append("| " + " | ".join(_cell(text) for text in row) + " |")
    displaced = _displaced(file)
    if displaced:
        lines += ["", f"## Keys taken from {to}'s defaults", "", "| keys | was | now |", "|---|---|---|"]
        for keys, was, now in displaced:
            lines.append(f"| {_cell(f'`{keys}`')} | {_cell(was)} | {_cell(now)} |")
    if file.rehomed:
        lines += ["", "## Defaults with new keys", "", "| action | was | now |", "|---|---|---|"]
        for one in file.rehomed:
            lines.append(
                f"| {_cell(str(one.outcome))} | {_cell(f'`{write(one.old)}`')} | {_cell(f'`{write(one.new)}`')} |"
            )
    return "\n".join(lines) + "\n"


def _cell(text: str) -> str:
    return visible(text).replace("|", "\\|").replace("<", "&lt;")


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
            rows = [
                [
                    Cell(write(entry.source.trigger), "key"), str(entry.source.outcome),
                    Cell(f"has {write(entry.elsewhere)} there" if entry.elsewhere else "", "quiet"),
                ]
                for entry in entries
            ]  # fmt: skip
            environment.out(*table(rows, paper, indent=4))
        environment.out("")
    displaced = _displaced(file)
    if displaced:
        environment.out(f"Keys taken from {to}'s defaults")
        rows = [[Cell(keys, "key"), f"was {was}", now] for keys, was, now in displaced]
        environment.out(*table(rows, paper, indent=2), "")
    if file.rehomed:
        environment.out("Defaults with new keys")
        rows = [
            [
                Cell(write(one.new), "key"),
                str(one.outcome),
                f"was {write(one.old)}",
                Cell(", ".join(one.sections), "quiet"),
            ]
            for one in file.rehomed
        ]
        environment.out(*table(rows, paper, indent=2), "")


def _displaced(file: PortedFile) -> list[tuple[str, str, str]]:
    """What lost its keys in the target: the keys, what they did, and what they do now."""
    found: dict[tuple[str, str, str], None] = {}
    for entry in file.entries:
        keys = write(entry.trigger or entry.source.trigger)
        if entry.displaced:
            was = ", ".join(dict.fromkeys(str(outcome) for _section, outcome in entry.displaced))
            found[keys, was, f"now {entry.source.outcome}"] = None
        for other, _section, outcome in entry.cleared:
            why = "wait" if len(other) > len(entry.trigger or ()) else "be out of reach"
            found[write(other), str(outcome), f"gone: {keys} would {why}"] = None
    return list(found)


def _document(file: PortedFile, path: Path, source: str) -> dict[str, object]:
    return {
        "from": source,
        "to": file.target,
        "file": str(path),
        "counts": {verdict: file.count(verdict) for verdict in _STYLES},
        "decisions_compared": file.checked,
        "rehomed": [
            {"action": str(one.outcome), "old": write(one.old), "new": write(one.new), "sections": list(one.sections)}
            for one in file.rehomed
        ],
        "bindings": [
            {
                "keys": write(entry.source.trigger), "action": str(entry.source.outcome), "where": entry.source.where,
                "verdict": entry.verdict, "how": entry.how, "written": list(entry.written),
                "target_keys": write(entry.trigger) if entry.trigger else None,
                "other_target_keys": write(entry.elsewhere) if entry.elsewhere else None,
                "displaced": {section: str(outcome) for section, outcome in entry.displaced},
                "cleared": [
                    {"keys": write(keys), "section": section, "action": str(outcome)}
                    for keys, section, outcome in entry.cleared
                ],
            }
            for entry in file.entries
        ],
    }  # fmt: skip
