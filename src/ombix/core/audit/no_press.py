"""Keys that the layout or the keyboard does not have."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at
from ombix.core.keys import is_mouse, write


def check(ground: Ground) -> Iterator[Finding]:
    """Own bindings with a chord that no press produces on the layout at hand."""
    if not ground.seats:
        return
    seat = ground.seats[0]
    for binding in ground.own:
        for chord in binding.trigger:
            found = seat.presses(chord)
            if isinstance(found, str) and not is_mouse(chord):
                message = f"{write(binding.trigger)} for {binding.outcome} cannot be pressed: {found}"
                yield RULE.finding(message, at(binding), binding.trigger, ground.states(binding))
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
