"""How it is laid out what a description would start: `editors trust`."""

from ombix.report.blocks import Block, Cell, Grid, line
from ombix.report.terminal_text import Display
from ombix.workspace.trust_answer import TrustReport


def trust_report(found: TrustReport, display: Display) -> list[Block]:
    """What a description would start, and where keys would be written."""
    said = {"trusted": "You trust it as it is.", "changed": "It has changed since you trusted it.", "new": ""}
    rows: list[tuple[Cell | str, ...]] = [("files", " ".join(display.path(file) for file in found.files))]
    if found.command:
        rows.append(("starts", Cell(" ".join(found.command), "strong")))
        rows += [("with", f"{name}={value}") for name, value in found.environment.items()]
    rows += [("writes", Cell(place, "strong")) for place in found.writes]
    blocks: list[Block] = [
        line(f"{display.place(found.folder)} describes {found.title}."),
        Grid(rows, indent=2),
    ]
    if not found.command:
        blocks.append(line("It starts no program."))
    return [*blocks, line(said[found.is_trusted])] if said[found.is_trusted] else blocks
