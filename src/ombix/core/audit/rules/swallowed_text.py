"""A binding that takes the keys with which a character is typed."""

from collections.abc import Iterator

from msgspec.structs import replace

from ombix.core.audit.fix_changes import move_away
from ombix.core.audit.model import AuditSubject, Finding, Rule, at
from ombix.core.conditions import NEVER
from ombix.core.keys.notation import SHIFT


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Own bindings whose first press is the third level of a layout of the workspace, while text is typed."""
    for setup in subject.setups:
        if not setup.layout.has_altgr:
            continue
        for binding in subject.own:
            chord = binding.trigger[0]
            if not chord.modifiers & ~SHIFT:
                continue
            text = setup.swallowed(chord)
            if not text:
                continue
            both = subject.space.both(subject.states(binding), subject.space.changing)
            if both != NEVER:
                message = (
                    f"{subject.show(binding.keys)} for {binding.outcome} takes the keys that type {text} on the layout "
                    f"{setup.layout.title}"
                )
                found = RULE.finding(message, at(binding), binding.trigger, both)
                yield replace(found, changes=move_away(subject, binding))


RULE = Rule(
    name="swallowed-text",
    severity="warning",
    what="On Windows AltGr is Ctrl+Alt, on a Mac it is Option: the keys of a binding are those with which a layout of the "
    "workspace types a character.",
    why="That character can no longer be typed.",
    example="""\
format = 1
name = "example"

[bind.edit]
delete-word-left = "Ctrl+Alt+Q"
""",
    workspace='platform = "windows"\nlayout = "de"',
    mend="Choose other keys, or a condition that excludes the states in which text is typed.",
    check=check,
)
