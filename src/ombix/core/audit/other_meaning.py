"""The same keys do different things in two editors of the workspace."""

from collections.abc import Iterator
from itertools import combinations

from ombix.core.audit import Finding, Ground, Rule, at
from ombix.core.keymap import Do, Nothing
from ombix.core.keys import write


def check(ground: Ground) -> Iterator[Finding]:
    """Keys that mean different things over text, where at least one of the meanings is used all day."""
    for one, other in combinations(ground.views(), 2):
        for trigger in one.tables:
            first, second = one.over_text_row(trigger, ground.space), other.over_text_row(trigger, ground.space)
            if first is None or second is None or first.binding.outcome == second.binding.outcome:
                continue
            outcomes = (first.binding.outcome, second.binding.outcome)
            if any(isinstance(outcome, Nothing) for outcome in outcomes) or not any(map(ground.is_frequent, outcomes)):
                continue
            if all(isinstance(outcome, Do) for outcome in outcomes):
                message = f"{write(trigger)} is {outcomes[0]} in {one.name} and {outcomes[1]} in {other.name}"
                yield RULE.finding(message, at(first.binding, second.binding), trigger)


RULE = Rule(
    name="other-meaning",
    severity="note",
    what="The same keys do different things in two editors of the workspace, and at least one of the two is used all day.",
    why="Hands do not know which editor they are in. Each such pair costs a mistake a day.",
    example="""\
format = 1
name = "example"

[bind.history]
undo = "Mod+Z"
""",
    mend="Bind the keys in the keymap, so that they are the same in both.",
    check=check,
    editors=True,
)
