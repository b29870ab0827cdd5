"""The same binding twice."""

from collections.abc import Iterator

from msgspec.structs import replace

from ombix.core.audit.fix_changes import take_out
from ombix.core.audit.model import AuditSubject, Finding, Rule, at
from ombix.core.conditions import NEVER, States
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.deciding import Overlaps


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Pairs of a layer with the same keys and outcome, one of which says nothing more."""
    space = subject.space
    for first, second, one, other in _meeting(subject):
        if first.outcome == second.outcome:
            both = space.both(one, other)
            if NEVER not in (one, other) and both in (one, other):
                message = f"{subject.show(first.keys)} is bound to {first.outcome} twice"
                found = RULE.finding(message, at(first, second), first.trigger, both)
                # Where both say the same, no change could name one of them alone.
                says_less = first if both == one and first.where != second.where else second
                yield replace(found, changes=take_out(says_less) if first.where != second.where else ())


def _meeting(subject: AuditSubject) -> Iterator[tuple[Binding, Binding, States, States]]:
    """Pairs of a layer with the same keys that apply in a common state, and the states of each."""
    for group in subject.groups:
        states = list(map(subject.states, group))
        overlaps = Overlaps(subject.space, states)
        for index, first in enumerate(group):
            for at_other in overlaps.behind(index, states[index]):
                yield first, group[at_other], states[index], states[at_other]


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
