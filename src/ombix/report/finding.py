"""How an answer to `how` is laid out."""

from ombix.core.results.finding import FoundActions
from ombix.report.blocks import Block, Cell, Grid, line
from ombix.report.plain import Display


def found_actions(found: FoundActions, display: Display) -> list[Block]:
    """Actions with their keys."""
    blocks: list[Block] = [line(found.about)] if found.about else []
    rows: list[tuple[Cell | str, ...]] = []
    for one in found.actions:
        keys = [each.shown + (f" when {each.where}" if each.where != "always" else "") for each in one.keys]
        shown = ", ".join(dict.fromkeys(keys))
        rows.append((Cell(shown or "no keys", "key" if shown else "quiet"), one.title, Cell(one.action, "quiet")))
    return [*blocks, Grid(rows, ("keys", "what it does", "action"))]
