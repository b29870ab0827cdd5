"""A sequence that is never reached, because its beginning fires at once."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at, is_own
from ombix.core.conditions import NEVER
from ombix.core.deciding import Policy
from ombix.core.keys import write


def check(ground: Ground) -> Iterator[Finding]:
    """Sequences whose shorter beginnings are bound, in an editor that does not wait."""
    if ground.policy.prefix != "fires":
        return
    space = ground.space
    for trigger, table in ground.tables.items():
        if table.hidden == NEVER:
            continue
        starts = [
            ground.tables[trigger[:length]] for length in range(1, len(trigger)) if trigger[:length] in ground.tables
        ]
        for binding in (*(row.binding for row in table.rows), *table.losers):
            both = space.both(ground.states(binding), table.hidden)
            if both == NEVER or not is_own(binding):
                continue
            before = [row.binding for start in starts for row in start.rows if space.both(row.states, both) != NEVER]
            names = write(before[0].trigger) if before else ""
            message = f"{write(trigger)} for {binding.outcome} is never reached: {names} fires as soon as it is pressed"
            yield RULE.finding(message, at(binding, *before[:1]), trigger, both)


RULE = Rule(
    name="hidden-sequence",
    severity="error",
    what="A sequence begins with keys that are bound by themselves, in an editor that does not wait for more.",
    why="The short binding fires, and the rest of the sequence is typed into the text.",
    example="""\
format = 1
name = "example"

[bind.files]
save = "Ctrl+K Ctrl+S"

[bind.line]
delete = "Ctrl+K"
""",
    mend="Begin the sequence with keys that do nothing of their own.",
    check=check,
    policy=Policy(prefix="fires"),
)
