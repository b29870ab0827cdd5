"""An action that is bound without an argument that it has to be told, or with a wrong one."""

from collections.abc import Iterator

from ombix.core.audit.model import AuditSubject, Finding, Rule, Spot, at
from ombix.core.catalogue.actions import Action
from ombix.core.keymap.outcomes import Do
from ombix.core.snippets.macro_steps import every_step


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Own bindings, and steps of own macros, with an argument missing or of another kind."""
    for binding in subject.own:
        action = subject.action_of(binding.outcome)
        if action is None or not isinstance(binding.outcome, Do):
            continue
        if action.arguments or binding.outcome.arguments:
            for fault in action.faults(dict(binding.outcome.arguments)):
                message = f"{subject.show(binding.keys)}: {fault}"
                yield RULE.finding(message, at(binding), binding.trigger, subject.states(binding), _mend(action))
    for layer in subject.own_layers:
        for macro in layer.macros.values():
            for step in every_step(macro.steps):
                action = subject.catalogue.actions.get(step.action) if isinstance(step, Do) else None
                if action is None or not isinstance(step, Do):
                    continue
                for fault in action.faults(dict(step.arguments)):
                    yield RULE.finding(
                        f"the macro {macro.name}: {fault}", (Spot(macro.place, macro.name),), mend=_mend(action)
                    )


def _mend(action: Action) -> str:
    """What to write; nothing of its own where only the count is wrong."""
    said = action.told_like()
    return f"Write it behind the keys: {said}; the variable of a family is written {{n}}." if said else ""


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
    mend='Write it behind the keys: with = { slot = "a" }; the variable of a family is written {n}.',
    check=check,
)
