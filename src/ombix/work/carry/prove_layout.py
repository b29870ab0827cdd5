"""How a proof is laid out: `prove`."""

from ombix.report.blocks import Blank, Block, Cell, Grid, Style, line
from ombix.report.terminal_text import Display, visible
from ombix.work.carry.prove_answer import ProofReport

RESULT_STYLES: dict[str, Style] = {"agrees": "good", "reached": "good", "differs": "bad", "not checked": "quiet"}


def proof_report(report: ProofReport, display: Display, everything: bool = False) -> list[Block]:
    """What was pressed, and what differs; with `everything` all else, too."""
    pressed = sum(1 for key in report.keys if key.result != "not checked")
    simulated = ", which is simulated" if report.simulated else ""
    editor = f"{report.title} {report.version}{simulated}"
    rows: list[tuple[Cell | str, ...]] = []
    for verdict in ("exact", "adapted"):
        found: list[str] = [key.result for key in report.keys if key.verdict == verdict]
        rows.append((verdict, *(str(found.count(result)) for result in RESULT_STYLES)))
    blocks: list[Block] = [
        line(f"Pressed {pressed} of {len(report.keys)} ported keys in {editor}."),
        *_in_source(report),
        *([line(f"It was shut in {report.sandbox}.")] if report.sandbox else []),
        Grid(rows, ("verdict", *RESULT_STYLES), 2),
        *_of_reached(report),
    ]
    for key in report.keys:
        is_as_said = key.verdict == "adapted" and not key.differs_otherwise
        if key.result == "differs" and (everything or not is_as_said):
            said = f" (as its verdict says: {key.how})" if is_as_said else f", {key.reason}" if key.reason else ""
            style: Style = "warn" if is_as_said else "bad"
            blocks += [
                Blank(), line(Cell(f"{key.keys}, {key.verdict}: {key.action} differs{said}", style)),
                Grid([("expected", _in_a_row(key.expected)), ("found", _in_a_row(key.found))], indent=2),
            ]  # fmt: skip
    if everything:
        order = list(RESULT_STYLES)
        lines = [
            (
                Cell(key.result, RESULT_STYLES[key.result]),
                Cell(key.keys, "key"),
                key.action,
                key.reason or f"{key.texts} texts",
            )
            for key in sorted(report.keys, key=lambda each: order.index(each.result))
        ]
        blocks += [Blank(), Grid(lines, ("result", "keys", "action", ""))]
    adapted = sum(
        1 for key in report.keys if key.verdict == "adapted" and key.result == "differs" and not key.differs_otherwise
    )
    if adapted and not everything:
        blocks += [Blank(), line(f"{adapted} adapted ones differ, as their verdicts say. To see how: --all")]
    return [*blocks, line(_conclusion(report))]


def _of_reached(report: ProofReport) -> list[Block]:
    if not any(key.result == "reached" for key in report.keys):
        return []
    return [
        line("Agrees: it does what was wanted. Reached: it runs the command that was written;"),
        line("whether that does what was wanted was not compared."),
    ]


def _in_source(report: ProofReport) -> list[Block]:
    if report.against is None:
        return []
    agree = sum(1 for key in report.keys if key.in_source == "agrees")
    reach = sum(1 for key in report.keys if key.in_source == "reached")
    differ = sum(1 for key in report.keys if key.in_source == "differs")
    return [
        line(
            f"{agree + reach + differ} of them were pressed in {report.against.title} {report.against.version}, too: {agree} do "
            f"what was taken for granted, {reach} run their command, {differ} do something else."
        )
    ]


def _conclusion(report: ProofReport) -> str:
    if otherwise := report.adapted_that_differ_otherwise:
        said = (
            "differs otherwise than its verdict says" if otherwise == 1 else "differ otherwise than their verdicts say"
        )
        adapted = f" {otherwise} adapted {'one' if otherwise == 1 else 'ones'} {said}."
    else:
        adapted = ""
    return _of_exact(report) + adapted


def _of_exact(report: ProofReport) -> str:
    if report.exact_that_differ:
        return f"{report.exact_that_differ} exact {'one differs' if report.exact_that_differ == 1 else 'ones differ'}."
    checked = any(key.verdict == "exact" and key.result in ("agrees", "reached") for key in report.keys)
    return "No exact one differs." if checked else "No exact one was checked."


def _in_a_row(text: str) -> str:
    """A text on one line; the marker stands where the cursor was."""
    return visible(text.replace("\n", "↵").replace("\t", "→"))
