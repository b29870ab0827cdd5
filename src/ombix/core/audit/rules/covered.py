"""A binding that can never fire, because others of its layer are in force wherever it applies."""

from collections.abc import Iterator

from msgspec.structs import replace

from ombix.core.audit.fix_changes import take_out
from ombix.core.audit.model import AuditSubject, Finding, Rule, at
from ombix.core.conditions import NEVER, States
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.outcomes import Nothing


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Bindings of a layer that stronger ones of that layer cover, one alone or several together."""
    space = subject.space
    for group in subject.groups:
        ordered = subject.policy.order(group, space, subject.catalogue)
        taken = NEVER
        for index, binding in enumerate(ordered):
            own = subject.states(binding)
            if own != NEVER and space.minus(own, taken) == NEVER:
                stronger = [one for one in ordered[:index] if space.both(subject.states(one), own) != NEVER]
                alone = [one for one in stronger if space.minus(own, subject.states(one)) == NEVER]
                by = alone[:1] or stronger
                if not any(one.outcome == binding.outcome for one in alone) and not _is_clash(subject, by, own):
                    message = f"{subject.show(binding.keys)} never runs {binding.outcome}: {_why(by)} wherever it does"
                    found = RULE.finding(message, at(binding, *by), binding.trigger, own)
                    yield replace(found, changes=take_out(binding))
            taken = space.either(taken, own)


def _why(by: list[Binding]) -> str:
    """What happens in its place."""
    if all(isinstance(one.outcome, Nothing) for one in by):
        return "the keys are taken away"
    names = " and ".join(dict.fromkeys(str(one.outcome) for one in by))
    return f"{names} applies" if len(by) == 1 else f"{names} together apply"


def _is_clash(subject: AuditSubject, by: list[Binding], own: States) -> bool:
    return len(by) == 1 and subject.states(by[0]) == own


RULE = Rule(
    name="covered",
    severity="warning",
    what="A binding can never fire: one other binding with the same keys, or several together, win in every state in "
    "which it applies.",
    why="The line looks as if it did something. Whoever reads the file believes in a key that does not work.",
    example="""\
format = 1
name = "example"

[bind.line]
delete = { press = "Ctrl+D", where = "pane is text and not readonly" }

[bind.tabs]
next = { press = "Ctrl+D", where = "pane is text" }
""",
    mend="Take the covered line out, or put it behind the wider one, or narrow the wider one's condition.",
    check=check,
)
