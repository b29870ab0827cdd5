"""`ombix prove --to NAME`: presses the ported keys in the real editor or the stand-in, and compares."""

from pathlib import Path
from typing import Any

import typer

from ombix.cli.environment import Environment, Status, environment_of, shown_path
from ombix.cli.options import JsonOption, PlatformOption, WorkspaceOption
from ombix.cli.ported import FromOption, RehomeOption, ToOption, Work, ported
from ombix.core.deciding import decide_all
from ombix.core.errors import OutsideError
from ombix.core.keymap import Keymap, Play, Step
from ombix.core.keys import write
from ombix.core.verdicts import Entry
from ombix.dialects.porting import narrowed
from ombix.proving.driver import require
from ombix.proving.prove import Claim, Proof, prove
from ombix.proving.simulated import Stage, prove_on_stage
from ombix.report.plain import Cell, table, visible
from ombix.store.files import read_text

_STYLES = {"agrees": "good", "differs": "bad", "not checked": "quiet"}


def run(
    context: typer.Context,
    to: ToOption,
    source: FromOption = "",
    file: Path | None = typer.Option(
        None, "--file", metavar="FILE", help="Press with this file instead of the ported one."
    ),
    rehome: RehomeOption = False,
    on: PlatformOption = "",
    workspace: WorkspaceOption = None,
    everything: bool = typer.Option(
        False, "--all", help="Show those that agree and those that cannot be checked as well."
    ),
    json: JsonOption = False,
) -> Status:
    """Press the ported keys in the real editor, or in the stand-in, and compare what happened with what should."""
    environment = environment_of(context)
    work = ported(environment, workspace, on, to, source, rehome)
    program, simulated = work.target.description.program, work.target.description.simulated
    if program is None and not simulated:
        raise OutsideError(
            f"the description of {to} does not say how the editor is started", "Add [program] to its dialect.toml."
        )
    if program is not None:
        require(program)
    text = read_text(file) if file else work.file.text
    name = shown_path(file, environment) if file else "the ported file"
    proofs = _prove_on_stage(work, text, name) if simulated else _prove(environment, work, text, name)
    if json:
        environment.json(_document(work, proofs))
    else:
        _print(environment, work, proofs, everything)
    wrong = any(proof.result == "differs" and entry.verdict == "exact" for entry, proof in proofs)
    return Status.FOUND if wrong else Status.FINE


def _prove(environment: Environment, work: Work, text: str, name: str) -> list[tuple[Entry, Proof]]:
    here, target, terminal = work.here, work.target, work.terminal
    layer = target.read(text, name).layer
    bindings = Keymap([target.default_layer, layer]).in_force(here.setting.platform)
    decided = decide_all(narrowed(bindings, terminal), here.space, here.catalogue, target.policy)
    program = target.description.program
    assert program is not None
    found: list[tuple[Entry, Proof]] = []
    sections = list(program.modes) or [target.description.file.default_section]
    wanted = {
        section: [entry for entry in work.file.entries if entry.trigger is not None and section in entry.sections]
        for section in sections
    }
    with _progress(environment, sum(map(len, wanted.values())), target.name) as advance:
        for section, entries in wanted.items():
            claims = [
                Claim(entry.trigger, entry.source, _steps(entry, work))
                for entry in entries
                if entry.trigger is not None
            ]
            over_text = here.space.states(target.description.sections[section])
            proofs = prove(
                claims, decided, text, target, terminal, here.space, over_text, lambda proof: advance(), section
            )
            found += zip(entries, proofs, strict=True)
    return found


def _steps(entry: Entry, work: Work) -> tuple[Step, ...]:
    """The steps of the macro that an entry plays."""
    outcome = entry.source.outcome
    macro = work.here.keymap.macros.get(outcome.macro) if isinstance(outcome, Play) else None
    return macro.steps if macro else ()


def _prove_on_stage(work: Work, text: str, name: str) -> list[tuple[Entry, Proof]]:
    """Press the keys in the simulation of a stand-in."""
    layer = work.target.read(text, name).layer
    stage = Stage(work.target, [layer], work.here.setting.platform, work.here.space, work.here.catalogue)
    return prove_on_stage(work.file.entries, stage, work.here.keymap.macros)


class _progress:  # noqa: N801
    """A progress bar on a terminal, nothing elsewhere."""

    def __init__(self, environment: Environment, count: int, name: str) -> None:
        self._bar: Any = None
        if environment.error_stream.isatty() and environment.is_terminal:
            from rich.console import Console
            from rich.progress import Progress

            self._bar = Progress(console=Console(file=environment.error_stream), transient=True)
            self._task = self._bar.add_task(f"Pressing in {name}", total=count)

    def __enter__(self) -> Any:
        if self._bar is not None:
            self._bar.start()
        return self._advance

    def _advance(self) -> None:
        if self._bar is not None:
            self._bar.advance(self._task)

    def __exit__(self, *_: object) -> None:
        if self._bar is not None:
            self._bar.stop()


def _print(environment: Environment, work: Work, proofs: list[tuple[Entry, Proof]], everything: bool) -> None:
    paper = environment.paper
    results = [proof.result for _entry, proof in proofs]
    pressed = sum(1 for result in results if result != "not checked")
    environment.out(
        f"Pressed {pressed} of {len(proofs)} ported keys in {work.target.description.title} "
        f"{work.target.description.version}{', which is simulated' if work.target.description.simulated else ''}."
    )
    rows: list[list[Cell | str]] = []
    for verdict in ("exact", "adapted"):
        counts = [
            sum(1 for entry, proof in proofs if entry.verdict == verdict and proof.result == one) for one in _STYLES
        ]
        rows.append([verdict, *(str(count) for count in counts)])
    environment.out(*table(rows, paper, ("verdict", *_STYLES), 2))
    for entry, proof in proofs:
        if proof.result == "differs" and (everything or entry.verdict == "exact"):
            as_said = f" (as its verdict says: {entry.how})" if entry.verdict == "adapted" else ""
            environment.out("")
            text = f"{write(proof.trigger)}, {entry.verdict}: {proof.action} differs{as_said}"
            environment.out(*table([[Cell(text, "bad" if entry.verdict == "exact" else "warn")]], paper))
            environment.out(
                *table([["expected", _shown(proof.expected)], ["found", _shown(proof.found)]], paper, indent=2)
            )
    if everything:
        lines: list[list[Cell | str]] = [
            [
                Cell(proof.result, _STYLES[proof.result]), Cell(write(proof.trigger), "key"), proof.action,
                proof.reason or f"{proof.probes} texts",
            ]
            for _entry, proof in sorted(proofs, key=lambda pair: list(_STYLES).index(pair[1].result))
        ]  # fmt: skip
        environment.out("", *table(lines, paper, ("result", "keys", "action", "")))
    adapted = sum(1 for entry, proof in proofs if entry.verdict == "adapted" and proof.result == "differs")
    if adapted and not everything:
        environment.out("", f"{adapted} adapted ones differ, as their verdicts say. To see how: --all")
    exact = sum(1 for entry, proof in proofs if entry.verdict == "exact" and proof.result == "differs")
    environment.out(f"{exact} exact ones differ." if exact else "No exact one differs.")


def _shown(text: str) -> str:
    """A text on one line; the marker stands where the cursor was."""
    return visible(text.replace("\n", "↵").replace("\t", "→"))


def _document(work: Work, proofs: list[tuple[Entry, Proof]]) -> dict[str, object]:
    return {
        "editor": work.target.name,
        "version": work.target.description.version,
        "from": work.source_name,
        "counts": {result: sum(1 for _entry, proof in proofs if proof.result == result) for result in _STYLES},
        "exact_that_differ": sum(
            1 for entry, proof in proofs if entry.verdict == "exact" and proof.result == "differs"
        ),
        "keys": [
            {
                "keys": write(proof.trigger), "action": proof.action, "verdict": entry.verdict, "result": proof.result,
                "reason": proof.reason, "texts": proof.probes, "expected": proof.expected, "found": proof.found,
            }
            for entry, proof in proofs
        ],
    }  # fmt: skip
