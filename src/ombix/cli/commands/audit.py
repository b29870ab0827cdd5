"""`ombix audit`: what is wrong with the keymap."""

from typing import Any

import typer

from ombix.cli.asking import editor_asked, open_session
from ombix.cli.environment import Status, environment_of
from ombix.cli.options import (
    EditorOption,
    ExplainOption,
    FileOption,
    JsonOption,
    LayoutOption,
    NotRuleOption,
    PlatformOption,
    ReportOption,
    RuleOption,
    WorkspaceOption,
)
from ombix.cli.pages import write_page
from ombix.core.results.auditing import AuditReport, RuleExplanation
from ombix.report.findings import audit_report, rule_explanation


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (AuditReport, RuleExplanation)


def run(
    context: typer.Context,
    rule: RuleOption = None,
    not_rule: NotRuleOption = None,
    severity: str = typer.Option(
        "note", "--severity", metavar="LEAST", help="error, warning or note, and what is worse."
    ),
    explain: ExplainOption = "",
    editor: EditorOption = "",
    file: FileOption = None,
    on: PlatformOption = "",
    layout: LayoutOption = "",
    workspace: WorkspaceOption = None,
    report: ReportOption = None,
    json: JsonOption = False,
) -> Status:
    """Findings: what is wrong with the keymap, where, and what would mend it."""
    environment = environment_of(context)
    session = open_session(environment, workspace, file, editor)
    if explain:
        explained = session.rules(explain)[0]
        environment.answer(explained, lambda display: rule_explanation(explained, display), json)
        return Status.FINE
    found = session.audit(
        rules=rule or (),
        without=not_rule or (),
        severity=severity,
        editor=editor_asked(file, editor),
        on=on,
        layout=layout,
    )
    environment.answer(found, lambda display: audit_report(found, display), json)
    if report is not None and report.suffix == ".sarif":
        from ombix.report import sarif
        from ombix.version import __version__

        text = sarif.text(found, session.rules(*found.rules), __version__, environment.display)
        for path in session.write(f"report {report.name}", {str(report): text}):
            environment.say(f"wrote {environment.messages.display.path(str(path))}")
    elif report is not None:
        write_page(environment, session, report, found, lambda display: audit_report(found, display), "Audit")
    return Status.FOUND if found.findings else Status.FINE
