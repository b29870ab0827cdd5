"""A condition that no state fulfils."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at
from ombix.core.conditions import ALWAYS, NEVER
from ombix.core.keys import write


def check(ground: Ground) -> Iterator[Finding]:
    """Bindings whose condition is true in no possible state."""
    for binding in ground.own:
        if binding.where != "always" and not ground.space.overlap(ground.space.parse(binding.where), ALWAYS):
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
