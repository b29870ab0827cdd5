"""What was read from files, written to them, or is known of editors and layouts."""

from typing import Literal, NamedTuple

from ombix.core.errors import Place
from ombix.core.results.auditing import FoundFault


class AdoptedLine(NamedTuple):
    """What became of one statement of an editor's file; `other` is the place that `became` goes on with, if it names one.

    `bound`: keys are bound by it; `kept`: it is carried along as it is; `fault`: it looks like a mistake.
    """

    place: Place
    written: str
    became: str
    bound: bool
    kept: bool
    fault: bool
    other: Place | None


class Adoption(NamedTuple):
    """An editor's file that was read as a layer."""

    editor: str
    file: Place
    layer: str
    bindings: int
    kept: int
    lines: tuple[AdoptedLine, ...]
    written: tuple[Place, ...]


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


class UndoReport(NamedTuple):
    """A change that was taken back: what had made it, and its files; or one that was only forgotten. `kept_later`: what was changed
    since in the same files was kept."""

    command: str
    files: tuple[Place, ...]
    skipped: bool = False
    kept_later: bool = False


class PastChange(NamedTuple):
    """A change that can be taken back: a name for it, when it was made (ISO 8601), what made it, its files, and how each would be
    taken back: as they were, with what was changed since kept, or not, for that collides."""

    name: str
    made: str
    command: str
    files: tuple[Place, ...]
    undo: Literal["restore", "merge", "collides"]


class History(NamedTuple):
    """The newest of the changes that can be taken back; `known` is how many there are."""

    known: int
    changes: tuple[PastChange, ...]


class BroughtThing(NamedTuple):
    """One thing that an installed package brings: what it is (`editor`, `form of files`, `rule` or `report`), its name, the package
    with its version, the module, and why it is not used (empty: it is)."""

    kind: str
    name: str
    package: str
    module: str
    fault: str


class PackagesReport(NamedTuple):
    """What installed packages bring."""

    things: tuple[BroughtThing, ...]


class TrustReport(NamedTuple):
    """What a description of an editor would start, where it has `apply` write, its files, and whether its user trusts it as it
    is now."""

    folder: Place
    title: str
    command: tuple[str, ...]
    environment: dict[str, str]
    files: tuple[str, ...]
    is_trusted: Literal["trusted", "changed", "new"]
    writes: tuple[str, ...] = ()


class FoldedBinding(NamedTuple):
    """A binding of a folded keymap, and the platforms that it is for (none named: all)."""

    does: str
    keys: str
    when: str
    platforms: tuple[str, ...]


class FoldReport(NamedTuple):
    """Keymaps of several platforms as one. `definitions` and `exceptions` are counts."""

    file: Place
    definitions: int
    exceptions: int
    bindings: tuple[FoldedBinding, ...]


class KnownCommand(NamedTuple):
    """An editor's command: the action that it is, or what it does that no other editor has."""

    action: str | None
    only: str | None
    differs: str | None


class DefaultKey(NamedTuple):
    """A default key of an editor."""

    keys: str
    does: str
    when: str


class EditorAbilities(NamedTuple):
    """An editor: what its file can express, and how it decides."""

    name: str
    title: str
    version: str
    file: str
    format: str
    usual: tuple[str, ...]
    sections: dict[str, str]
    chords: int
    longest_sequence: int
    documented_commands: int
    mapped_commands: int
    default_keys: int
    installed: bool
    simulated: bool
    can_tell: tuple[str, ...]
    wins: str
    prefix: str
    wait_ms: int
    known_from: tuple[str, ...]
    notes: tuple[str, ...]
    commands: dict[str, KnownCommand]
    keys: tuple[DefaultKey, ...]


class EditorList(NamedTuple):
    """The editors that Ombix knows."""

    editors: tuple[EditorAbilities, ...]


class DescriptionTest(NamedTuple):
    """One test of a description: what was tested, on how much, and what is wrong."""

    title: str
    tested: int
    faults: tuple[str, ...]


class DescriptionReport(NamedTuple):
    """The tests of a description of an editor."""

    name: str
    title: str
    version: str
    checks: tuple[DescriptionTest, ...]

    @property
    def faults(self) -> int:
        """How many faults there are in all."""
        return sum(len(one.faults) for one in self.checks)


class ProposedAction(NamedTuple):
    """An action that a command may stand for, and how well it fits (0 to 100)."""

    action: str
    title: str
    score: float


class CommandProposal(NamedTuple):
    """A command of a draft: what is said of it, the action that is written (empty: none is sure), and what it may be."""

    command: str
    said: str
    action: str
    candidates: tuple[ProposedAction, ...]


class StateProposal(NamedTuple):
    """A word of a draft's conditions, or a section: what it means, or may mean (empty: not known)."""

    word: str
    means: str
    may_mean: str


class DraftReport(NamedTuple):
    """A description that was drafted: the form of the files, how many bindings the samples and the default keys have, the
    commands, the words for states, the editor's words for modifiers, how many named keys are known, what is missing, and the
    tests of the draft."""

    name: str
    folder: Place
    form: str
    patterns: tuple[str, ...]
    bindings: int
    default_keys: int
    commands: tuple[CommandProposal, ...]
    states: tuple[StateProposal, ...]
    modifiers: dict[str, str]
    named_keys: int
    missing: tuple[str, ...]
    checks: tuple[DescriptionTest, ...]
    written: tuple[Place, ...]

    @property
    def faults(self) -> int:
        """How many faults the tests found."""
        return sum(len(one.faults) for one in self.checks)


class LayoutKeys(NamedTuple):
    """A keyboard layout with what is on each place of the keyboard, by level."""

    name: str
    title: str
    shape: str
    altgr: bool
    source: str
    keys: dict[str, tuple[str, ...]]


class LayoutName(NamedTuple):
    """A layout that Ombix knows."""

    name: str
    title: str
    shape: str
    altgr: bool


class KnownHardware(NamedTuple):
    """The layouts, keyboards, terminals, desktops and platforms that Ombix knows."""

    layouts: tuple[LayoutName, ...]
    keyboards: tuple[str, ...]
    terminals: tuple[str, ...]
    desktops: tuple[str, ...]
    platforms: tuple[str, ...]


class FoundFile(NamedTuple):
    """An editor's key file on this machine."""

    editor: str
    file: Place
    bindings: int
    faults: int


class StartReport(NamedTuple):
    """A workspace that was started."""

    written: tuple[Place, ...]
    found: tuple[FoundFile, ...]
    adopted: tuple[str, ...]
    next_steps: tuple[str, ...]


class Overview(NamedTuple):
    """Where things stand in a workspace."""

    workspace: Place
    keymap: Place
    bindings: int
    layers: tuple[str, ...]
    editors: dict[str, str]
    """Name to the editor that it is."""
    findings: dict[str, int]
    """Severity to how many there are."""
    next_steps: tuple[str, ...]
