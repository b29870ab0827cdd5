"""How it is laid out what is wrong with what is staged: `git audit`."""

from ombix.report.blocks import Blank, Block, line
from ombix.report.terminal_text import Display
from ombix.work.audit.audit_layout import finding_blocks
from ombix.work.audit.staged_answer import StagedReport


def staged_report(found: StagedReport, display: Display) -> list[Block]:
    """The new findings of each workspace."""
    blocks: list[Block] = []
    for one in found.workspaces:
        for each in one.findings:
            blocks += [*finding_blocks(each, display), Blank()]
        known = f", and {one.known} that the last commit has, too" if one.known else ""
        noun = "new finding" if len(one.findings) == 1 else "new findings"
        blocks.append(line(f"{display.path(one.workspace)}: {len(one.findings)} {noun}{known}"))
    return blocks or [line("No workspace is touched by what is staged.")]
