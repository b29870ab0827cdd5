"""Where things stand in a workspace, and what to do next."""

from ombix.core.audit import SEVERITIES
from ombix.core.errors import Place
from ombix.files.disk import absolute
from ombix.files.workspace_file import WorkspaceFile
from ombix.work.audit.overview_answer import Overview
from ombix.workspace.effective_keymap import EffectiveKeymap
from ombix.workspace.findings_answer import AuditReport


def overview(workspace: WorkspaceFile, here: EffectiveKeymap, report: AuditReport) -> Overview:
    """Where things stand: the keymap of a workspace, and what an audit found in it."""
    counts: dict[str, int] = dict.fromkeys(SEVERITIES, 0)
    for finding in report.findings:
        counts[finding.severity] += 1
    own = here.keymap.layers[-1]
    return Overview(
        Place(absolute(workspace.path)), Place(absolute(workspace.keymap_path)), len(own.bindings),
        tuple(layer.name.name for layer in here.keymap.layers[:-1]),
        {name: editor.dialect for name, editor in workspace.editors.items()}, counts,
        _next_steps(bool(here.bindings), counts, list(workspace.editors)),
    )  # fmt: skip


def _next_steps(is_bound: bool, counts: dict[str, int], editors: list[str]) -> tuple[str, ...]:
    if not is_bound:
        return ("how save", "bind files.save Mod+S", "editors")
    steps = ["show"]
    if any(counts.values()):
        worst = next(severity for severity, count in counts.items() if count)
        steps.append("audit" if worst == "note" else f"audit --severity {worst}")
    steps += [f"port --to {editors[-1]} --dry-run"] if editors else ["editors"]
    return tuple(steps)
