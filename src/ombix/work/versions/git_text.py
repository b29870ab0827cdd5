"""A file in plain lines, without a workspace and without anything that takes long to be imported."""

from pathlib import Path

from ombix.files.disk import Files
from ombix.files.git_text import plain_lines


def plain_file(path: Path) -> list[str]:
    """What a keymap or workspace file says, line by line. Raises InputError for one that cannot be read."""
    return plain_lines(Files().read_text(path))
