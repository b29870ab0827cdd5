"""A workspace as it would be with other texts of its files: what happens then, and what is wrong then."""

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from functools import cached_property
from pathlib import Path

from ombix.core.audit import AuditSubject, Finding, Rule, all_rules, audit
from ombix.core.gc_pause import no_garbage_collection
from ombix.core.keys.notation import Trigger
from ombix.files.workspace_file import WorkspaceEditor
from ombix.workspace import findings
from ombix.workspace.context import Opener, platforms_of
from ombix.workspace.effective_keymap import EffectiveKeymap
from ombix.workspace.resources import Resources


class WorkspaceWhatIf:
    """A workspace with `texts` in place of some of its files, looked at in an editor where one is named. All that does not
    depend on the texts is shared."""

    def __init__(
        self,
        opener: Opener,
        resources: Resources,
        texts: Mapping[Path, str | None],
        editor: str = "",
        proposes: bool = True,
    ) -> None:
        self._editor = editor
        self._proposes = proposes
        self.resources = resources.with_texts(texts)
        self.opener = opener.opened_with(self.resources)
        self._subjects: dict[str, AuditSubject] = {}
        self._findings: dict[tuple[str, tuple[str, ...]], tuple[Finding, ...]] = {}
        self._here: dict[str, EffectiveKeymap] = {}

    @cached_property
    def platforms(self) -> tuple[str, ...]:
        """The platforms that the workspace speaks of."""
        workspace = self.opener.workspace()
        layers = self.opener.layers(lenient=True) if workspace is not None else ()
        return platforms_of(workspace, self.resources, layers)

    @cached_property
    def editors(self) -> list[WorkspaceEditor]:
        """The editors of the workspace."""
        workspace = self.opener.workspace()
        return [self.opener.editor(name) for name in (workspace.editors if workspace is not None else ())]

    def keymap(self, platform: str) -> EffectiveKeymap:
        """The keymap as it would be in force on a platform."""
        if platform not in self._here:
            self._here[platform] = EffectiveKeymap(
                self.opener.context(self._editor, platform, "", lenient=True), self.resources
            )
        return self._here[platform]

    def subject(self, platform: str) -> AuditSubject:
        """What would be audited on a platform."""
        if platform not in self._subjects:
            found = findings.subject_of(self.keymap(platform), self.editors, self.resources)
            found.proposes = self._proposes
            self._subjects[platform] = found
        return self._subjects[platform]

    def findings(self, platform: str, rules: Sequence[Rule] = ()) -> tuple[Finding, ...]:
        """What would be wrong on a platform, by these rules (none: by all)."""
        chosen = list(rules) or list(all_rules().values())
        key = (platform, tuple(one.name for one in chosen))
        if key not in self._findings:
            with no_garbage_collection():
                self._findings[key] = tuple(audit(self.subject(platform), chosen))
        return self._findings[key]


TOLD_BY_ITSELF = "not-in-editor"
"""The rule whose findings are no fault of a change: what an editor makes of what is bound is told for itself."""


def new_findings(before: Sequence[Finding], after: Sequence[Finding]) -> Iterator[Finding]:
    """The findings that were not there before: of no such rule about these keys, or not about all of these; nor about the same
    things on the keys that they had then."""
    before, after = ([one for one in some if one.rule != TOLD_BY_ITSELF] for some in (before, after))
    known: dict[str, list[tuple[set[Trigger], set[str]]]] = {}
    alike = Counter((one.rule, _texts(one)) for one in before)
    for one in before:
        known.setdefault(one.rule, []).append((set(one.keys), set(_texts(one))))
    rest = []
    for one in after:
        keys, texts = set(one.keys), set(_texts(one))
        if any(keys <= more_keys and texts <= more_texts for more_keys, more_texts in known.get(one.rule, ())):
            alike[one.rule, _texts(one)] -= 1
        else:
            rest.append(one)
    for one in rest:  # what was moved takes its findings along
        alike[one.rule, _texts(one)] -= 1
        if alike[one.rule, _texts(one)] < 0:
            yield one


def gone_findings(before: Sequence[Finding], after: Sequence[Finding]) -> Iterator[Finding]:
    """The findings that are no longer there: nothing is left of them, on their keys or on others."""
    for finding in new_findings(after, before):
        if not any(is_same(finding, other) for other in after):
            yield finding


def is_same(one: Finding, other: Finding) -> bool:
    """Whether two findings are about the same: by one rule, about some of the same keys, or where there are none, places."""
    if one.rule != other.rule:
        return False
    if one.keys or other.keys:
        alike = {spot.text for spot in one.spots} & {spot.text for spot in other.spots}
        return bool(set(one.keys) & set(other.keys)) and (bool(alike) or not other.spots)
    return {spot.text for spot in one.spots} == {spot.text for spot in other.spots}


def _texts(one: Finding) -> frozenset[str]:
    return frozenset(spot.text for spot in one.spots)
