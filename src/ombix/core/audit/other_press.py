"""Keys that are pressed in another way on another layout of the workspace."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at
from ombix.core.keys import is_place, write


def check(ground: Ground) -> Iterator[Finding]:
    """Own bindings whose press, read from the keys, is not the same on all layouts."""
    if len(ground.seats) < 2:
        return
    first, *others = ground.seats
    for binding in ground.own:
        if any(map(is_place, binding.as_written)):  # a place is the same on every layout
            continue
        here = first.show(binding.trigger)
        for seat in others:
            there = seat.show(binding.trigger)
            if here == there:
                continue
            pressed = [isinstance(one.press_sequence(binding.trigger), list) for one in (first, seat)]
            if not any(pressed):
                continue
            parts = [
                f"{text} on the layout {one.layout.title}" if can else text
                for can, text, one in zip(pressed, (here, there), (first, seat), strict=True)
            ]
            message = f"{write(binding.trigger)} for {binding.outcome} is {parts[0]}, and {parts[1]}"
            if not all(pressed):
                message = f"{write(binding.trigger)} for {binding.outcome}: {parts[0]}, but {parts[1]}"
            yield RULE.finding(message, at(binding), binding.trigger, ground.states(binding))


RULE = Rule(
    name="other-press",
    severity="note",
    what="Keys are pressed in another way on another layout that the workspace lists, or cannot be pressed on one of them.",
    why="The hands have to learn the binding once for each keyboard.",
    example="""\
format = 1
name = "example"

[bind.comment]
toggle = "Ctrl+/"
""",
    workspace='layout = ["us", "de"]',
    mend="Choose a key that all layouts have on the same level, or a place on the keyboard, like [Slash].",
    check=check,
)
