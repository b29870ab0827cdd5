"""What became of keymaps in other editors."""

from typing import Literal, NamedTuple

from ombix.core.errors import Place
from ombix.core.porting.everyday import Answer, DifferenceKind, EverydayExample


class SectionOutcome(NamedTuple):
    """What an editor's default keys did in one of its sections; `is_frequent`: all day long."""

    section: str
    action: str
    title: str
    is_frequent: bool = False


class ClearedKeys(NamedTuple):
    """Keys of the target's defaults that had to go, so that others do not wait, or are reached."""

    keys: str
    section: str
    action: str


class EverydayCount(NamedTuple):
    """How often one press, or the one behind it, shows a difference: a probability, with its interval (95 %), in that of the models
    of everyday work in which it is worst; and what that changes at worst."""

    share: float
    low: float
    high: float
    kind: DifferenceKind
    model: str


class Nearest(NamedTuple):
    """What comes nearest to something that an editor does not have, with its keys there."""

    action: str
    title: str
    keys: tuple[str, ...]


class PortedBinding(NamedTuple):
    """What became of one binding. `says`: what shows in everyday use, in sentences; `everyday`: how often that is, where it is done
    to a text; `is_compared`: whether what the commands do is known. Of keys that are gone, `now` is what they do in the
    target, and `nearest` what comes nearest."""

    keys: str
    action: str
    where: str
    verdict: Literal["exact", "adapted", "lost"]
    how: str
    written: tuple[str, ...]
    target_keys: str | None
    other_target_keys: str | None
    displaced: tuple[SectionOutcome, ...]
    cleared: tuple[ClearedKeys, ...]
    title: str
    answer: Answer
    says: tuple[str, ...] = ()
    everyday: EverydayCount | None = None
    example: EverydayExample | None = None
    is_compared: bool = True
    now: str = ""
    nearest: Nearest | None = None
    is_frequent: bool = False


class RehomedDefault(NamedTuple):
    """A default of the target that lost its only keys, and the free ones that it got."""

    action: str
    old: str
    new: str
    sections: tuple[str, ...]


class KeysTogether(NamedTuple):
    """Keys that are exact each, and are not one after the other: as they are pressed in the target, and how they differ."""

    keys: tuple[str, ...]
    how: str


class KeptLine(NamedTuple):
    """A line of the source's file that binds nothing, or was not understood, and is not carried over."""

    place: Place
    text: str
    reason: str


class PortReport(NamedTuple):
    """A port to one editor. `file` is where it is written, or would be."""

    source: str
    target: str
    file: Place
    counts: dict[str, int]
    """How many bindings have which verdict."""
    answers: dict[Answer, int]
    """How many have which answer."""
    decisions_compared: int
    rehomed: tuple[RehomedDefault, ...]
    bindings: tuple[PortedBinding, ...]
    together: tuple[KeysTogether, ...] = ()
    not_carried: tuple[KeptLine, ...] = ()
    remarks: tuple[str, ...] = ()
    """What should be known of the editors."""
