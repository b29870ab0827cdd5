"""Same keys, different actions, in the same state, and only the order of the lines decides."""

from collections.abc import Iterator
from itertools import combinations

from ombix.core.audit import Finding, Ground, Rule, at
from ombix.core.conditions import NEVER
from ombix.core.keymap import Binding
from ombix.core.keys import write


def overlapping(ground: Ground) -> Iterator[tuple[Binding, Binding, int, bool]]:
    """Pairs of a layer with the same keys and different outcomes, their common states, and whether one is narrower or
    the policy itself prefers one."""
    space = ground.space
    for group in ground.groups:
        for first, second in combinations(group, 2):
            if first.outcome == second.outcome:
                continue
            states_first, states_second = ground.states(first), ground.states(second)
            both = space.both(states_first, states_second)
            if both == NEVER:
                continue
            ranked = ground.policy.rank(first, space, ground.catalogue) != ground.policy.rank(
                second, space, ground.catalogue
            )
            nested = states_first != states_second and both in (states_first, states_second)
            yield first, second, both, ranked or nested


def winner_of(ground: Ground, first: Binding, second: Binding) -> Binding:
    """Which of two bindings wins where both apply."""
    return ground.policy.order([first, second], ground.space, ground.catalogue)[0]


def check(ground: Ground) -> Iterator[Finding]:
    """Overlapping pairs that nothing but the order of the lines decides."""
    for first, second, both, is_decided in overlapping(ground):
        if not is_decided:
            winner = winner_of(ground, first, second)
            message = f"{write(first.trigger)} is both {first.outcome} and {second.outcome}; {winner.outcome} wins"
            yield RULE.finding(message, at(first, second), first.trigger, both)


RULE = Rule(
    name="clash",
    severity="error",
    what="The same keys are bound to two different things, there are states in which both apply, and only the order of "
    "the lines decides.",
    why="Only one of the two happens. Moving a line changes what the key does.",
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
