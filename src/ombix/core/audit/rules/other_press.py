"""Keys that are pressed in another way on another layout of the workspace."""

from collections.abc import Iterator

from ombix.core.audit.model import AuditSubject, Finding, Rule, at
from ombix.core.keys.notation import is_place
from ombix.core.pressing.layouts import KeyboardSetup, NotKnown, PhysicalPress, Stroke


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Own bindings whose press is not the same on all layouts: other keys go down, or none can."""
    if len(subject.setups) < 2:
        return
    first, *others = subject.setups
    for binding in subject.own:
        if any(map(is_place, binding.as_written)):  # a place is the same on every layout
            continue
        here = first.press_sequence(binding.trigger)
        for setup in others:
            there = setup.press_sequence(binding.trigger)
            if not _differ(here, first, there, setup):
                continue
            parts = [
                f"{one.show(binding.trigger)} on the layout {one.layout.title}" if isinstance(found, list) else found
                for found, one in ((here, first), (there, setup))
            ]
            keys = f"{subject.show(binding.keys)} for {binding.outcome}"
            can = isinstance(here, list) and isinstance(there, list)
            message = f"{keys} is {parts[0]}, and {parts[1]}" if can else f"{keys}: {parts[0]}, but {parts[1]}"
            yield RULE.finding(message, at(binding), binding.trigger, subject.states(binding))


def _differ(
    here: list[PhysicalPress] | str, first: KeyboardSetup, there: list[PhysicalPress] | str, second: KeyboardSetup
) -> bool:
    """Whether one is pressed in another way than the other, as it is read from the keys."""
    if isinstance(here, NotKnown) or isinstance(there, NotKnown):
        return False
    if isinstance(here, str) or isinstance(there, str):
        return isinstance(here, list) or isinstance(there, list)
    return [_as_read(one, first) for one in here] != [_as_read(one, second) for one in there]


def _as_read(press: PhysicalPress, setup: KeyboardSetup) -> tuple[object, ...]:
    """A key that writes is found by what is printed on it, another one by its place, whatever is printed there."""

    def key(stroke: Stroke) -> tuple[str, int]:
        writes = stroke.place in setup.layout.keys and not press.is_borrowed
        return (setup.printed(stroke.place) if writes else stroke.place), stroke.held

    return key(press.stroke), press.first and key(press.first), press.fn


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
