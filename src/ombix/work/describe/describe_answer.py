"""A drafted description of an editor."""

from typing import NamedTuple

from ombix.core.errors import Place
from ombix.work.describe.editors_answer import DescriptionTest


class ProposedAction(NamedTuple):
    """An action that a command may stand for, and how well it fits (0 to 100)."""

    action: str
    title: str
    score: float


class CommandProposal(NamedTuple):
    """A command of a draft: what is said of it, the action that is written (empty: none is sure), and what it may be."""

    command: str
    said: str
    action: str
    candidates: tuple[ProposedAction, ...]


class StateProposal(NamedTuple):
    """A word of a draft's conditions, or a section: what it means, or may mean (empty: not known)."""

    word: str
    means: str
    may_mean: str


class DraftReport(NamedTuple):
    """A description that was drafted: the form of the files, how many bindings the samples and the default keys have, the
    commands, the words for states, the editor's words for modifiers, how many named keys are known, what is missing, and the
    tests of the draft."""

    name: str
    folder: Place
    form: str
    patterns: tuple[str, ...]
    bindings: int
    default_keys: int
    commands: tuple[CommandProposal, ...]
    states: tuple[StateProposal, ...]
    modifiers: dict[str, str]
    named_keys: int
    missing: tuple[str, ...]
    checks: tuple[DescriptionTest, ...]
    written: tuple[Place, ...]

    @property
    def faults(self) -> int:
        """How many faults the tests found."""
        return sum(len(check.faults) for check in self.checks)
