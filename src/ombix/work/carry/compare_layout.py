"""How a comparison is laid out: `compare`."""

from ombix.report.blocks import Blank, Block, Cell, Grid, line
from ombix.report.counted import counted
from ombix.report.terminal_text import Display
from ombix.work.carry.compare_answer import AlikeKeys, ComparisonReport, KeyDifference
from ombix.workspace.condition_words import in_words


def comparison_report(
    report: ComparisonReport, display: Display, everything: bool = False, same: bool = False
) -> list[Block]:
    """Where two differ; with `everything` what only one of them binds, too, and with `same` what they have in common."""
    different = [
        difference
        for difference in report.differences
        if difference.first is not None and difference.second is not None
    ]
    lacking = [difference for difference in report.differences if difference.first is None or difference.second is None]
    blocks: list[Block] = [
        line(
            f"{report.first} and {report.second} on {report.platform_title}{_within(report)}: {report.same} keys do the same, "
            f"{counted(len(different), 'decision', 'decisions')} {'differs' if len(different) == 1 else 'differ'}, "
            f"{len(lacking)} {'is' if len(lacking) == 1 else 'are'} in one only."
        )
    ]
    if same and report.alike:
        alike = [
            (Cell(one.shown, "key"), _title(one.does, report), Cell(_alike_when(one, report), "quiet"))
            for one in report.alike
        ]
        blocks += [Blank(), Grid(alike, ("keys", "do the same", "when"), 2)]
    chosen: list[KeyDifference] = [*different, *(lacking if everything else ())]
    if chosen:
        rows = [
            (
                Cell(one.shown, "key"),
                _title(one.first, report),
                _title(one.second, report),
                Cell(_state(one.when), "quiet"),
            )
            for one in chosen
        ]
        blocks += [Blank(), Grid(rows, ("keys", report.first, report.second, "when"), 2)]
    if report.waits:
        rows = [
            (
                Cell(wait.shown, "key"),
                _title(wait.action, report),
                f"waits in {wait.waits}",
                Cell(_state(wait.when), "quiet"),
            )
            for wait in report.waits
        ]
        blocks += [Blank(), line("The same, but one waits for what may follow"), Grid(rows, indent=2)]
    if lacking and not everything:
        blocks += [Blank(), line("What only one of the two binds: --all")]
    return blocks


def _title(does: str | None, report: ComparisonReport) -> str:
    return report.titles.get(does, does) if does else "not bound"


def _alike_when(one: AlikeKeys, report: ComparisonReport) -> str:
    return "in all of these" if report.within and one.when == "always" else _state(one.when)


def _within(report: ComparisonReport) -> str:
    return f", {in_words(report.within)}" if report.within else ""


def _state(when: str) -> str:
    return in_words(when) or "everywhere"
