"""How ways out of findings are laid out, and what was settled."""

from collections.abc import Sequence

from ombix.report.blocks import Blank, Block, Cell, Grid, Style, line
from ombix.report.terminal_text import Display
from ombix.work.audit.audit_layout import said
from ombix.work.change.change_layout import consequences
from ombix.work.mend.settle_answer import Fix, SettleReport
from ombix.workspace.condition_words import in_words
from ombix.workspace.findings_answer import FoundFault

_STYLES: dict[str, Style] = {"error": "bad", "warning": "warn", "note": "quiet"}


def ways_out(finding: FoundFault, ways: Sequence[Fix], display: Display) -> list[Block]:
    """A finding and its ways out, numbered, each with its cost and why."""
    when = f", {in_words(finding.when)}" if finding.when else ""
    blocks: list[Block] = [
        line(Cell(f"{finding.rule}, {finding.severity}", _STYLES[finding.severity]), f": {said(finding)}{when}")
    ]
    rows = [
        (str(number), "; ".join(way.does), f"{way.cost:.1f}", Cell("; ".join(cost.why for cost in way.costs), "quiet"))
        for number, way in enumerate(ways, 1)
    ]
    if rows:
        return [*blocks, Grid(rows, ("", "way out", "cost", "why"), 2)]
    return [*blocks, line(f"No fix was found that brings no new finding. {finding.mend}", indent=2)]


def settle_report(found: SettleReport, display: Display, dry_run: bool, is_list: bool) -> list[Block]:
    """What was settled, or the ways out of each finding."""
    if not found.findings:
        return [line("There is no finding to settle.")]
    if is_list:
        blocks: list[Block] = []
        for number, one in enumerate(found.findings):
            blocks += [*([Blank()] if number else []), *ways_out(one.finding, one.ways, display)]
        drafted = (
            [line(f"{'would write' if dry_run else 'wrote'} {display.path(found.plan.file)}")] if found.plan else []
        )
        advice = line("Take them with --take best or --take all, or draft a plan with --draft FILE.")
        return [*blocks, Blank(), *(drafted or [advice])]
    file = display.path(found.file.file)
    verb = "would write" if dry_run or found.plan else "wrote"
    blocks = []
    for edit in found.edits:
        after = f": {edit.after}" if edit.after else f", without {edit.before}"
        blocks.append(line(Cell(f"{edit.does}", "strong")))
        blocks.append(line(f"{verb} {file}{after}", indent=2))
    left = [finding for finding in found.findings if not finding.taken]
    blocks += [Blank(), *consequences(found.consequences)]
    blocks.append(Blank())
    settled = sum(1 for finding in found.findings if finding.taken)
    blocks.append(
        line(f"{_count(settled, 'finding')} settled by {_count(len(found.edits), 'change')}; {found.left} left.")
    )
    blocks.append(line(f"Cost {found.cost:.2f} habits{_bound(found)}."))
    for one in left:
        blocks += ways_out(one.finding, one.ways, display)
    if found.plan:
        blocks.append(
            line(f"{'would write' if dry_run else 'wrote'} {display.path(found.plan.file)}; nothing else was changed")
        )
    return blocks


def _bound(found: SettleReport) -> str:
    said = ""
    if found.bound is not None:
        gap = (found.cost - found.bound) / found.cost if found.cost else 0.0
        said += f", and no choice costs less than {found.bound:.2f}: a gap of {max(gap, 0.0):.1%}"
    if found.one_by_one is not None:
        said += f"; one finding after the other, the cheapest way costs {found.one_by_one:.2f}"
    return said


def _count(number: int, noun: str) -> str:
    return f"{number} {noun}{'s' * (number != 1)}"
