"""How it is laid out which commit gave keys their meaning."""

from collections.abc import Sequence

from ombix.report.blocks import Block, Cell, line
from ombix.report.terminal_text import Display
from ombix.work.versions.blame_answer import BlameReport, KeysMeaning


def blame_report(found: BlameReport, display: Display) -> list[Block]:
    """What keys do, and the commits that gave them that."""
    blocks: list[Block] = [line(Cell(found.shown, "key"), f"  {_meaning(found.now)}")]
    if found.was:
        blocks.append(line(f"before: {_meaning(found.was)}", indent=2))
    for commit in found.commits:
        blocks.append(line(Cell(commit.short, "strong"), f"  {commit.date[:10]}  {commit.author}  {commit.subject}"))
        blocks += [line(f"at {display.place(commit.place)}", indent=2)] if commit.place is not None else []
    if found.note:
        blocks.append(line(found.note))
    return blocks


def _meaning(found: Sequence[KeysMeaning]) -> str:
    return ", ".join(f"{one.does}{f' when {one.when}' if one.when else ''}" for one in found) or "nothing"
