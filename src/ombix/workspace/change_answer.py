"""What a change to a keymap did, and what it brings about."""

from collections.abc import Mapping
from typing import Literal, NamedTuple

from ombix.core.errors import Place
from ombix.workspace.findings_answer import FoundFault


class EditReport(NamedTuple):
    """One change to a file: the entry that was written (empty: one was taken out), and the one that stood there."""

    does: str
    after: str
    before: str


class DidBefore(NamedTuple):
    """What keys did before a change, in the keymap or as an editor's default, and in which states no longer do; `shown` are the
    keys as the platform's users write them, where there is one platform."""

    keys: str
    shown: str
    editor: str
    does: str
    when: str


class StopsWorking(NamedTuple):
    """What no keys run any more, in the keymap or in an editor."""

    editor: str
    does: str


class EndedSequences(NamedTuple):
    """Keys of an editor that begin with keys of a change, and no longer run what they ran: how many, and what, what is used most
    first."""

    editor: str
    keys: str
    shown: str
    number: int
    does: tuple[str, ...]


class InEditor(NamedTuple):
    """Whether an editor can have what a change binds: it `works`, does it `otherwise` (then `how` says in which way), or is
    `missing` there (`how` says why; `moved` are the keys that it has there instead, `nearest` the action that comes nearest)."""

    editor: str
    keys: str
    does: str
    verdict: Literal["works", "otherwise", "missing"]
    how: str = ""
    moved: tuple[str, ...] = ()
    nearest: str = ""
    arrives: str = ""
    """The other keys that these arrive as there; empty where they arrive as themselves."""


class PlatformFinding(NamedTuple):
    """A finding, and the platforms that it is one of."""

    finding: FoundFault
    platforms: tuple[str, ...]


class Consequences(NamedTuple):
    """What a change brings about: what keys did before, what stops working, what it newly is found wrong with, and what is
    mended by it; what keys do then that is no part of the change, like a default that comes back; what others on the same keys
    would lose by it; and in each editor of the workspace, whether it can have what is bound, and which of its own sequences end."""

    did: tuple[DidBefore, ...] = ()
    stops: tuple[StopsWorking, ...] = ()
    new: tuple[PlatformFinding, ...] = ()
    mended: tuple[PlatformFinding, ...] = ()
    comes: tuple[DidBefore, ...] = ()
    takes: tuple[DidBefore, ...] = ()
    in_editors: tuple[InEditor, ...] = ()
    ends: tuple[EndedSequences, ...] = ()
    strands: tuple[StopsWorking, ...] = ()
    """Saving, or leaving, of which an editor has no key any more."""
    titles: Mapping[str, str] = {}
    """What people call the actions and macros that are named in it."""

    @property
    def arriving(self) -> tuple[InEditor, ...]:
        """Where in no editor the keys arrive as themselves: what they arrive as in each."""
        return self.in_editors if all(one.arrives for one in self.in_editors) else ()

    @property
    def errors(self) -> tuple[PlatformFinding, ...]:
        """The new findings that are errors."""
        return tuple(one for one in self.new if one.finding.severity == "error")


class ChangeReport(NamedTuple):
    """Changes to a file, and what they bring about that should be known. `refused`: they were not written, for new errors or for
    what they would take from others."""

    file: Place
    edits: tuple[EditReport, ...]
    remarks: tuple[str, ...]
    consequences: Consequences = Consequences()
    refused: bool = False
