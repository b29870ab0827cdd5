"""A condition that excludes what the action needs."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at
from ombix.core.keymap import Do
from ombix.core.keys import write


def check(ground: Ground) -> Iterator[Finding]:
    """Bindings whose condition is possible, but never together with what the action needs."""
    space = ground.space
    for binding in ground.own:
        action = ground.catalogue.actions.get(binding.outcome.action) if isinstance(binding.outcome, Do) else None
        if action is None or action.needs == "always" or binding.where == "always":
            continue
        states, needs = space.parse(binding.where), space.parse(action.needs)
        if not space.overlap(states, needs) and space.fulfillable(states):
            message = f"{write(binding.trigger)}: {action.name} needs {action.needs}, but is bound for {binding.where}"
            yield RULE.finding(message, at(binding), binding.trigger, states)


RULE = Rule(
    name="unfit",
    severity="warning",
    what="An action is bound only for states in which it cannot do anything.",
    why="The key is taken, and pressing it has no effect.",
    example="""\
format = 1
name = "example"

[bind.line]
delete = { press = "F4", where = "pane is files" }
""",
    mend="Change the condition, or bind the action that is meant there.",
    check=check,
)
