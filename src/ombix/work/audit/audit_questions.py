"""What is wrong: the questions, each a function of an opened workspace."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ombix.work.audit import audit_questions
from ombix.workspace.edit_options import AuditOptions

if TYPE_CHECKING:
    from pathlib import Path

    from ombix.work.audit.overview_answer import Overview
    from ombix.work.audit.staged_answer import StagedReport
    from ombix.workspace.findings_answer import AuditReport, FoundFault, RuleExplanation
    from ombix.workspace.open_workspace import OpenWorkspace


def audit(
    workspace: OpenWorkspace, *, rules: Sequence[str] = (), without: Sequence[str] = (), severity: str = "note", editor: str = "",
    on: str = "", layout: str = "", options: AuditOptions | None = None,
) -> AuditReport:  # fmt: skip
    """The findings of the rules named (none: of all), without some, from a severity on; with `options`, only those that are
    new, or with the lines that would mend them."""
    from ombix.core.gc_pause import no_garbage_collection
    from ombix.workspace import findings

    with no_garbage_collection():
        chosen = findings.choose_rules(rules, without, severity, workspace.severities())
        here = workspace.keymap(editor, on, layout, tells_faults=False)
        found = findings.find(here, workspace.workspace_editors(), workspace.resources, chosen)
        workspace.resources.tables.keep()
        workspace_file = here.context.workspace
        report = findings.report(found, here.context.about)._replace(
            machine=workspace_file.at if workspace_file else ""
        )
        if workspace_file is not None and not (editor or on or layout):
            # Where one machine was asked about, the workspace has no other.
            for name, machine in workspace_file.machines.items():
                if machine.platform not in ("", report.platform):
                    there = workspace.on_machine(name)
                    more = findings.find(
                        there.keymap(tells_faults=False), there.workspace_editors(), there.resources, chosen
                    )
                    found, report = findings.joined(found, report, more, name)
    if options is None:
        return report
    from ombix.work.audit import baseline
    from ombix.workspace.git_versions import texts_at

    def at_version(version: str) -> Sequence[FoundFault]:
        before = workspace.with_texts(texts_at(workspace.opener, workspace.files(), version))
        return audit_questions.audit(before, rules=report.rules, editor=editor, on=on, layout=layout).findings

    return baseline.wished(
        report, found, options, baseline.Beside(workspace.read, at_version, workspace.opener, workspace.resources)
    )


def overview(workspace: OpenWorkspace) -> Overview:
    """Where things stand in the workspace_file."""
    from ombix.work.audit.overview import overview

    return overview(workspace.opener.needed_workspace(), workspace.keymap(tells_faults=False), audit(workspace))


def write_baseline(workspace: OpenWorkspace, report: AuditReport, file: str, dry_run: bool = False) -> list[Path]:
    """Write the findings of a report to a file, as those that are known."""
    from ombix.work.audit import baseline

    return workspace.write(f"baseline {file}", {file: baseline.baseline_text(report)}, dry_run)


def rules(workspace: OpenWorkspace, *names: str) -> tuple[RuleExplanation, ...]:
    """What the rules named (none: all) find, why that matters, and what mends it."""
    from ombix.workspace import findings

    return tuple(map(findings.explanation, findings.choose_rules(names)))


def audit_staged(workspace: OpenWorkspace, severity: str = "error") -> StagedReport:
    """What is wrong with what is staged in the repository of the folder of the call, and was not in the last commit."""
    from ombix.work.audit.staged_files import audit_staged
    from ombix.workspace.git_versions import Repository

    return audit_staged(Repository(workspace.opener.folder), workspace.resources, severity)


def check_nothing_open(workspace: OpenWorkspace) -> None:
    """Raise InputError where a merge left something open in what is staged."""
    from ombix.work.audit.staged_files import check_nothing_open
    from ombix.workspace.git_versions import Repository

    check_nothing_open(Repository(workspace.opener.folder))
