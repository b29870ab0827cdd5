"""How it is laid out what is wrong with what is staged: `git audit`."""

from ombix.report.blocks import Blank, Block, line
from ombix.report.terminal_text import Display
from ombix.work.audit.audit_layout import finding_blocks
from ombix.work.audit.staged_answer import StagedReport


def staged_report(found: StagedReport, display: Display) -> list[Block]:
    """The new findings of each workspace."""
    blocks: list[Block] = []
    for workspace in found.workspaces:
        for finding in workspace.findings:
            blocks += [*finding_blocks(finding, display), Blank()]
        known = f", and {workspace.known} that the last commit has, too" if workspace.known else ""
        noun = "new finding" if len(workspace.findings) == 1 else "new findings"
        blocks.append(line(f"{display.path(workspace.workspace)}: {len(workspace.findings)} {noun}{known}"))
    return blocks or [line("No workspace is touched by what is staged.")]
