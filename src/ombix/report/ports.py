"""How ports, comparisons and proofs are laid out: `port`, `compare`, `prove`, `press`."""

from collections.abc import Iterator, Sequence

from ombix.core.results.porting import (
    ComparisonReport,
    KeyDifference,
    PortedBinding,
    PortReport,
    ProofReport,
    StageReport,
    StageStep,
)
from ombix.report.blocks import Blank, Block, Cell, Code, Grid, Style, Title, line
from ombix.report.plain import Display, visible

VERDICT_STYLES: dict[str, Style] = {"exact": "good", "adapted": "warn", "lost": "bad"}
RESULT_STYLES: dict[str, Style] = {"agrees": "good", "differs": "bad", "not checked": "quiet"}
_KIND_STYLES: dict[str, Style] = {"runs": "strong", "types": "", "waits": "warn", "nothing": "quiet"}


# --- ports


def port_report(report: PortReport, display: Display, everything: bool = False) -> list[Block]:
    """The account of a port: what was adapted, what was lost and why; with `everything` the exact ones, too."""
    counts: list[Cell | str] = []
    for verdict, style in VERDICT_STYLES.items():
        counts += [", " if counts else "", Cell(str(report.counts[verdict]), style), f" {verdict}"]
    compared = f"Read back and compared: {report.decisions_compared} decisions, none differs without a verdict."
    blocks: list[Block] = [line(f"From {report.source} to {report.target}: ", *counts, "."), line(compared), Blank()]
    for verdict in ("exact", "adapted") if everything else ("adapted",):
        found = [one for one in report.bindings if one.verdict == verdict]
        if found:
            rows = [(Cell(one.keys, "key"), one.action, one.how) for one in found]
            title = Title(f"{verdict} ({len(found)})", VERDICT_STYLES[verdict])
            blocks += [title, Grid(rows, indent=2), Blank()]
    return [*blocks, *_lost(report), *_taken(report), *_rehomed(report)]


def _lost(report: PortReport) -> Iterator[Block]:
    lost: dict[str, list[PortedBinding]] = {}
    for one in report.bindings:
        if one.verdict == "lost":
            lost.setdefault(one.how, []).append(one)
    if not lost:
        return
    yield Title(f"lost ({report.counts['lost']})", VERDICT_STYLES["lost"])
    for why, found in lost.items():
        yield line(why, indent=2)
        yield Grid([(Cell(one.keys, "key"), one.action, Cell(_elsewhere(one), "quiet")) for one in found], indent=4)
    yield Blank()


def _elsewhere(one: PortedBinding) -> str:
    return f"has {one.other_target_keys} there" if one.other_target_keys else ""


def _taken(report: PortReport) -> Iterator[Block]:
    found = list(dict.fromkeys(_taken_keys(report.bindings)))
    if found:
        yield Title(f"Keys taken from {report.target}'s defaults", "")
        yield Grid([(Cell(keys, "key"), f"was {was}", now) for keys, was, now in found], indent=2)
        yield Blank()


def _taken_keys(bindings: Sequence[PortedBinding]) -> Iterator[tuple[str, str, str]]:
    """What lost its keys in the target: the keys, what they did, and what they do now."""
    for one in bindings:
        keys = one.target_keys or one.keys
        if one.displaced:
            yield keys, ", ".join(dict.fromkeys(each.action for each in one.displaced)), f"now {one.action}"
        for other in one.cleared:
            is_longer = other.keys.count(" ") > (one.target_keys or "").count(" ")
            yield other.keys, other.action, f"gone: {keys} would {'wait' if is_longer else 'be out of reach'}"


def _rehomed(report: PortReport) -> Iterator[Block]:
    if report.rehomed:
        yield Title("Defaults with new keys", "")
        yield Grid(
            [
                (Cell(one.new, "key"), one.action, f"was {one.old}", Cell(", ".join(one.sections), "quiet"))
                for one in report.rehomed
            ],
            indent=2,
        )
        yield Blank()


def port_page(report: PortReport, display: Display) -> list[Block]:
    """The whole account of a port, a row a binding."""
    counts = ", ".join(f"{report.counts[verdict]} {verdict}" for verdict in VERDICT_STYLES)
    rows = []
    for verdict in VERDICT_STYLES:
        for one in report.bindings:
            if one.verdict == verdict:
                elsewhere = _elsewhere(one)
                how = f"{one.how}; {elsewhere}" if elsewhere else one.how
                rows.append(
                    (verdict, Cell(one.keys, "key"), one.action, "" if one.where == "always" else one.where, how)
                )
    compared = f"{counts}. Read back and compared: {report.decisions_compared} decisions."
    table = Grid(rows, ("verdict", "keys", "action", "when", "how"))
    return [line(compared), Blank(), table, Blank(), *_taken(report), *_rehomed(report)]


# --- comparisons


def comparison_report(report: ComparisonReport, display: Display, everything: bool = False) -> list[Block]:
    """Where two differ; with `everything` what only one of them binds, too."""
    different = [one for one in report.differences if one.first is not None and one.second is not None]
    lacking = [one for one in report.differences if one.first is None or one.second is None]
    blocks: list[Block] = [
        line(
            f"{report.first} and {report.second} on {report.platform_title}: {report.same} keys do the same, "
            f"{len(different)} decisions differ, {len(lacking)} are in one only."
        )
    ]
    chosen: list[KeyDifference] = [*different, *(lacking if everything else ())]
    if chosen:
        rows = [
            (
                Cell(one.shown, "key"),
                one.first or "not bound",
                one.second or "not bound",
                Cell(_state(one.when), "quiet"),
            )
            for one in chosen
        ]
        blocks += [Blank(), Grid(rows, ("keys", report.first, report.second, "when"), 2)]
    if report.waits:
        rows = [
            (Cell(one.shown, "key"), one.action, f"waits in {one.waits}", Cell(_state(one.when), "quiet"))
            for one in report.waits
        ]
        blocks += [Blank(), line("The same, but one waits for what may follow"), Grid(rows, indent=2)]
    if lacking and not everything:
        blocks += [Blank(), line("What only one of the two binds: --all")]
    return blocks


def _state(when: str) -> str:
    return "in every state" if when == "always" else when


# --- proofs


def proof_report(report: ProofReport, display: Display, everything: bool = False) -> list[Block]:
    """What was pressed, and what differs; with `everything` all else, too."""
    pressed = sum(1 for one in report.keys if one.result != "not checked")
    simulated = ", which is simulated" if report.simulated else ""
    editor = f"{report.title} {report.version}{simulated}"
    rows: list[tuple[Cell | str, ...]] = []
    for verdict in ("exact", "adapted"):
        found: list[str] = [one.result for one in report.keys if one.verdict == verdict]
        rows.append((verdict, *(str(found.count(result)) for result in RESULT_STYLES)))
    blocks: list[Block] = [
        line(f"Pressed {pressed} of {len(report.keys)} ported keys in {editor}."),
        Grid(rows, ("verdict", *RESULT_STYLES), 2),
    ]
    for one in report.keys:
        if one.result == "differs" and (everything or one.verdict == "exact"):
            as_said = f" (as its verdict says: {one.how})" if one.verdict == "adapted" else ""
            style: Style = "bad" if one.verdict == "exact" else "warn"
            blocks += [
                Blank(), line(Cell(f"{one.keys}, {one.verdict}: {one.action} differs{as_said}", style)),
                Grid([("expected", _in_a_row(one.expected)), ("found", _in_a_row(one.found))], indent=2),
            ]  # fmt: skip
    if everything:
        order = list(RESULT_STYLES)
        lines = [
            (
                Cell(one.result, RESULT_STYLES[one.result]),
                Cell(one.keys, "key"),
                one.action,
                one.reason or f"{one.texts} texts",
            )
            for one in sorted(report.keys, key=lambda each: order.index(each.result))
        ]
        blocks += [Blank(), Grid(lines, ("result", "keys", "action", ""))]
    adapted = sum(1 for one in report.keys if one.verdict == "adapted" and one.result == "differs")
    if adapted and not everything:
        blocks += [Blank(), line(f"{adapted} adapted ones differ, as their verdicts say. To see how: --all")]
    return [*blocks, line(_conclusion(report))]


def _conclusion(report: ProofReport) -> str:
    if report.exact_that_differ:
        return f"{report.exact_that_differ} exact {'one differs' if report.exact_that_differ == 1 else 'ones differ'}."
    checked = any(one.verdict == "exact" and one.result == "agrees" for one in report.keys)
    return "No exact one differs." if checked else "No exact one was checked."


def _in_a_row(text: str) -> str:
    """A text on one line; the marker stands where the cursor was."""
    return visible(text.replace("\n", "↵").replace("\t", "→"))


# --- keys on the stage


def stage_report(report: StageReport, display: Display) -> list[Block]:
    """Keys pressed one by one, and the text then."""
    title = f"The {report.editor.removeprefix('the ')}" if report.editor.startswith("the ") else report.editor
    rows: list[tuple[Cell | str, ...]] = []
    text, cursor, selection = report.start_text, report.start_cursor, (report.start_cursor, report.start_cursor)
    facts = report.start_facts
    for press in report.presses:
        for index, one in enumerate(press.steps):
            moved = (one.text, one.cursor, one.selection) != (text, cursor, selection)
            here = _line_of(one) if moved else ""
            shown = Cell("" if index else press.pressed, "key")
            rows.append((shown, Cell(one.does, _KIND_STYLES[one.kind]), one.because, here))
            changed = [f"{name} is {value}" for name, value in one.facts.items() if facts.get(name, value) != value]
            if changed:
                rows.append(("", Cell(f"now {', '.join(changed)}", "quiet"), "", ""))
            text, cursor, selection, facts = one.text, one.cursor, one.selection, one.facts
        if not press.steps:
            rows.append((Cell(press.pressed, "key"), "", "nothing was waiting, or it waits longer", ""))
    head = ("keys", "does", "because", "the line then")
    blocks: list[Block] = [line(f"{title}, on {report.platform_title}."), Blank(), Grid(rows, head, 2)]
    if report.waits:
        blocks += [Blank(), line(Cell(f"{report.waits} still waits for more keys.", "warn"))]
    marked = _marked(report.text, report.cursor, report.selection).rstrip("\n").split("\n")
    return [*blocks, Blank(), line("The text then"), Code(tuple(marked))]


def _line_of(step: StageStep) -> str:
    """The line with the cursor."""
    marked = _marked(step.text, step.cursor, step.selection)
    at = marked.index("|") if "|" not in step.text else step.cursor
    start, end = marked.rfind("\n", 0, at) + 1, marked.find("\n", at)
    return marked[start : end if end >= 0 else None]


def _marked(text: str, cursor: int, selection: tuple[int, int]) -> str:
    """The text with the cursor as `|`, and what is selected in brackets."""
    start, end = selection
    if start == end:
        return f"{text[:cursor]}|{text[cursor:]}"
    inside = f"[{text[start:end]}]"
    inside = f"{inside}|" if cursor == end else f"|{inside}"
    return text[:start] + inside + text[end:]
