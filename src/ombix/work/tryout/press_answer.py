"""What came of keys that were pressed on the stage."""

from typing import Literal, NamedTuple


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
    beside: tuple[str, ...] = ()
    """What it changed beside the text and the facts, in words."""


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
    folded: tuple[tuple[int, int], ...] = ()
    """The lines that are folded away in the end, from 1: the first and the last of each fold."""
    cursors: tuple[int, ...] = ()
    """The offsets of further cursors in the end."""
