"""What pressing ported keys in an editor showed."""

from typing import Literal, NamedTuple


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
    """What pressing the ported keys in an editor showed. `sandbox` says what the editor was shut in by."""

    editor: str
    title: str
    version: str
    simulated: bool
    sandbox: str
    source: str
    counts: dict[str, int]
    exact_that_differ: int
    keys: tuple[PressedKeys, ...]
