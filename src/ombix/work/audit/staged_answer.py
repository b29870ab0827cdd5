"""What is wrong with what is staged."""

from typing import NamedTuple

from ombix.workspace.findings_answer import FoundFault


class StagedWorkspace(NamedTuple):
    """A workspace as it is staged: the findings that the last commit does not have, and how many that has, too."""

    workspace: str
    platforms: tuple[str, ...]
    findings: tuple[FoundFault, ...]
    known: int


class StagedReport(NamedTuple):
    """What is wrong with what is staged, and was not before."""

    workspaces: tuple[StagedWorkspace, ...]
