"""How it is said what was written."""

from ombix.core.errors import Place
from ombix.report.blocks import Block, line
from ombix.report.terminal_text import Display


def written(places: tuple[Place, ...], dry_run: bool, display: Display) -> Block:
    """What was written, or would be."""
    return line(f"{'would write' if dry_run else 'wrote'} {' and '.join(display.path(place.file) for place in places)}")
