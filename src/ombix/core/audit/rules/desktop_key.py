"""Keys that the desktop, or something of the user's own, takes, and that can be given back."""

from collections.abc import Iterator

from msgspec.structs import replace

from ombix.core.audit.fix_changes import move_away
from ombix.core.audit.model import AuditSubject, Finding, Rule, at
from ombix.core.audit.rules.system_key import kept_keys


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Bindings on keys that can be given back."""
    for binding, taken in kept_keys(subject, True):
        message = (
            f"{subject.show(binding.keys)} for {binding.outcome} may not arrive: {taken.by} uses it to {taken.does}"
        )
        found = RULE.finding(message, at(binding), binding.trigger, subject.states(binding))
        yield replace(found, changes=move_away(subject, binding))


RULE = Rule(
    name="desktop-key",
    severity="warning",
    what="The desktop of the workspace, the platform as it comes, or a chord that the workspace names as reserved, takes "
    "the keys; its settings, or the editor itself, can take them back.",
    why="As long as it keeps them, the editor does not see them.",
    example="""\
format = 1
name = "example"

[bind.view]
soft-wrap = "Alt+F8"
""",
    workspace='platform = "linux"\ndesktop = "gnome"',
    mend="Choose other keys, or take these away from the desktop in its settings.",
    check=check,
)
