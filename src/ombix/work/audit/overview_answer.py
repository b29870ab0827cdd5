"""Where things stand in a workspace."""

from typing import NamedTuple

from ombix.core.errors import Place


class Overview(NamedTuple):
    """Where things stand in a workspace."""

    workspace: Place
    keymap: Place
    bindings: int
    layers: tuple[str, ...]
    editors: dict[str, str]
    """Name to the editor that it is."""
    findings: dict[str, int]
    """Severity to how many there are."""
    next_steps: tuple[str, ...]
