"""What stands in editors' own files, and what was written into them."""

from typing import Literal, NamedTuple

from ombix.core.errors import Place
from ombix.core.porting.everyday import Answer
from ombix.work.carry.prove_answer import ProofReport

Standing = Literal[
    "up to date", "behind", "edited by hand", "missing", "not chosen", "not applied", "elsewhere", "unreadable"
]
"""Of an editor's file: it has the keymap as it is; as it was; as somebody else has changed it; it was applied and is gone; the
editor is set to read another one; it was never applied; it belongs to another platform; it cannot be read."""


class HandEdit(NamedTuple):
    """A binding that somebody else put into an applied file, changed or took out: what the keys did when it was written, and what
    they do now (empty: nothing of this file's)."""

    keys: str
    section: str
    was: str
    now: str
    is_inside: bool
    """Whether it stands in what Ombix writes, and would be written over."""


class ChangedDefault(NamedTuple):
    """A default key that is another in the version of the editor that is described now."""

    keys: str
    section: str
    was: str
    now: str


class EditorStanding(NamedTuple):
    """Where an editor of the workspace stands: its file, the version that is described and that the workspace names, what was
    changed by hand, and which defaults are others than when it was written."""

    editor: str
    dialect: str
    file: Place
    standing: Standing
    way: str
    applied: str
    """When it was written last (ISO 8601); empty where it was not."""
    version: str
    other_version: str
    """The version that the workspace names, where the description is not for it."""
    edits: tuple[HandEdit, ...]
    defaults: tuple[ChangedDefault, ...]
    reason: str = ""


class StatusReport(NamedTuple):
    """Where all editors of the workspace stand, on this machine, or on the `machine` of the workspace that was asked about."""

    platform: str
    editors: tuple[EditorStanding, ...]
    machine: str = ""


class Applied(NamedTuple):
    """What `apply` did, or would do, for an editor. `needs`: why nothing was written: an answer is needed, or edits by hand are
    in the way. `lines`: the lines of the file that go (`- `) and come (`+ `). `lost`: keys of the file before that no longer do
    what they did; `adopted`: what was taken into the keymap; `gone`: what stood in the file, is not understood, and is written
    over."""

    editor: str
    file: Place
    did: Literal["written", "removed", "unchanged", "refused", "elsewhere"]
    way: str
    first: bool
    counts: dict[str, int]
    checked: int
    edits: tuple[HandEdit, ...]
    defaults: tuple[ChangedDefault, ...]
    lost: tuple[str, ...]
    adopted: tuple[str, ...]
    needs: str = ""
    gone: tuple[str, ...] = ()
    lines: tuple[str, ...] = ()
    answers: tuple[tuple[Answer, int], ...] = ()
    """How many keys work, work with a difference, need care and are gone."""


class ApplyReport(NamedTuple):
    """What became of each editor; and where the files were pressed, what that showed."""

    editors: tuple[Applied, ...]
    proofs: tuple[ProofReport, ...] = ()
