"""Keys that the system takes for itself and does not give back."""

from collections.abc import Iterator

from msgspec.structs import replace

from ombix.core.audit.fix_changes import move_away
from ombix.core.audit.model import AuditSubject, Finding, Rule, at
from ombix.core.keymap.bindings import Binding
from ombix.core.keys.platforms import Reserved


def kept_keys(subject: AuditSubject, can_be_given_back: bool) -> Iterator[tuple[Binding, Reserved]]:
    """Own bindings with a chord that does not reach an editor, each with the first thing that keeps it."""
    if not subject.reserved:
        return
    by_chord = {subject.settled(subject.platform.resolve((one.chord,)))[0]: one for one in subject.reserved}
    for binding in subject.own:
        taken = next((by_chord[chord] for chord in binding.trigger if chord in by_chord), None)
        if taken is not None and taken.can_be_given_back == can_be_given_back:
            yield binding, taken


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Bindings on keys that cannot be given back."""
    for binding, taken in kept_keys(subject, False):
        message = (
            f"{subject.show(binding.keys)} for {binding.outcome} does not arrive: {taken.by} uses it to {taken.does}"
        )
        found = RULE.finding(message, at(binding), binding.trigger, subject.states(binding))
        yield replace(found, changes=move_away(subject, binding))


RULE = Rule(
    name="system-key",
    severity="error",
    what="The platform keeps a chord for itself, and there is no way to give it back.",
    why="The editor never sees it.",
    example="""\
format = 1
name = "example"

[bind.view]
center = "Meta+L"
""",
    workspace='platform = "windows"',
    mend="Choose other keys, on this platform at least.",
    check=check,
)
