"""What becomes of one binding in the sections of the target, while it is placed in one after the other."""

from typing import NamedTuple

from msgspec import Struct

from ombix.core.conditions import States
from ombix.core.keymap.outcomes import Outcome
from ombix.core.keys.notation import Trigger
from ombix.core.porting.everyday import EverydayDifference
from ombix.core.porting.verdicts import Judgement, PortDifference


class PlacedKeys(NamedTuple):
    """The keys of a binding in the target: as they are written, where they stand (what arrives alike stands in one place), and
    as they are pressed in the source; and whether the target can bind them."""

    trigger: Trigger
    place: Trigger
    pressed: Trigger
    bindable: bool


class Placements(Struct):
    """What was written and what the target does by itself, by section; why it is nowhere else; and what differs."""

    written: dict[str, tuple[Outcome, States]] = {}
    kept: list[str] = []
    """Sections in which nothing has to be written."""
    kept_states: dict[str, States] = {}
    held_states: list[States] = []
    displaced: list[tuple[str, Outcome]] = []
    """Defaults that the keys had there, by section."""
    commands: dict[str, str] = {}
    """What is written, by section."""
    runs: dict[str, str] = {}
    """What the target runs by itself, by section."""
    differs: list[PortDifference] = []
    judged: dict[str, Judgement] = {}
    """How what is done to a text differs, by section."""
    careful: list[EverydayDifference] = []
    """What commands do that were not written, as they mostly do something else, or can lose text."""
    reasons: dict[str, str] = {}
    """Why it is nowhere else, each also in short ("": where the target just has no command)."""
    without_command: list[str] = []
    """Sections in which the target has no command for it."""

    def keep(self, section: str, states: States, command: str, said: PortDifference | None, judged: Judgement) -> None:
        """Note that the target does it there by itself, by a command; `said`: how its states differ, where they do."""
        self.kept.append(section)
        self.kept_states[section] = states
        self.held_states.append(states)
        self.runs[section] = command
        self.judged[section] = judged
        self.differs += [said] if said is not None else []
