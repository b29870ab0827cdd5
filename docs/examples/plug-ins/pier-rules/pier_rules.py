"""Frequent actions on function keys: the tablets on the bridge have none."""

import re
from collections.abc import Iterator

from ombix.core.audit import AuditSubject, Finding, Rule
from ombix.core.audit.model import at, is_own


def check(subject: AuditSubject) -> Iterator[Finding]:
    """The user's own bindings of frequent actions that take a function key."""
    for binding in subject.bindings:
        if not is_own(binding) or not subject.is_frequent(binding.outcome):
            continue
        if any(re.fullmatch("F[0-9]+", chord.key) for chord in binding.trigger):
            message = f"{subject.show(binding.trigger)} for {binding.outcome} takes a function key"
            yield RULE.finding(message, at(binding), binding.trigger, subject.states(binding))


RULE = Rule(
    name="no-function-keys",
    severity="warning",
    what="An action of every day takes a function key.",
    why="The tablets on the bridge have no function keys.",
    example="""\
format = 1
name = "example"

[bind.files]
save = "F2"
""",
    mend="Give it a chord of letters.",
    check=check,
)
