"""A file in plain lines: asked by git for each version of each file that it compares, so that little is imported."""

from pathlib import Path

from ombix.console.environment import Environment, Status
from ombix.report.terminal_text import visible
from ombix.work.versions.git_text import plain_file


def print_plain(environment: Environment, file: str) -> Status:
    """Print what a keymap or workspace file says, line by line."""
    environment.results.write(map(visible, plain_file(environment.folders.here / Path(file).expanduser())))
    return Status.FINE
