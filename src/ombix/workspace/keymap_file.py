"""A keymap file as it stands, and the entries that its bindings stand in."""

from pathlib import Path
from typing import NamedTuple

from ombix.core.keymap.bindings import Binding, Keymap, Layer
from ombix.core.keymap.outcomes import Do, Insert, Only, Outcome, Play


class KeymapFile(NamedTuple):
    """A keymap file as it stands, with the layers that it stands on; and all layers of the workspace."""

    path: Path
    text: str
    keymap: Keymap
    layers: tuple[Layer, ...]

    @property
    def own(self) -> Layer:
        """The file's own layer."""
        return self.keymap.layers[-1]

    @property
    def layers_with_own(self) -> list[Layer]:
        """All layers of the workspace, this file's as it stands here."""
        return [*(layer for layer in self.layers if layer.name.id != self.own.name.id), self.own]


def entry_name(binding: Binding) -> str:
    """The name of the entry that a binding stands in (an action, a macro, or an editor and its command); empty for what stands
    under its keys."""
    return entry_name_of(binding.outcome)


def entry_name_of(outcome: Outcome) -> str:
    """The same for what a binding does."""
    if isinstance(outcome, Do):
        return outcome.action
    if isinstance(outcome, Only):
        return f"{outcome.editor}:{outcome.command}"
    if isinstance(outcome, Insert):
        return outcome.key
    return outcome.macro if isinstance(outcome, Play) else ""


def command_name(binding: Binding) -> str:
    """The command of one editor that a binding runs; empty for another."""
    return binding.outcome.command if isinstance(binding.outcome, Only) else ""
