"""Same keys, different actions, in the same state."""

from collections.abc import Iterator
from itertools import combinations

from ombix.core.audit import Finding, Ground, Rule
from ombix.core.conditions import NEVER
from ombix.core.keys import write


def check(ground: Ground) -> Iterator[Finding]:
    """Pairs in one layer that overlap without one of them being hidden altogether by a wider one."""
    space = ground.space
    for group in ground.by_layer_and_trigger:
        for first, second in combinations(group, 2):
            if first.outcome == second.outcome:
                continue
            states_first, states_second = ground.states(first), ground.states(second)
            both = space.both(states_first, states_second)
            if both == NEVER or (states_first != states_second and both in (states_first, states_second)):
                continue
            winner = ground.winner(first, second)
            yield Finding(
                RULE.name, RULE.severity, first.trigger,
                f"{write(first.trigger)} is both {first.outcome} and {second.outcome}; {winner.outcome} wins",
                (first, second), both, RULE.mend,
            )  # fmt: skip


RULE = Rule(
    name="clash",
    severity="error",
    what="The same keys are bound to two different things, and there are states in which both apply.",
    why="Only one of the two happens. Which one depends on the order of the lines, so moving a line changes what a key "
    "does.",
    example="""\
format = 1
name = "example"

[bind.line]
copy-down = "Ctrl+D"

[bind.edit]
delete-right = "Ctrl+D"
""",
    mend="Give one of the two other keys, or each a condition that excludes the other's.",
    check=check,
)
