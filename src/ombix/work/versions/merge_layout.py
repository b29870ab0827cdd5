"""How a merge is laid out."""

from collections.abc import Iterator, Sequence

from ombix.report.blocks import Block, Cell, Grid, line, shortened
from ombix.report.terminal_text import Display
from ombix.work.change.change_layout import new_findings
from ombix.work.versions.merge_answer import MergedChange, MergeReport, OpenConflict, UnforeseenKeys

_MOST = 12
_SIDES = {"ours": "ours", "theirs": "theirs", "both": "both sides"}


def merge_report(found: MergeReport, display: Display, dry_run: bool = False) -> list[Block]:
    """What each side changed, what is open, and what is new behind it."""
    blocks: list[Block] = [line(remark) for remark in found.remarks]
    blocks += _changes(found.changes)
    for conflict in found.conflicts:
        blocks += _conflict(conflict, found.by)
    for each in found.unforeseen[:_MOST]:
        blocks.append(_strange(each))
    if len(found.unforeseen) > _MOST:
        blocks.append(line(f"and {len(found.unforeseen) - _MOST} more of these: --json has all of them"))
    blocks += new_findings(found.findings)
    count = len(found.conflicts)
    said = "no conflict" if not count else f"{count} conflict{'s' * (count > 1)} left open"
    file = display.path(found.written or found.file)
    if found.written == "-":
        return [*blocks, line(said)]
    verb = "would be written to" if dry_run else "written to" if found.written else "not written:"
    blocks.append(line(f"{said}; {verb} {file if found.written else 'say --output FILE'}"))
    return blocks


def _changes(found: Sequence[MergedChange]) -> Iterator[Block]:
    if not found:
        return
    rows = [
        (Cell(one.what, "strong"), _SIDES[one.side], f"{one.did}", shortened(one.after or one.before))
        for one in found[:_MOST]
    ]
    yield Grid(rows, ("entry", "changed by", "", "value"))
    if len(found) > _MOST:
        yield line(f"and {len(found) - _MOST} more: --json has all of them")


def _conflict(one: OpenConflict, by: str) -> Iterator[Block]:
    when = f", when {one.when}" if one.when else ""
    yield line(Cell("conflict", "bad"), ": ", Cell(one.what, "strong"), f": {one.why}{when}")
    if by == "lines":
        return
    rows = [
        (side, shortened(text) or "nothing")
        for side, text in (("before", one.base), ("ours", one.ours), ("theirs", one.theirs))
    ]
    yield Grid([*rows, ("stands", shortened(one.kept) or "nothing")], (), 2)


def _strange(one: UnforeseenKeys) -> Block:
    when = f" when {one.when}" if one.when else ""
    sides = ", ".join(
        f"{side} {text or 'nothing'}"
        for side, text in (("before", one.base), ("ours", one.ours), ("theirs", one.theirs))
    )
    return line(Cell("mind", "warn"), ": ", Cell(one.keys, "key"), f" is {one.merged or 'nothing'}{when}; {sides}.")
