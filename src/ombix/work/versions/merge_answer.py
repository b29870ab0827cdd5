"""What became of two sides' changes to one file."""

from typing import Literal, NamedTuple

from ombix.workspace.change_answer import PlatformFinding


class MergedChange(NamedTuple):
    """What a side changed: `before` and `after` are texts of values; empty where there was or is none."""

    what: str
    side: Literal["ours", "theirs", "both"]
    did: Literal["added", "changed", "removed"]
    before: str
    after: str


class OpenConflict(NamedTuple):
    """What both sides changed, each otherwise, or the keys that both gave something to do. `kept` is what stands in the file;
    `when` and `example` are the states in which it matters (empty: all)."""

    what: str
    why: str
    base: str
    ours: str
    theirs: str
    kept: str
    when: str
    example: dict[str, str] | None


class UnforeseenKeys(NamedTuple):
    """Keys that do in these states what they do on neither side, or not what the only side that changed them has (None:
    nothing)."""

    keys: str
    when: str
    base: str | None
    ours: str | None
    theirs: str | None
    merged: str | None


class MergeReport(NamedTuple):
    """A merge. `by` is meaning, or lines where a file could not be read; `written` is where the result went (empty: nowhere)."""

    file: str
    by: Literal["meaning", "lines"]
    remarks: tuple[str, ...]
    changes: tuple[MergedChange, ...]
    conflicts: tuple[OpenConflict, ...]
    unforeseen: tuple[UnforeseenKeys, ...]
    findings: tuple[PlatformFinding, ...]
    written: str = ""
