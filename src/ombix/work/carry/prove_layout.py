"""How a proof is laid out: `prove`."""

from collections.abc import Iterator

from ombix.report.blocks import Blank, Block, Cell, Grid, Style, Title, line
from ombix.report.counted import counted
from ombix.report.terminal_text import Display, visible
from ombix.work.carry.prove_answer import ProofReport, Works

RESULT_STYLES: dict[str, Style] = {"agrees": "good", "reached": "good", "differs": "bad", "not checked": "quiet"}
WORKS_STYLES: dict[Works, Style] = {
    "works": "good", "with a difference": "warn", "something else": "bad", "not compared": "quiet"
}  # fmt: skip


def proof_report(report: ProofReport, display: Display, everything: bool = False) -> list[Block]:
    """Which keys work, by what was wanted; and below, whether the editor does what the port says; with `everything` all keys."""
    blocks: list[Block] = [line(*_headline(report))]
    if report.sandbox:
        blocks.append(line(f"It was shut in {report.sandbox}."))
    blocks += _in_source(report)
    blocks += [Blank(), *_keys(report, everything)]
    blocks += _otherwise(report)
    return [*blocks, line(_conclusion(report))]


def _headline(report: ProofReport) -> list[Cell | str]:
    """How many keys work, in a sentence."""
    simulated = ", which is simulated" if report.simulated else ""
    pressed = sum(1 for key in report.keys if key.result != "not checked")
    works = report.works
    found: list[Cell | str] = [
        f"Of {counted(pressed, 'key that was', 'keys that were')} pressed in {report.title} {report.version}{simulated}, ",
        Cell(f"{works['works']} work as wanted", "strong"),
    ]
    if works["with a difference"]:
        found.append(f", {works['with a difference']} with a difference")
    if works["something else"]:
        found.append(f", {works['something else']} do{'es' if works['something else'] == 1 else ''} something else")
    reached = sum(1 for key in report.keys if key.works == "not compared" and key.result != "not checked")
    if reached:
        found.append(f"; {reached} reach{'es' if reached == 1 else ''} the command of that name")
    unpressed = len(report.keys) - pressed
    return [*found, f". {unpressed} could not be checked." if unpressed else "."]


def _keys(report: ProofReport, everything: bool) -> Iterator[Block]:
    """The keys that do not just work; with `everything` all."""
    shown: list[Works] = list(WORKS_STYLES) if everything else ["with a difference", "something else"]
    for works in shown:
        found = [key for key in report.keys if key.works == works]
        if not found:
            continue
        yield Title(_TITLES[works], WORKS_STYLES[works])
        rows: list[tuple[Cell | str, ...]] = []
        for key in found:
            places = f"{key.as_wanted} of {key.places} places" if key.places else key.result
            rows.append((Cell(key.keys, "key"), key.title or key.action, Cell(places, "quiet")))
            said = key.says if works in ("with a difference", "something else") else ()
            reason = (key.reason,) if works == "not compared" and key.reason else ()
            rows += [("", Cell(one, "quiet"), "") for one in (*said, *reason)]
        yield Grid(rows, indent=2)
        yield Blank()


_TITLES: dict[Works, str] = {
    "works": "Works as wanted", "with a difference": "Works, but", "something else": "Does something else",
    "not compared": "Not compared",
}  # fmt: skip


def _otherwise(report: ProofReport) -> Iterator[Block]:
    """The keys that do not do what the port says, with what was seen."""
    for key in report.keys:
        if key.differs_otherwise or (key.verdict == "exact" and key.result == "differs"):
            reason = f", {key.reason}" if key.reason else ""
            yield line(Cell(f"{key.keys} does not do what the port says: {key.title or key.action}{reason}", "bad"))
            yield Grid([("expected", _in_a_row(key.expected)), ("found", _in_a_row(key.found))], indent=2)
            yield Blank()


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
    """Whether the editor does what the port says of it."""
    otherwise = report.exact_that_differ + report.adapted_that_differ_otherwise
    if otherwise:
        return f"{otherwise} {'does' if otherwise == 1 else 'do'} not do what the port says."
    checked = any(key.result in ("agrees", "reached") for key in report.keys)
    return "All that was pressed does what the port says." if checked else "Nothing was checked."


def _in_a_row(text: str) -> str:
    """A text on one line; the marker stands where the cursor was."""
    return visible(text.replace("\n", "↵").replace("\t", "→"))
