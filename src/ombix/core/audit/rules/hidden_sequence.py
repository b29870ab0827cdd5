"""A sequence that is never reached, because its beginning fires at once."""

from collections.abc import Iterator

from ombix.core.audit.model import AuditSubject, Finding, Rule, at, is_own
from ombix.core.conditions import NEVER
from ombix.core.keymap.deciding import Policy
from ombix.core.keymap.outcomes import Nothing


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Sequences whose shorter beginnings are bound, in an editor that does not wait."""
    if subject.policy.prefix != "fires":
        return
    space = subject.space
    for trigger, table in subject.tables.items():
        if table.hidden == NEVER:
            continue
        starts = [
            subject.tables[trigger[:length]] for length in range(1, len(trigger)) if trigger[:length] in subject.tables
        ]
        for binding in (*(row.binding for row in table.rows), *table.losers):
            both = space.both(subject.states(binding), table.hidden)
            if both == NEVER or not is_own(binding) or isinstance(binding.outcome, Nothing):
                continue
            before = [
                row.binding
                for start in starts
                for row in start.rows
                if space.both(row.states, both) != NEVER and not isinstance(row.binding.outcome, Nothing)
            ]
            names = subject.show(before[0].keys) if before else ""
            keys = subject.show(binding.keys)
            message = f"{keys} for {binding.outcome} is never reached: {names} fires as soon as it is pressed"
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
