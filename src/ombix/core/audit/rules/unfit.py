"""A condition that excludes what the action needs."""

from collections.abc import Iterator

from ombix.core.audit.model import AuditSubject, Finding, Rule, at


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Bindings whose condition is possible, but in none of whose states the action can do anything."""
    space = subject.space
    for binding in subject.own:
        action = subject.action_of(binding.outcome) if binding.where != "always" else None
        fits = (action.fits or action.needs) if action is not None else "always"
        if action is None or fits == "always":
            continue
        states = space.parse(binding.where, binding.scope)
        if not space.overlap(states, space.parse(fits)) and space.fulfillable(states):
            message = f"{subject.show(binding.keys)}: {action.name} needs {fits}, but is bound for {binding.where}"
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
