"""What an audit has to say."""

from collections.abc import Mapping
from typing import Literal, NamedTuple

from ombix.core.errors import Place


class FindingSpot(NamedTuple):
    """A place that a finding is about, and what stands there."""

    place: Place
    text: str


class FindingWinner(NamedTuple):
    """What wins when several apply, in these states."""

    when: str
    does: str
    place: Place
    beats: tuple[str, ...]


class FindingRows(NamedTuple):
    """Many alike things as a table."""

    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


class FindingChange(NamedTuple):
    """A change that would mend it: its kind, and what it does in words."""

    change: str
    does: str


class FindingFix(NamedTuple):
    """A change that mends it, as lines of the file: those from `place` to its end are replaced by `text`."""

    does: str
    place: Place
    text: str


class FoundFault(NamedTuple):
    """One finding; see `ombix.core.audit.Finding`. `when` is empty where it holds in every state.

    `fingerprint` is the same as long as the finding is about the same keys and entries, wherever they stand; of many alike things
    each row has one of its own. `fix` is there where it was asked for.
    """

    rule: str
    severity: Literal["error", "warning", "note"]
    keys: tuple[str, ...]
    message: str
    when: str
    example: dict[str, str] | None
    places: tuple[FindingSpot, ...]
    winners: tuple[FindingWinner, ...]
    table: FindingRows | None
    mend: str
    changes: tuple[FindingChange, ...]
    fingerprint: str = ""
    row_fingerprints: tuple[str, ...] = ()
    fix: FindingFix | None = None
    titles: Mapping[str, str] = {}
    """What people call the actions and macros that are named in it."""


class AuditReport(NamedTuple):
    """The findings of some rules in a keymap on a platform. `bindings` is how many are in force."""

    platform: str
    platform_title: str
    rules: tuple[str, ...]
    bindings: int
    findings: tuple[FoundFault, ...]
    about: str = ""
    left_out: int = 0
    """Findings that a baseline knows, or an earlier version had."""
    machine: str = ""
    """The machine of the workspace that was looked at; empty for none."""
    machines: tuple[str, ...] = ()
    """Machines of other platforms that were looked at as well; what is wrong only there says so in its message."""


class RuleExplanation(NamedTuple):
    """A rule: what it finds, why that matters, an example keymap with lines of a workspace that it needs, what mends it."""

    rule: str
    severity: Literal["error", "warning", "note"]
    what: str
    why: str
    example: str
    workspace: str
    compares_editors: bool
    fires: bool
    """Whether the example needs an editor that does not wait for more keys."""
    mend: str
