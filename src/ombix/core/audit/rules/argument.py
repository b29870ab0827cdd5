"""An action that is bound without an argument that it has to be told, or with a wrong one."""

import re
from collections.abc import Iterator

from ombix.core.actions import COUNT, Action
from ombix.core.audit.model import AuditSubject, Finding, Rule, Spot, at
from ombix.core.outcomes import Do

_SHAPES = {"number": re.compile(r"[1-9][0-9]*"), "name": re.compile(r"\w+"), "text": re.compile(r"(?s).+")}
_TAKES = {"number": "a number from 1 on", "name": "a word of letters and digits", "text": "a text"}


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Own bindings, and steps of own macros, with an argument missing or of another kind."""
    for binding in subject.own:
        action = subject.action_of(binding.outcome)
        if action is None or not isinstance(binding.outcome, Do):
            continue
        if action.arguments or binding.outcome.arguments:
            for fault in faults(action, binding.outcome):
                message = f"{subject.show(binding.keys)}: {fault}"
                yield RULE.finding(message, at(binding), binding.trigger, subject.states(binding))
    for layer in subject.own_layers:
        for macro in layer.macros.values():
            for step in macro.steps:
                action = subject.catalogue.actions.get(step.action) if isinstance(step, Do) else None
                for fault in faults(action, step) if action is not None and isinstance(step, Do) else ():
                    yield RULE.finding(f"the macro {macro.name}: {fault}", (Spot(macro.place, macro.name),))


def faults(action: Action, outcome: Do) -> Iterator[str]:
    """What is wrong with the arguments of an action."""
    given = dict(outcome.arguments)
    for name, kind in {**action.arguments, COUNT: "number"}.items():
        if name not in given:
            if name != COUNT:
                yield f"{action.name} has to be told its {name}"
        elif not _SHAPES[kind].fullmatch(given[name]):
            yield f"the {name} of {action.name} is {_TAKES[kind]}, not {given[name] or 'nothing'}"


RULE = Rule(
    name="argument",
    severity="error",
    what="An action has to be told something, like the number of a place mark, and is not; or it is told what it cannot take.",
    why="The key does nothing, or something else than was meant.",
    example="""\
format = 1
name = "example"

[bind.bookmark]
set = "Alt+F8"
""",
    mend='Write it behind the keys: { press = "Space k {n:1-5}", with = { slot = "{n}" } }.',
    check=check,
)
