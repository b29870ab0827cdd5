"""What is staged, audited before it is committed: every workspace of the repository that a staged file belongs to."""

from collections.abc import Iterator
from pathlib import Path

from ombix.core.audit import Finding
from ombix.core.errors import InputError, Place
from ombix.core.toml import Document
from ombix.files import workspace_file as workspaces
from ombix.files.disk import absolute
from ombix.work.audit.staged_answer import StagedReport, StagedWorkspace
from ombix.workspace import findings
from ombix.workspace.context import Opener, Source
from ombix.workspace.git_versions import STAGED, Repository, Texts
from ombix.workspace.resources import Resources
from ombix.workspace.what_if import WorkspaceWhatIf, new_findings


def audit_staged(repository: Repository, resources: Resources, severity: str = "error") -> StagedReport:
    """The findings of each workspace, from a severity on, that the last commit does not have. Raises InputError for a file that
    cannot be read, and where a merge is not finished."""
    staged = repository.texts(STAGED, [])
    last = repository.texts("HEAD", []) if repository.has_commits() else {}
    differing = {path for path in {*staged, *last} if staged.get(path) != last.get(path)}
    found: list[StagedWorkspace] = []
    for path, text in sorted(staged.items()):
        if Path(path).name == workspaces.FILE_NAME and text is not None:
            found += _audited(Path(path), staged, last, differing, resources, severity)
    return StagedReport(tuple(found))


def check_nothing_open(repository: Repository) -> None:
    """Raise InputError for the first staged keymap or workspace file in which a merge left something open, or that cannot be
    read."""
    for name, text in sorted(repository.texts(STAGED, []).items()):
        path = Path(name)
        is_own = path.name == workspaces.FILE_NAME or path.name.endswith(".keys.toml")
        if text is not None and is_own and "conflict" in Document(text, name).table:
            raise InputError("a merge left something open in this file", "Settle it first: ombix settle", Place(name))


def _audited(
    path: Path, staged: Texts, last: Texts, differing: set[str], resources: Resources, severity: str
) -> Iterator[StagedWorkspace]:
    after = _trial(path, staged, resources)
    files = {absolute(path), *(file for layer in _layers(after, path, staged) for file in layer)}
    if not files & differing:
        return
    rules = findings.choose_rules((), (), severity)
    before = _trial(path, last, resources) if last.get(str(path)) else None
    new: dict[tuple[str, str], tuple[Finding, str]] = {}
    count = 0
    for platform in after.platforms:
        now = after.findings(platform, rules)
        old: tuple[Finding, ...] = ()
        if before is not None:
            try:
                old = before.findings(platform, rules)
            except InputError:
                old = ()  # it could not be read then
        fresh = [
            *(one for one in now if one.rule == "conflict"),
            *(finding for finding in new_findings(old, now) if finding.rule != "conflict"),
        ]
        count += len(now) - len(fresh)
        for one in fresh:
            new.setdefault((one.rule, one.message), (one, platform))
    told = tuple(findings.in_words(one, after.subject(platform)) for one, platform in new.values())
    yield StagedWorkspace(absolute(path), after.platforms, told, count)


def _trial(path: Path, texts: Texts, resources: Resources) -> WorkspaceWhatIf:
    known = {Path(name): text for name, text in texts.items()}
    return WorkspaceWhatIf(Opener(path.parent, Source(path, "workspace"), resources), resources, known, proposes=False)


def _layers(trial: WorkspaceWhatIf, path: Path, staged: Texts) -> Iterator[list[str]]:
    """The files of the layers. Raises InputError for one that is not staged, though what is staged needs it."""
    for layer in trial.opener.layers():
        for file in layer.files:
            if staged.get(file) is None and Path(file).is_relative_to(path.parent):
                raise InputError(f"{Path(file).name} is needed, and is not in what is staged", "Stage it, too: git add")
        yield layer.files
