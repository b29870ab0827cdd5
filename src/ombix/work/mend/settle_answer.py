"""Ways out of findings, and which were taken."""

from typing import NamedTuple

from ombix.core.errors import Place
from ombix.workspace.change_answer import Consequences, EditReport
from ombix.workspace.findings_answer import FoundFault


class WayCost(NamedTuple):
    """A part of what a way costs, in habits, and why."""

    habits: float
    why: str


class Fix(NamedTuple):
    """A way out: its changes in words, what it costs, and why."""

    does: tuple[str, ...]
    kind: str
    cost: float
    costs: tuple[WayCost, ...]


class SettledFinding(NamedTuple):
    """A finding, its ways out, the cheapest first, and the number of the one that is taken (0: none)."""

    finding: FoundFault
    ways: tuple[Fix, ...]
    taken: int


class SettleReport(NamedTuple):
    """What was settled in a keymap file, or would be. `cost` is that of all changes, `bound` the least that any choice costs, as
    far as it was proved, and `one_by_one` what the cheapest way of one finding after the other costs (None: not reckoned)."""

    file: Place
    findings: tuple[SettledFinding, ...]
    edits: tuple[EditReport, ...]
    left: int
    """How many findings of the chosen rules are there afterwards."""
    cost: float
    bound: float | None
    one_by_one: float | None
    consequences: Consequences
    plan: Place | None = None
