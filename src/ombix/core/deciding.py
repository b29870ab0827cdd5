"""What happens for given keys, and why. One function decides, for every use: looking, auditing, porting, comparing."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ombix.core.actions import Catalogue
from ombix.core.conditions import NEVER, Space
from ombix.core.keymap import Binding, effective_states
from ombix.core.keys import Trigger

Wins = Literal["last", "first"]
Prefix = Literal["waits", "fires"]


@dataclass(frozen=True, slots=True)
class Policy:
    """How an editor decides: which of several matching bindings wins, and whether a chord that begins a longer sequence
    waits for the rest or fires at once."""

    wins: Wins = "last"
    prefix: Prefix = "waits"


@dataclass(frozen=True, slots=True)
class Row:
    """One line of the complete decision for a trigger: in these states this binding wins, and beats those."""

    states: int
    binding: Binding
    beaten: tuple[Binding, ...]


@dataclass(frozen=True, slots=True)
class Table:
    """The complete decision for a trigger: rows with disjoint states; in the states of `rest` nothing is bound.

    `losers` are the bindings that win in no state.
    """

    trigger: Trigger
    rows: tuple[Row, ...]
    rest: int
    losers: tuple[Binding, ...]

    def at(self, space: Space, state: dict[str, str]) -> Row | None:
        """The row for one state."""
        return next((row for row in self.rows if space.holds(row.states, state)), None)


def decide(
    trigger: Trigger, candidates: Sequence[Binding], space: Space, catalogue: Catalogue, policy: Policy
) -> Table:
    """The complete decision for `trigger` over all possible states.

    `candidates` are the bindings of exactly this trigger, lowest layer first, in the order of their files. Of several
    that match in a state, the policy takes the last or the first.
    """
    ordered = list(candidates) if policy.wins == "first" else list(reversed(candidates))
    states = [effective_states(binding, space, catalogue) for binding in ordered]
    rest = space.possible
    rows: list[Row] = []
    losers: list[Binding] = []
    for index, binding in enumerate(ordered):
        own = space.both(states[index], rest)
        if own == NEVER:
            losers.append(binding)
            continue
        beaten = tuple(
            ordered[later] for later in range(index + 1, len(ordered)) if space.both(own, states[later]) != NEVER
        )
        rows.append(Row(own, binding, beaten))
        rest = space.minus(rest, states[index])
    return Table(trigger, tuple(rows), rest, tuple(losers))
