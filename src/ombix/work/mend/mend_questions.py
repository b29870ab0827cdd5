"""What mends findings: each a function of an opened workspace."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ombix.work.mend.settle import SettledFile, Settling
    from ombix.work.mend.settle_answer import SettleReport
    from ombix.workspace.open_workspace import OpenWorkspace


def settling(
    workspace: OpenWorkspace, *, rules: Sequence[str] = (), without: Sequence[str] = (), severity: str = "note",
    editor: str = "", on: str = "", why: str = "",
) -> Settling:  # fmt: skip
    """What settles the findings of the rules named (none: of all that a change can mend), from a severity on; `why` is the
    reason with which a finding may be accepted."""
    from ombix.work.mend.fixes import SettleScope
    from ombix.work.mend.settle import Settling
    from ombix.workspace import findings
    from ombix.workspace.what_if import TOLD_BY_ITSELF

    chosen = tuple(
        rule
        for rule in findings.choose_rules(rules, without, severity, workspace.severities())
        if rules or rule.name != TOLD_BY_ITSELF
    )
    platform = workspace.opener.platform(on, workspace.opener.editor(editor) if editor else None).name
    return Settling(workspace.editing(), SettleScope(chosen, platform, editor, why))


def write_settled(workspace: OpenWorkspace, settled: SettledFile, dry_run: bool = False) -> SettleReport:
    """Write what was settled, as one change that can be taken back."""
    from ombix.work.mend import settle

    return settle.write_settled(settled, workspace.editing(), workspace.writer(), dry_run)


def draft_plan(workspace: OpenWorkspace, settled: SettledFile, plan: str, dry_run: bool = False) -> SettleReport:
    """Write a plan of what was chosen, to be reviewed; the keymap stays as it is."""
    from pathlib import Path

    from ombix.core.errors import Place
    from ombix.files.disk import absolute
    from ombix.work.mend import settle, settle_plans

    found = settle.report(settled, workspace.editing())
    text = settle_plans.plan_text(found, Path(found.file.file).name, plan)
    (path,) = workspace.write(f"draft {plan}", {plan: text}, dry_run)
    return found._replace(plan=Place(absolute(path)))
