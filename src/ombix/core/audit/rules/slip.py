"""An action that loses work, closes or quits, one slip away from a key pressed all day."""

from collections.abc import Iterator

from msgspec.structs import replace

from ombix.core.audit.fix_changes import move_away
from ombix.core.audit.model import AuditSubject, Finding, Rule, at, is_own
from ombix.core.conditions import NEVER
from ombix.core.keymap.bindings import Binding
from ombix.core.keys.notation import MODIFIERS, Chord, Trigger
from ombix.core.pressing.effort import Effortful
from ombix.core.pressing.layouts import KeyboardSetup, Stroke, as_typed


def check(subject: AuditSubject) -> Iterator[Finding]:
    """What loses work, closes or quits on a neighbouring key, with one modifier more or less, or on a second press."""
    space = subject.space
    frequent: dict[Trigger, list[Binding]] = {}
    for trigger, table in subject.tables.items():
        found = [row.binding for row in table.rows if subject.is_frequent(row.binding.outcome)]
        if found:
            frequent[trigger] = found
    setup = subject.setups[0] if subject.setups else subject.usual_setup
    for name, bindings in subject.bound.items():
        action = subject.catalogue.actions.get(name)
        if action is None or action.risk == "none":
            continue
        for binding in bindings:
            for near, how, further in _slips(binding.trigger, setup, subject.effortful):
                for other in frequent.get(near, ()):
                    both = space.both(subject.states(binding), subject.states(other))
                    if both != NEVER and (is_own(binding) or is_own(other)):
                        keys, others = subject.show(binding.keys), subject.show(other.keys)
                        message = f"{keys} for {name} is {how} {others} for {other.outcome}{further}"
                        mend = _IN_A_SEQUENCE if len(binding.trigger) > 1 else ""
                        finding = RULE.finding(message, at(binding, other), binding.trigger, both, mend)
                        yield replace(finding, changes=move_away(subject, binding if is_own(binding) else other))


_IN_A_SEQUENCE = "Give it other keys, further away from those, or take its keys away."


def _slips(
    trigger: Trigger, setup: KeyboardSetup | None, effortful: Effortful | None
) -> Iterator[tuple[Trigger, str, str]]:
    """Triggers from which one slip leads to this one, the slip, and how much more or less there is to press, in words."""
    *before, last = trigger
    start = tuple(before)
    for bit in MODIFIERS.values():
        meant = (*start, Chord(last.modifiers ^ bit, last.key))
        more = _more(meant, trigger, effortful)
        if effortful is None or more is None:
            yield meant, "one modifier from", ""
        elif more <= effortful.one_more:
            yield meant, "one modifier from", f": {abs(more):.2f} s {'more' if more > 0 else 'less'} to press"
    for key in _keys_beside(last, setup) if setup is not None else ():
        yield (*start, Chord(last.modifiers, key)), "beside", ""
    if len(trigger) > 1 and trigger[-1] == trigger[-2]:
        yield trigger[:-1], "a second press of", ""


def _more(meant: Trigger, slipped: Trigger, effortful: Effortful | None) -> float | None:
    """Seconds that other keys take more than those that were meant; None where one of them cannot be pressed."""
    one = effortful.effort(meant) if effortful is not None else ""
    other = effortful.effort(slipped) if effortful is not None else ""
    return None if isinstance(one, str) or isinstance(other, str) else other.seconds - one.seconds


def _keys_beside(chord: Chord, setup: KeyboardSetup) -> Iterator[str]:
    """The keys whose places touch that of a chord, as the layout writes them with the same modifiers."""
    for stroke in setup.strokes(chord)[:1]:
        for place in setup.keyboard.neighbours(stroke.place):
            key = as_typed(Stroke(place, stroke.held), setup.layout).key
            if key:
                yield key


RULE = Rule(
    name="slip",
    severity="warning",
    what="An action that loses work, closes or quits is one slip away from a key that is pressed all day: on the key beside "
    "it, on a second press, or with one modifier more or less, as long as the arm can rest for it (see ombix effort). Which keys "
    "are beside each other is told by the layout and the keyboard of the workspace; where it names none, by an ANSI keyboard "
    "with the US layout.",
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
