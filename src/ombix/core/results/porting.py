"""What became of keymaps in other editors, and what pressing their keys showed."""

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


class PortReport(NamedTuple):
    """A port to one editor. `file` is where it is written, or would be."""

    source: str
    target: str
    file: Place
    counts: dict[str, int]
    decisions_compared: int
    rehomed: tuple[RehomedDefault, ...]
    bindings: tuple[PortedBinding, ...]


class PressedKeys(NamedTuple):
    """What pressing keys showed. `expected` and `found` are texts, with a marker where the cursor was."""

    keys: str
    action: str
    verdict: Literal["exact", "adapted"]
    how: str
    result: Literal["agrees", "differs", "not checked"]
    reason: str
    texts: int
    expected: str
    found: str


class ProofReport(NamedTuple):
    """What pressing the ported keys in an editor showed."""

    editor: str
    title: str
    version: str
    simulated: bool
    source: str
    counts: dict[str, int]
    exact_that_differ: int
    keys: tuple[PressedKeys, ...]


class KeyDifference(NamedTuple):
    """In these states keys do one thing in the first, and another in the second (None: they are not bound)."""

    keys: str
    shown: str
    first: str | None
    second: str | None
    when: str
    example: dict[str, str]


class WaitingKeys(NamedTuple):
    """In these states keys do the same in both, but in one they wait for what may follow."""

    keys: str
    shown: str
    action: str
    when: str
    waits: str


class ComparisonReport(NamedTuple):
    """Two keymaps or editors, decision by decision. `same`: how many keys do the same in every state."""

    first: str
    second: str
    platform: str
    platform_title: str
    same: int
    differences: tuple[KeyDifference, ...]
    waits: tuple[WaitingKeys, ...]


class StageStep(NamedTuple):
    """One thing that pressing keys on the stage led to, and the state behind it."""

    keys: str
    kind: Literal["runs", "types", "waits", "nothing"]
    does: str
    because: str
    text: str
    cursor: int
    selection: tuple[int, int]
    facts: dict[str, str]


class StagePress(NamedTuple):
    """One key that was pressed, or one pause, and what came of it."""

    pressed: str
    steps: tuple[StageStep, ...]


class StageReport(NamedTuple):
    """Keys pressed on the stage, one by one. `waits` are keys that still wait for more at the end."""

    editor: str
    platform: str
    platform_title: str
    presses: tuple[StagePress, ...]
    waits: str | None
    start_text: str
    start_cursor: int
    start_facts: dict[str, str]
    text: str
    cursor: int
    selection: tuple[int, int]
