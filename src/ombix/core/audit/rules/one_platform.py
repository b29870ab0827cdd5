"""Actions that have keys on one platform and none on another."""

from collections.abc import Iterator

from ombix.core.audit.model import AuditSubject, Finding, Rule, at
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.outcomes import Do


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Actions of the own layers that are bound on some platforms only."""
    found: dict[str, list[Binding]] = {}
    for layer in subject.own_layers:
        for binding in layer.bindings:
            if binding.platforms and isinstance(binding.outcome, Do):
                found.setdefault(binding.outcome.action, []).append(binding)
    bound = {
        platform.name: {str(binding.outcome) for binding in subject.keymap.in_force(platform).bindings}
        for platform in subject.platforms
        if found
    }
    for action, bindings in found.items():
        outcomes = {str(binding.outcome) for binding in bindings}
        have = [platform for platform in subject.platforms if bound[platform.name] & outcomes]
        lack = [platform for platform in subject.platforms if not bound[platform.name] & outcomes]
        if have and lack:
            has, has_not = (" and ".join(platform.title for platform in side) for side in (have, lack))
            message = f"{action} has keys on {has} and none on {has_not}"
            yield RULE.finding(message, at(bindings[0]), bindings[0].trigger)


RULE = Rule(
    name="one-platform",
    severity="note",
    what="An action has keys on one platform, and none on another.",
    why="On the other machine the hand finds nothing there.",
    example="""\
format = 1
name = "example"

[bind.view]
soft-wrap = { linux = "Alt+W" }
""",
    workspace='platform = "linux"',
    mend="Write press for all platforms and name only the exceptions.",
    check=check,
)
