"""The same binding twice."""

from collections.abc import Iterator
from itertools import combinations

from msgspec.structs import replace

from ombix.core.audit.model import AuditSubject, Finding, Rule, at
from ombix.core.audit.ways import take_out
from ombix.core.conditions import NEVER


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Pairs of a layer with the same keys and outcome, one of which says nothing more."""
    space = subject.space
    for group in subject.groups:
        for first, second in combinations(group, 2):
            if first.outcome != second.outcome:
                continue
            one, other = subject.states(first), subject.states(second)
            both = space.both(one, other)
            if NEVER not in (one, other) and both in (one, other):
                message = f"{subject.show(first.keys)} is bound to {first.outcome} twice"
                found = RULE.finding(message, at(first, second), first.trigger, both)
                # Where both say the same, no change could name one of them alone.
                says_less = first if both == one and first.where != second.where else second
                yield replace(found, changes=take_out(says_less) if first.where != second.where else ())


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
