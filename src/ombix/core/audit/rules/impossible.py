"""A condition that no state fulfils."""

from collections.abc import Iterator

from ombix.core.audit.model import AuditSubject, Finding, Rule, at, is_own
from ombix.core.conditions import NEVER


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Bindings whose condition is true in no possible state."""
    space = subject.space
    for table in subject.tables.values():
        for binding in table.losers:  # what can never be in force loses in every state
            if not is_own(binding) or binding.where == "always":
                continue
            if space.fulfillable(space.parse(binding.where, binding.scope)):
                continue
            message = f"{subject.show(binding.keys)} for {binding.outcome} can never be in force: {binding.where}"
            yield RULE.finding(message, at(binding), binding.trigger, NEVER)


RULE = Rule(
    name="impossible",
    severity="error",
    what="A condition contradicts itself, or what the facts exclude: no state of the editor fulfils it.",
    why="The binding never works, whatever is pressed.",
    example="""\
format = 1
name = "example"

[bind.files]
save = { press = "F2", where = "popup is suggestions and pane is files" }
""",
    mend="Write the condition anew; the part that contradicts the rest has to go.",
    check=check,
)
