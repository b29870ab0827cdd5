"""What was read of editors' own files into a workspace, and how a workspace was started."""

from typing import NamedTuple

from ombix.core.errors import Place


class AdoptedLine(NamedTuple):
    """What became of one statement of an editor's file; `other` is the place that `became` goes on with, if it names one.

    `bound`: keys are bound by it; `kept`: it is carried along as it is; `fault`: it looks like a mistake.
    """

    place: Place
    written: str
    became: str
    bound: bool
    kept: bool
    fault: bool
    other: Place | None


class Adoption(NamedTuple):
    """An editor's file that was read as a layer."""

    editor: str
    file: Place
    layer: str
    bindings: int
    kept: int
    lines: tuple[AdoptedLine, ...]
    written: tuple[Place, ...]


class FoundFile(NamedTuple):
    """An editor's key file on this machine."""

    editor: str
    file: Place
    bindings: int
    faults: int


class MachineLayout(NamedTuple):
    """This machine's keyboard layout, by its name and title, and where that is known from."""

    name: str
    title: str
    source: str


class StartReport(NamedTuple):
    """A workspace that was started."""

    written: tuple[Place, ...]
    found: tuple[FoundFile, ...]
    adopted: tuple[str, ...]
    next_steps: tuple[str, ...]
    layout: MachineLayout | None = None
    """The layout that was taken for the workspace; None where none is known."""
