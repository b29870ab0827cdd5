"""Keymaps of several platforms in one file."""

from typing import NamedTuple

from ombix.core.errors import Place


class FoldedBinding(NamedTuple):
    """A binding of a folded keymap, and the platforms that it is for (none named: all)."""

    does: str
    keys: str
    when: str
    platforms: tuple[str, ...]


class FoldReport(NamedTuple):
    """Keymaps of several platforms as one. `definitions` and `exceptions` are counts."""

    file: Place
    definitions: int
    exceptions: int
    bindings: tuple[FoldedBinding, ...]
