"""Same keys, different actions, and one is an exception to the other that the policy decides."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at
from ombix.core.audit.clash import overlapping, winner_of
from ombix.core.keys import write


def check(ground: Ground) -> Iterator[Finding]:
    """Overlapping pairs in which the narrower one wins, or the one that the policy prefers."""
    for first, second, both, is_decided in overlapping(ground):
        if not is_decided:
            continue
        winner = winner_of(ground, first, second)
        other = second if winner is first else first
        if ground.states(other) == both:
            continue  # the loser never wins: that is the rule covered
        message = f"{write(first.trigger)} is {other.outcome}, but {winner.outcome} where both apply"
        yield RULE.finding(message, at(winner, other), first.trigger, both)


RULE = Rule(
    name="exception",
    severity="note",
    what="A key does one thing in general and another in some states: the conditions overlap, and the editor's way of "
    "deciding settles it.",
    why="It works, but the reader of the wider line does not see the exception. In an editor that decides otherwise it "
    "is the other way round.",
    example="""\
format = 1
name = "example"

[bind.search]
next = { press = "F7", where = "pane is text" }

[bind.problems]
check = { press = "F7", where = "pane is text and modified" }
""",
    mend="Nothing has to be done. To be clear, exclude the narrower condition from the wider one.",
    check=check,
)
