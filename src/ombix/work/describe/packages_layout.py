"""How it is laid out what packages bring: `editors packages`."""

from ombix.report.blocks import Block, Cell, Grid, line
from ombix.work.describe.packages_answer import PackagesReport


def packages_report(found: PackagesReport) -> list[Block]:
    """What installed packages bring."""
    if not found.things:
        return [line("No installed package brings anything for Ombix.")]
    rows = [
        (one.kind, Cell(one.name, "strong"), one.package, Cell(one.fault, "warn") if one.fault else "is used")
        for one in found.things
    ]
    return [Grid(rows, ("what", "name", "package", ""))]
