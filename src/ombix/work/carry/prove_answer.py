"""What pressing ported keys in an editor showed."""

from typing import Literal, NamedTuple

from ombix.core.porting.everyday import Answer

Works = Literal["works", "with a difference", "something else", "not compared"]
"""Whether pressed keys did what was wanted: at all places where people stand; at some, or with a difference that the port tells,
in what is no text; or something else; or it is not known."""


class PressedKeys(NamedTuple):
    """What pressing keys showed. `expected` and `found` are texts, with a marker where the cursor was. `works`: whether they did
    what was wanted, at how many of the everyday `places`."""

    keys: str
    action: str
    verdict: Literal["exact", "adapted"]
    how: str
    result: Literal["agrees", "reached", "differs", "not checked"]
    """`agrees`: what was wanted was seen. `reached`: the keys run the command that was written for them, and whether what it does
    is what was wanted was not compared."""
    reason: str
    texts: int
    expected: str
    found: str
    in_source: Literal["agrees", "reached", "differs", "not checked", "not pressed"] = "not pressed"
    """What pressing the binding's own keys in the editor that it comes from showed."""
    source_reason: str = ""
    """Why it could not be checked there."""
    differs_otherwise: bool = False
    """Whether it differs otherwise than its verdict says."""
    title: str = ""
    answer: Answer = "works"
    """What the port says of them."""
    says: tuple[str, ...] = ()
    works: Works = "not compared"
    places: int = 0
    as_wanted: int = 0


class PressedSource(NamedTuple):
    """The editor that a port comes from, where its keys were pressed there as well."""

    title: str
    version: str


class ProofReport(NamedTuple):
    """What pressing the ported keys in an editor showed. `sandbox` says what the editor was shut in by."""

    editor: str
    title: str
    version: str
    simulated: bool
    sandbox: str
    source: str
    against: PressedSource | None
    counts: dict[str, int]
    exact_that_differ: int
    adapted_that_differ_otherwise: int
    """Of the adapted ones that differ, those that do so otherwise than their verdicts say."""
    keys: tuple[PressedKeys, ...]
    works: dict[Works, int]
    """How many keys did what was wanted."""
    do_not_work: int
    """Of the keys of which the port says that they work, those that did not."""
