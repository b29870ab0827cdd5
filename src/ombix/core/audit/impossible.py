"""A condition that no state fulfils."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at, is_own
from ombix.core.conditions import NEVER
from ombix.core.keys import write


def check(ground: Ground) -> Iterator[Finding]:
    """Bindings whose condition is true in no possible state."""
    space = ground.space
    for table in ground.tables.values():
        for binding in table.losers:  # what can never be in force loses in every state
            if not is_own(binding) or binding.where == "always" or space.fulfillable(space.parse(binding.where)):
                continue
            message = f"{write(binding.trigger)} for {binding.outcome} can never be in force: {binding.where}"
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
