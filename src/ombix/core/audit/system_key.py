"""Keys that the system takes for itself and does not give back."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at
from ombix.core.keymap import Binding
from ombix.core.keys import write
from ombix.core.platforms import Reserved


def kept_keys(ground: Ground, can_be_given_back: bool) -> Iterator[tuple[Binding, Reserved]]:
    """Own bindings with a chord that does not reach an editor, each with the first thing that keeps it."""
    if not ground.reserved:
        return
    by_chord = {ground.settled(ground.platform.resolve((one.chord,)))[0]: one for one in ground.reserved}
    for binding in ground.own:
        taken = next((by_chord[chord] for chord in binding.trigger if chord in by_chord), None)
        if taken is not None and taken.can_be_given_back == can_be_given_back:
            yield binding, taken


def check(ground: Ground) -> Iterator[Finding]:
    """Bindings on keys that cannot be given back."""
    for binding, taken in kept_keys(ground, False):
        message = f"{write(binding.trigger)} for {binding.outcome} does not arrive: {taken.by} uses it to {taken.does}"
        yield RULE.finding(message, at(binding), binding.trigger, ground.states(binding))


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
