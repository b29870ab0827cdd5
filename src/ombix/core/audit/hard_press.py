"""Keys that need a dead key, a third level or Fn."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at
from ombix.core.keys import ALTGR, write
from ombix.core.layouts import Press, Seat


def check(ground: Ground) -> Iterator[Finding]:
    """Own bindings whose easiest press on the layout at hand needs one of them."""
    if not ground.seats:
        return
    seat = ground.seats[0]
    for binding in ground.own:
        found = seat.press_sequence(binding.trigger)
        if isinstance(found, str):
            continue
        needs = [
            need
            for press, chord in zip(found, binding.trigger, strict=True)
            if not chord.modifiers & ALTGR and (need := _need(press, seat))
        ]
        if needs:
            message = (
                f"{write(binding.trigger)} for {binding.outcome} is {seat.show(binding.trigger)}: it needs {needs[0]}"
            )
            yield RULE.finding(message, at(binding), binding.trigger, ground.states(binding))


def _need(press: Press, seat: Seat) -> str:
    if press.first is not None or press.is_dead:
        return f"a dead key on the layout {seat.layout.title}"
    if press.third:
        return f"the third level of the layout {seat.layout.title}"
    return "Fn on this keyboard" if press.fn else ""


RULE = Rule(
    name="hard-press",
    severity="note",
    what="On the layout at hand the character is a dead key or on the third level, or the key is behind Fn.",
    why="It takes a finger more, some programs do not see a dead key, and AltGr beside other modifiers often does not "
    "arrive.",
    example="""\
format = 1
name = "example"

[bind.line]
indent = "Alt+}"
outdent = "Alt+{"
""",
    workspace='layout = "de"',
    mend="Choose a key of the first level, or the place instead of the character, like [BracketLeft].",
    check=check,
)
