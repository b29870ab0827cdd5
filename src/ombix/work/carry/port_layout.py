"""How a port is laid out: `port`."""

from collections.abc import Iterator, Sequence

from ombix.report.blocks import Blank, Block, Cell, Grid, Style, Title, line
from ombix.report.terminal_text import Display, visible
from ombix.work.carry.port_answer import PortedBinding, PortReport

_MOST_LINES = 12
"""Lines that are shown; the rest is counted."""
VERDICT_STYLES: dict[str, Style] = {"exact": "good", "adapted": "warn", "lost": "bad"}


def port_report(report: PortReport, display: Display, everything: bool = False) -> list[Block]:
    """The account of a port: what was adapted, what was lost and why; with `everything` the exact ones, too."""
    counts: list[Cell | str] = []
    for verdict, style in VERDICT_STYLES.items():
        counts += [", " if counts else "", Cell(str(report.counts[verdict]), style), f" {verdict}"]
    compared = f"Read back and compared: {report.decisions_compared} decisions, none differs without a verdict."
    blocks: list[Block] = [line(f"From {report.source} to {report.target}: ", *counts, "."), line(compared)]
    blocks += [*(line(Cell(remark, "warn")) for remark in report.remarks), Blank()]
    for verdict in ("exact", "adapted") if everything else ("adapted",):
        found = [binding for binding in report.bindings if binding.verdict == verdict]
        if found:
            rows = [(Cell(one.keys, "key"), one.action, one.how) for one in found]
            title = Title(f"{verdict} ({len(found)})", VERDICT_STYLES[verdict])
            blocks += [title, Grid(rows, indent=2), Blank()]
    blocks += [*_together(report), *_lost(report), *_taken(report), *_rehomed(report)]
    return [*blocks, *_not_carried(report, display)]


def _together(report: PortReport) -> Iterator[Block]:
    if report.together:
        yield Title(f"exact alone, and not one after the other ({len(report.together)})", VERDICT_STYLES["adapted"])
        yield Grid([(Cell(", ".join(one.keys), "key"), one.how) for one in report.together], indent=2)
        yield Blank()


def _not_carried(report: PortReport, display: Display) -> Iterator[Block]:
    found = report.not_carried
    if not found:
        return
    yield Title(f"Lines of the file that are not carried over ({len(found)})", "")
    shown = found[:_MOST_LINES]
    yield Grid([(Cell(visible(one.text), "key"), visible(one.reason)) for one in shown], indent=2)
    if len(found) > len(shown):
        yield line(f"and {len(found) - len(shown)} more", indent=2)
    yield Blank()


def _lost(report: PortReport) -> Iterator[Block]:
    lost: dict[str, list[PortedBinding]] = {}
    for binding in report.bindings:
        if binding.verdict == "lost":
            lost.setdefault(binding.how, []).append(binding)
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
    for binding in bindings:
        keys = binding.target_keys or binding.keys
        if binding.displaced:
            yield keys, ", ".join(dict.fromkeys(each.action for each in binding.displaced)), f"now {binding.action}"
        for other in binding.cleared:
            is_longer = other.keys.count(" ") > (binding.target_keys or "").count(" ")
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
        for binding in report.bindings:
            if binding.verdict == verdict:
                elsewhere = _elsewhere(binding)
                how = f"{binding.how}; {elsewhere}" if elsewhere else binding.how
                rows.append(
                    (
                        verdict,
                        Cell(binding.keys, "key"),
                        binding.action,
                        "" if binding.where == "always" else binding.where,
                        how,
                    )
                )
    compared = f"{counts}. Read back and compared: {report.decisions_compared} decisions."
    table = Grid(rows, ("verdict", "keys", "action", "when", "how"))
    return [line(compared), Blank(), table, Blank(), *_taken(report), *_rehomed(report)]
