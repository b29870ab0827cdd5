"""Keys that a terminal cannot send."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at
from ombix.core.keys import write


def check(ground: Ground) -> Iterator[Finding]:
    """Own bindings that do not arrive in an editor of the workspace that runs in a terminal."""
    for names, terminal in ground.terminals_by_kind():
        for binding in ground.own:
            sent = terminal.send(binding.trigger)
            if isinstance(sent, str):
                message = f"{write(binding.trigger)} for {binding.outcome} does not arrive in {names}: {sent}"
                yield RULE.finding(message, at(binding), binding.trigger, ground.states(binding))


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
