"""How folded keymaps are laid out: `fold`."""

from ombix.report.blocks import Block, Cell, Grid, line
from ombix.report.terminal_text import Display
from ombix.report.written import written
from ombix.work.change.fold_answer import FoldReport


def fold_report(found: FoldReport, display: Display, dry_run: bool) -> list[Block]:
    """What keymaps were folded into."""
    rows = [
        (binding.does, Cell(binding.keys, "key"), " and ".join(binding.platforms))
        for binding in found.bindings
        if binding.platforms
    ]
    blocks: list[Block] = [line(f"{found.definitions} definitions, {found.exceptions} of them with an exception.")]
    blocks += [Grid(rows, ("action", "keys", "on"), 2)] if rows else []
    return [*blocks, written((found.file,), dry_run, display)]
