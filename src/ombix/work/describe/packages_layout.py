"""How it is laid out what packages bring: `editors packages`."""

from ombix.report.blocks import Block, Cell, Grid, line
from ombix.work.describe.packages_answer import PackagesReport


def packages_report(found: PackagesReport) -> list[Block]:
    """What installed packages bring."""
    if not found.things:
        return [line("No installed package brings anything for Ombix.")]
    rows = [
        (thing.kind, Cell(thing.name, "strong"), thing.package, Cell(thing.fault, "warn") if thing.fault else "is used")
        for thing in found.things
    ]
    return [Grid(rows, ("what", "name", "package", ""))]
