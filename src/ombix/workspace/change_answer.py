"""What a change to a keymap did, and what it brings about."""

from typing import NamedTuple

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


class PlatformFinding(NamedTuple):
    """A finding, and the platforms that it is one of."""

    finding: FoundFault
    platforms: tuple[str, ...]


class Consequences(NamedTuple):
    """What a change brings about: what keys did before, what stops working, what it newly is found wrong with, and what is
    mended by it; what keys do then that is no part of the change, like a default that comes back; and what others on the same
    keys would lose by it."""

    did: tuple[DidBefore, ...] = ()
    stops: tuple[StopsWorking, ...] = ()
    new: tuple[PlatformFinding, ...] = ()
    mended: tuple[PlatformFinding, ...] = ()
    comes: tuple[DidBefore, ...] = ()
    takes: tuple[DidBefore, ...] = ()

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
