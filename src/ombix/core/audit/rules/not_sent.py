"""Keys that a terminal cannot send."""

from collections.abc import Iterator

from msgspec.structs import replace

from ombix.core.audit.fix_changes import move_away
from ombix.core.audit.model import AuditSubject, Finding, Rule, at
from ombix.core.pressing.terminals import in_terminal


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Own bindings that do not arrive in an editor of the workspace that runs in a terminal."""
    for names, terminal in subject.terminals_by_kind():
        platform = in_terminal(subject.platform, terminal)
        for binding in subject.own:
            keys = platform.resolve(binding.keys)
            sent = terminal.send(keys)
            if isinstance(sent, str):
                message = f"{subject.show(keys)} for {binding.outcome} does not arrive in {names}: {sent}"
                found = RULE.finding(message, at(binding), binding.trigger, subject.states(binding))
                yield replace(found, changes=move_away(subject, binding))


RULE = Rule(
    name="not-sent",
    severity="error",
    what="An editor of the workspace runs in a terminal, and the terminal has no bytes for the keys.",
    why="The editor there never sees them.",
    example="""\
format = 1
name = "example"

[bind.comment]
toggle = "Ctrl+;"
""",
    workspace='[editor.pier]\ndialect = "nano"\nterminal = "xterm"',
    mend="Choose keys that the terminal sends, or a terminal that numbers all keys.",
    check=check,
)
