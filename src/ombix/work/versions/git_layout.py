"""How the set-up in git is laid out: `git`."""

from ombix.report.blocks import Block, Cell, Grid, line
from ombix.report.terminal_text import Display
from ombix.work.versions.changes_layout import _STANDS
from ombix.work.versions.git_answer import SetUpReport


def set_up_report(found: SetUpReport, display: Display, dry_run: bool = False) -> list[Block]:
    """Each part, and how it stands."""
    rows = [(part.part, Cell(part.stands, _STANDS[part.stands]), part.says) for part in found.parts]
    blocks: list[Block] = [
        line("For this user" if not found.where else f"In {display.path(found.where)}"),
        Grid(rows, ("part", "stands", "says")),
    ]
    verb = "would write" if dry_run else "wrote"
    blocks += [line(f"{verb} {display.path(one)}") for one in found.wrote]
    if found.did != "checked" and not found.wrote:
        blocks.append(line("There was nothing to change."))
    return blocks
