"""Keys that the layout or the keyboard does not have."""

from collections.abc import Iterator

from msgspec.structs import replace

from ombix.core.audit.fix_changes import move_away
from ombix.core.audit.model import AuditSubject, Finding, Rule, at
from ombix.core.keys.notation import is_mouse
from ombix.core.pressing.layouts import NotKnown


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Own bindings with a chord that no press produces on the layout at hand."""
    if not subject.setups:
        return
    setup = subject.setups[0]
    for binding in subject.own:
        for chord in binding.trigger:
            found = setup.presses(chord)
            if isinstance(found, str) and not isinstance(found, NotKnown) and not is_mouse(chord):
                message = f"{subject.show(binding.keys)} for {binding.outcome} cannot be pressed: {found}"
                finding = RULE.finding(message, at(binding), binding.trigger, subject.states(binding))
                yield replace(finding, changes=move_away(subject, binding))
                break


RULE = Rule(
    name="no-press",
    severity="error",
    what="The layout at hand has no such character, or the keyboard no such key.",
    why="Nobody can press it there.",
    example="""\
format = 1
name = "example"

[bind.view]
center = "Ctrl+ß"
""",
    workspace='layout = "us"',
    mend="Choose a key that every layout of the workspace has: a letter, a digit, a function key.",
    check=check,
)
