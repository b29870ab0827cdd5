"""What became of keymaps in other editors."""

from typing import Literal, NamedTuple

from ombix.core.errors import Place


class SectionOutcome(NamedTuple):
    """What an editor's default keys did in one of its sections."""

    section: str
    action: str


class ClearedKeys(NamedTuple):
    """Keys of the target's defaults that had to go, so that others do not wait, or are reached."""

    keys: str
    section: str
    action: str


class PortedBinding(NamedTuple):
    """What became of one binding."""

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
    decisions_compared: int
    rehomed: tuple[RehomedDefault, ...]
    bindings: tuple[PortedBinding, ...]
    together: tuple[KeysTogether, ...] = ()
    not_carried: tuple[KeptLine, ...] = ()
    remarks: tuple[str, ...] = ()
    """What should be known of the editors."""
