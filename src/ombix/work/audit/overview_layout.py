"""How it is laid out where things stand in a workspace."""

from ombix.report.blocks import Blank, Block, Cell, Grid, line
from ombix.report.counted import counted
from ombix.report.terminal_text import Display
from ombix.work.audit.overview_answer import Overview


def next_steps(steps: tuple[str, ...]) -> list[Block]:
    """What can be done next."""
    return [line("Next"), *(line(Cell(f"ombix {step}", "key"), indent=2) for step in steps)]


def overview(found: Overview, display: Display) -> list[Block]:
    """Where things stand in a workspace."""
    layers = f", on top of {', '.join(found.layers)}" if found.layers else ""
    editors = ", ".join(f"{name} ({dialect})" for name, dialect in found.editors.items()) or "none named"
    counts = ", ".join(counted(count, noun, f"{noun}s") for noun, count in found.findings.items() if count)
    rows = [
        ("keymap", f"{display.path(found.keymap.file)}, {counted(found.bindings, 'binding', 'bindings')}{layers}"),
        ("editors", editors),
        ("findings", counts or "none"),
    ]
    return [Grid(rows), Blank(), *next_steps(found.next_steps)]
