"""A file in plain lines: asked by git for each version of each file that it compares, so that little is imported."""

from pathlib import Path

from ombix.cli.environment import Environment, Status
from ombix.store.files import Files
from ombix.store.plain_text import plain_lines


def print_plain(environment: Environment, file: str) -> Status:
    """Print what a keymap or workspace file says, line by line."""
    text = Files().read_text(environment.folders.here / Path(file).expanduser())
    environment.results.write(plain_lines(text))
    return Status.FINE
