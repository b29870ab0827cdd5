"""What keys cost the hands, on the keyboard at hand."""

from collections.abc import Sequence

from ombix.core.errors import InputError, did_you_mean
from ombix.core.keys.notation import Trigger, expand, write
from ombix.core.pressing.effort import HANDS, Effort, Effortful, Hands, KeyPress, effortful
from ombix.core.pressing.layouts import KeyboardSetup
from ombix.work.look.effort_answer import EffortReport, KeysEffort, PressReport
from ombix.work.look.what import read_keys
from ombix.workspace.resources import Resources


def hands_called(name: str) -> Hands:
    """The hands of a name. Raises InputError."""
    found = next((one for one in HANDS if one == name), None)
    if found is None:
        raise InputError(f"unknown hand: {name}", did_you_mean(name, HANDS) or f"Say {', '.join(HANDS)}.")
    return found


def report(keys: Sequence[str], setup: KeyboardSetup, hands: Hands, resources: Resources) -> EffortReport:
    """What each of the keys costs. Raises InputError."""
    reckoner = effortful(resources.shipped.effort(), setup, hands)
    triggers = [setup.platform.resolve(read_keys(key)[0]) for key in keys]
    members = [member for trigger in triggers for member, _values in expand(trigger)]
    return EffortReport(
        setup.layout.name, setup.keyboard.name, hands, tuple(_effort(member, reckoner, setup) for member in members)
    )


def _effort(trigger: Trigger, reckoner: Effortful, setup: KeyboardSetup) -> KeysEffort:
    found = reckoner.effort(trigger)
    keys, shown = write(trigger), setup.platform.show(trigger)
    if isinstance(found, str):
        return KeysEffort(keys, shown, None, None, (), str(found))
    presses = tuple(tuple(_press(one, setup) for one in chord) for chord in found.chords)
    return KeysEffort(keys, shown, round(found.seconds, 3), round(_times(found, reckoner), 2), presses)


def _times(found: Effort, reckoner: Effortful) -> float:
    return found.seconds / reckoner.least


def _press(one: KeyPress, setup: KeyboardSetup) -> PressReport:
    key = "mouse button" if one.place == "mouse" else setup.printed(one.place)
    side, _, kind = one.finger.partition("-")
    finger = f"{side} {kind}{' finger' * (kind != 'thumb')}" if kind else ""
    return PressReport(
        key, finger, round(one.distance, 2), one.moves, round(one.press, 3), round(one.way, 3), round(one.turn, 3)
    )
