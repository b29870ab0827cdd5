"""Ways out of what a merge left open in the workspace file: as it stands, or as either side had it."""

from collections.abc import Iterator, Sequence
from functools import cached_property

from ombix.core.audit import Finding
from ombix.core.audit.fix_costs import CostedFix
from ombix.core.keymap.bindings import Unsettled
from ombix.core.keymap.changes import KeymapChange
from ombix.files import editing as text_editing
from ombix.files.disk import absolute
from ombix.work.mend.fixes import FixSearch


class WorkspaceWaysOut(FixSearch):
    """The same as in a keymap file, for the workspace file: only what a merge left open is settled there."""

    def with_text(self, text: str) -> FixSearch:
        """The same in another text."""
        return WorkspaceWaysOut(self._editing, self.file._replace(text=text), self.of)

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """What is open."""
        here = absolute(self.file.path)
        found = self.trial.findings(self.of.platform, self.of.rules)
        return tuple(
            one for one in found if one.rule == "conflict" and any(spot.place.file == here for spot in one.spots)
        )

    @property
    def unsettled(self) -> Sequence[Unsettled]:
        """What a merge left open in the file."""
        workspace = self.trial.opener.workspace()
        return workspace.unsettled if workspace is not None else ()

    def after(self, changes: Sequence[KeymapChange]) -> str:
        """The text with changes. Raises OmbixError where they cannot be made."""
        return text_editing.apply(self.file.text, changes).text

    def candidates(self, finding: Finding, many: bool = False) -> Iterator[CostedFix]:
        """The ways that may do, not tried yet."""
        yield from self._settled(finding)
