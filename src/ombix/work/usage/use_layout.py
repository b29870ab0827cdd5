"""How what was used is laid out: `use`."""

from collections.abc import Sequence

from ombix.report.blocks import Blank, Block, Cell, Grid, line
from ombix.report.terminal_text import Display
from ombix.work.usage.use_answer import LogReport, UseReport

MOST = 12
"""Rows of a table, where not all are asked for."""


def use_report(found: UseReport, display: Display, everything: bool) -> list[Block]:
    """What was used, from the most to the least."""
    blocks: list[Block] = [block for log in found.logs for block in _log(log)]
    if not found.times and not found.typed:
        return [*blocks, line("Nothing was used that is known of."), line("Count it with: ombix use watch -- nano FILE")] if (
            not found.logs
        ) else [*blocks, line("Nothing was used that is known of.")]  # fmt: skip
    days = f"{found.days} day{'s' * (found.days != 1)}, {found.first} to {found.last}"
    typed = f"; {found.typed:,} characters typed" if found.typed else ""
    where = ", ".join(f"{name or 'no editor named'} {times:,}" for name, times in found.by_editor.items())
    blocks.append(line(f"{found.times:,} uses on {days} ({where}){typed}."))
    blocks += _actions(found, display, everything)
    blocks += _table("By menu, mouse or command line, although there are keys", ("action", "times", "by", "keys", "in"), [
        (way.action, f"{way.times:,}", way.by, Cell(" or ".join(way.keys[:2]), "key"), way.editor) for way in found.other_ways
    ], everything)  # fmt: skip
    blocks += _table("Pressed, and taken back at once", ("keys", "does", "taken back", "in"), [
        (Cell(slip.keys, "key"), slip.does, f"{slip.slips:,} of {slip.times:,}", slip.editor) for slip in found.slips
    ], everything)  # fmt: skip
    blocks += _table("Waited for more that did not come", ("keys", "times", "in"), [
        (Cell(wait.keys, "key"), f"{wait.times:,}", wait.editor) for wait in found.waits
    ], everything)  # fmt: skip
    blocks += _table("Long ways", ("one after the other", "times", "does the same", "in"), [
        (", ".join(way.actions), f"{way.times:,}", " or ".join(way.better[:2]) or "a macro could", way.editor)
        for way in found.long_ways
    ], everything)  # fmt: skip
    blocks += _table("Never used", ("action", "keys"), [
        (one.action, Cell(" or ".join(one.keys[:2]), "key")) for one in found.unused
    ], everything)  # fmt: skip
    blocks += _table("Not known here", ("what", "times"), [
        (name, f"{times:,}") for name, times in found.unknown.items()
    ], everything)  # fmt: skip
    if everything:
        blocks += _table("By keys", ("keys", "does", "times", "in", "mode"), [
            (Cell(key.keys, "key"), key.does, f"{key.times:,}", key.editor, key.mode) for key in found.keys
        ], True)  # fmt: skip
        blocks += _table("By day", ("day", "uses", "typed"), [
            (one.day, f"{one.times:,}", f"{one.typed:,}") for one in found.by_day
        ], True)  # fmt: skip
    return blocks


def _log(one: LogReport) -> list[Block]:
    """What became of each line of a log."""
    said = f"{one.file}: {one.lines:,} lines, {one.events:,} of them events"
    if one.left_out:
        said += "; left out: " + ", ".join(f"{why} ({times:,})" for why, times in one.left_out.items())
    if one.back:
        said += f"; its clock went back {one.back:,} times" if one.back > 1 else "; its clock went back once"
    if one.counted:
        said += f"; it is large: slips and long ways are those behind its first {one.counted:,} lines"
    kept = {"added": " It is kept now.", "known": " It was kept already, and is not counted again."}.get(one.kept, "")
    return [line(f"{said}.{kept}")]


def _actions(found: UseReport, display: Display, everything: bool) -> list[Block]:
    rows = []
    most = max((action.times for action in found.actions), default=1)
    for action in found.actions:
        others = action.times - action.by.get("keys", 0)
        by = f"{others / action.times:.0%}" if others else ""
        bar = "█" * max(1, round(8 * action.times / most))
        rows.append(
            (
                action.action,
                f"{action.times:,}",
                bar,
                Cell(action.keys[0] if action.keys else "", "key"),
                by,
                _trend(action.trend),
            )
        )
    return _table("Used most", ("action", "times", "", "keys", "not keys", "trend"), rows, everything)


def _trend(trend: float | None) -> str:
    if trend is None or 0.8 <= trend <= 1.25:
        return ""
    return f"× {trend:.1f}" if trend else "no more"


def _table(title: str, head: Sequence[str], rows: Sequence[Sequence[Cell | str]], everything: bool) -> list[Block]:
    if not rows:
        return []
    shown = rows if everything else rows[:MOST]
    left = len(rows) - len(shown)
    more: list[Block] = [line(Cell(f"and {left} more: --all", "quiet"), indent=2)] if left else []
    return [Blank(), line(Cell(title, "strong")), Grid([list(row) for row in shown], tuple(head), 2), *more]
