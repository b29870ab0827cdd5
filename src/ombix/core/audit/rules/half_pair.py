"""One of two opposites has keys, the other has none."""

from collections.abc import Iterator

from msgspec.structs import replace

from ombix.core.audit.fix_changes import give_keys
from ombix.core.audit.model import AuditSubject, Finding, Rule, at, is_own


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Actions whose opposite, which has them as its own opposite, is not bound."""
    for name, bindings in subject.bound.items():
        action = subject.catalogue.actions.get(name)
        own = [binding for binding in bindings if is_own(binding)]
        if action is None or not own or action.inverse in (None, name) or action.inverse in subject.bound:
            continue
        inverse = subject.catalogue.actions[str(action.inverse)]
        if inverse.inverse == name:
            message = f"{name} has keys, and its opposite {inverse.name} has none"
            found = RULE.finding(message, at(own[0]), own[0].trigger)
            yield replace(found, changes=give_keys(subject, inverse.name, own[0].keys))


RULE = Rule(
    name="half-pair",
    severity="note",
    what="An action is bound, and the action that is its opposite is not.",
    why="Whoever goes too far has to find another way back.",
    example="""\
format = 1
name = "example"

[bind.line]
move-up = "Alt+PageUp"
""",
    mend="Bind the opposite as well, near the first.",
    check=check,
)
