"""How better keys are laid out: `suggest`."""

from ombix.report.blocks import Blank, Block, Cell, line
from ombix.report.terminal_text import Display
from ombix.work.usage.savings_layout import time_range
from ombix.work.usage.suggest_answer import SuggestReport


def suggest_report(found: SuggestReport, display: Display, dry_run: bool = False) -> list[Block]:
    """Better keys, the most time first."""
    if not found.changes:
        return [line(f"No better keys were found for {found.considered} actions among {found.free} that are free.")]
    blocks: list[Block] = []
    for number, one in enumerate(found.changes, 1):
        if found.taken and number not in found.taken:
            continue
        blocks.append(line(Cell(f"{number}  {one.does}", "strong")))
        saves = f"{time_range(one.saves)} a day" if one.saves.usual > 0 else "no time, but fewer habits"
        blocks.append(line(f"saves {saves}; {'; '.join(one.why)}", indent=3))
    written = [line(f"{'would write' if dry_run else 'wrote'} {display.path(found.file)}")] if found.file else []
    if left := len(found.changes) - len(found.taken) if found.taken else 0:
        return [*blocks, line(f"{left} of the suggestions {'is' if left == 1 else 'are'} not taken."), *written]
    blocks += [Blank(), line(
        f"The cost of all keys is {found.before:.1f} weighted seconds a day now, and {found.after:.1f} with these; no other choice "
        f"of so many is better by more than {found.gap:.1%} ({found.considered} actions, {found.free} free keys)."
    )]  # fmt: skip
    if found.strain:
        moved = [
            f"{name.replace('-', ' ')} {before:.0%} to {after:.0%}"
            for name, before, after in found.strain
            if abs(after - before) >= 0.005
        ]
        blocks += [line("Load of the fingers: " + ", ".join(moved) + ".")] if moved else []
    return [*blocks, *written]
