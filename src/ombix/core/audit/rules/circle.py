"""Macros that play each other in a circle."""

from collections.abc import Iterator

from ombix.core.audit.macro_keys import always_plays
from ombix.core.audit.model import AuditSubject, Finding, Rule, Spot
from ombix.core.snippets.macro_steps import circles, played


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Circles among macros, through steps that play others and through keys that they press."""
    macros = subject.keymap.macros
    plays = {
        name: list(dict.fromkeys([*played(one.steps), *always_plays(one.steps, subject)]))
        for name, one in macros.items()
    }
    own = {name: layer for layer in subject.own_layers for name in layer.macros}
    for circle in circles(plays):
        inside = [name for name in circle if name in own]
        if inside:
            way = " plays ".join((*circle, circle[0]))
            spots = tuple(Spot(macros[name].place, name) for name in inside)
            yield RULE.finding(f"macros go round in a circle: {way}", spots)


RULE = Rule(
    name="circle",
    severity="error",
    what="A macro plays itself, at once or through others, or presses the keys that run it.",
    why="It would never come to its end. Ombix does none of it.",
    example="""\
format = 1
name = "example"

[macro.twice]
press = "Alt+F7"
steps = [{ do = "line.copy-down" }, { press = "Alt+F7" }]
""",
    mend="Say how often with repeat, or until when with until.",
    check=check,
)
