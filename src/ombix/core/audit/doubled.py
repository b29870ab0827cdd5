"""The same binding twice."""

from collections.abc import Iterator
from itertools import combinations

from ombix.core.audit import Finding, Ground, Rule, at
from ombix.core.conditions import NEVER
from ombix.core.keys import write


def check(ground: Ground) -> Iterator[Finding]:
    """Pairs of a layer with the same keys and outcome, one of which says nothing more."""
    space = ground.space
    for group in ground.groups:
        for first, second in combinations(group, 2):
            if first.outcome != second.outcome:
                continue
            one, other = ground.states(first), ground.states(second)
            if NEVER not in (one, other) and space.both(one, other) in (one, other):
                message = f"{write(first.trigger)} is bound to {first.outcome} twice"
                yield RULE.finding(message, at(first, second), first.trigger, space.both(one, other))


RULE = Rule(
    name="doubled",
    severity="note",
    what="The same keys are bound to the same action twice, in the same states or in some of them again.",
    why="A change of one of the lines alone changes nothing, or half of what was meant.",
    example="""\
format = 1
name = "example"

[bind.files]
save = ["F2", { press = "F2", where = "modified" }]
""",
    mend="Take one of the two out.",
    check=check,
)
