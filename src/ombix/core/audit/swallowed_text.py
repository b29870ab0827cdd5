"""A binding that takes the keys with which a character is typed."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at
from ombix.core.conditions import NEVER
from ombix.core.keys import ALTGR, SHIFT, write
from ombix.core.layouts import DEAD_MARKS, Seat, Stroke


def check(ground: Ground) -> Iterator[Finding]:
    """Own bindings whose first press is the third level of a layout of the workspace, while text is typed."""
    typing = ground.typing
    for seat in ground.seats:
        if not seat.layout.has_altgr:
            continue
        for binding in ground.own:
            chord = binding.trigger[0]
            if not chord.modifiers & ~SHIFT:
                continue
            text = next((text for stroke in seat.strokes(chord) if (text := _text(stroke, seat))), "")
            if not text or text == chord.key:
                continue
            both = ground.space.both(ground.states(binding), typing)
            if both != NEVER:
                message = (
                    f"{write(binding.trigger)} for {binding.outcome} takes the keys that type {text} on the layout "
                    f"{seat.layout.title}"
                )
                yield RULE.finding(message, at(binding), binding.trigger, both)


def _text(stroke: Stroke, seat: Seat) -> str:
    """What a stroke types with the third level; an empty text where it is not one that types."""
    third = seat.platform.third_level
    if stroke.held & ~SHIFT != third:
        return ""
    symbol = seat.layout.symbol(Stroke(stroke.place, ALTGR | stroke.held & SHIFT))
    if symbol in DEAD_MARKS:
        return DEAD_MARKS[symbol][0] or symbol.removeprefix("dead_")
    levels = seat.layout.keys.get(stroke.place, ())
    return symbol if len(symbol) == 1 and symbol not in levels[:2] else ""


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
