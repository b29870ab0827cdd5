"""An action that loses work, one slip away from a key pressed all day."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at, is_own
from ombix.core.conditions import NEVER
from ombix.core.keymap import Binding
from ombix.core.keys import MODIFIERS, Chord, Trigger, write
from ombix.core.layouts import Seat, Stroke, as_typed

# Without a layout: the letter block of an ANSI keyboard, rows shifted by about half a key (ISO/IEC 9995-2).
_ROWS = ("1234567890", "qwertyuiop", "asdfghjkl;", "zxcvbnm,./")


def check(ground: Ground) -> Iterator[Finding]:
    """Dangerous actions on a neighbouring key, with one modifier more or less, or on a second press."""
    space = ground.space
    frequent: dict[Trigger, list[Binding]] = {}
    for trigger, table in ground.tables.items():
        found = [row.binding for row in table.rows if ground.is_frequent(row.binding.outcome)]
        if found:
            frequent[trigger] = found
    for name, bindings in ground.bound.items():
        action = ground.catalogue.actions.get(name)
        if action is None or action.risk != "loses work":
            continue
        for binding in bindings:
            for slip, how in _slips(binding.trigger, ground.seats[0] if ground.seats else None):
                for other in frequent.get(slip, ()):
                    both = space.both(ground.states(binding), ground.states(other))
                    if both != NEVER and (is_own(binding) or is_own(other)):
                        message = f"{write(binding.trigger)} for {name} is {how} {write(slip)} for {other.outcome}"
                        yield RULE.finding(message, at(binding, other), binding.trigger, both)


def _slips(trigger: Trigger, seat: Seat | None) -> Iterator[tuple[Trigger, str]]:
    """Triggers from which one slip leads to this one, and the slip."""
    *before, last = trigger
    start = tuple(before)
    for bit in MODIFIERS.values():
        changed = Chord(last.modifiers ^ bit, last.key)
        yield (*start, changed), "one modifier from"
    beside = _neighbours(last.key) if seat is None else _keys_beside(last, seat)
    for key in beside:
        yield (*start, Chord(last.modifiers, key)), "beside"
    if len(trigger) > 1 and trigger[-1] == trigger[-2]:
        yield trigger[:-1], "a second press of"


def _neighbours(key: str) -> Iterator[str]:
    for number, row in enumerate(_ROWS):
        place = row.find(key) if len(key) == 1 else -1
        if place < 0:
            continue
        for line, columns in (
            (number, (place - 1, place + 1)),
            (number - 1, (place, place + 1)),
            (number + 1, (place - 1, place)),
        ):
            if 0 <= line < len(_ROWS):
                yield from (_ROWS[line][column] for column in columns if 0 <= column < len(_ROWS[line]))


def _keys_beside(chord: Chord, seat: Seat) -> Iterator[str]:
    """The keys whose places touch that of a chord, as the layout writes them with the same modifiers."""
    for stroke in seat.strokes(chord)[:1]:
        for place in seat.keyboard.neighbours.get(stroke.place, ()):
            key = as_typed(Stroke(place, stroke.held), seat.layout).key
            if key:
                yield key


RULE = Rule(
    name="slip",
    severity="warning",
    what="An action that loses work is one slip away from a key that is pressed all day: on the key beside it, with one "
    "modifier more or less, or on a second press. Which keys are beside each other is told by the layout and the keyboard of "
    "the workspace; where it names none, by an ANSI keyboard.",
    why="Sooner or later it is pressed by mistake.",
    example="""\
format = 1
name = "example"

[bind.files]
save = "Ctrl+S"
revert = "Ctrl+Shift+S"
""",
    mend="Put the dangerous action on a sequence, or take its keys away.",
    check=check,
)
