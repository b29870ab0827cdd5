"""`ombix audit`: what is wrong with the keymap."""

from pathlib import Path
from typing import Annotated, Any

import typer

from ombix.console.asking import editor_asked, machines_asked, open_session
from ombix.console.environment import Environment, Status, environment_of
from ombix.console.options import (
    EditorOption,
    ExplainOption,
    FileOption,
    JsonOption,
    LayoutOption,
    MachinesOption,
    NotRuleOption,
    PlatformOption,
    ReportOption,
    RuleOption,
    SeverityOption,
    WorkspaceOption,
)
from ombix.console.page_files import write_page
from ombix.core.errors import InputError
from ombix.core.report_forms import OWN, report_named, report_names
from ombix.report.blocks import Blank, Block, Title
from ombix.report.terminal_text import Display
from ombix.work.audit import audit_questions
from ombix.work.audit.audit_layout import audit_report, rule_explanation
from ombix.workspace.edit_options import AuditOptions
from ombix.workspace.findings_answer import AuditReport, RuleExplanation
from ombix.workspace.open_workspace import OpenWorkspace

FormatOption = Annotated[
    str, typer.Option("--format", metavar="FORM", help="text, json, sarif, markdown, junit, annotations, or a package's.",
                      autocompletion=lambda: list(OWN)),
]  # fmt: skip


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (AuditReport, RuleExplanation, tuple[AuditReport, ...])


def run(
    context: typer.Context,
    rule: RuleOption = None,
    not_rule: NotRuleOption = None,
    severity: SeverityOption = "note",
    explain: ExplainOption = "",
    editor: EditorOption = "",
    file: FileOption = None,
    on: PlatformOption = "",
    layout: LayoutOption = "",
    machine: MachinesOption = None,
    workspace: WorkspaceOption = None,
    report: ReportOption = None,
    form: FormatOption = "text",
    baseline: Path | None = typer.Option(None, "--baseline", metavar="FILE", help="Only what this file does not know."),
    write_baseline: Path | None = typer.Option(
        None, "--write-baseline", metavar="FILE", help="Write what is found to a file, as what is known."
    ),
    since: str = typer.Option(
        "", "--changed-since", metavar="REV", help="Only what was not there in a version in git."
    ),
    json: JsonOption = False,
) -> Status:
    """What is wrong with the keymap, where, and what would fix it."""
    environment = environment_of(context)
    session = open_session(environment, workspace, file, editor)
    if explain:
        explained = audit_questions.rules(session, explain)[0]
        environment.answer(explained, lambda display: rule_explanation(explained, display), json)
        return Status.FINE
    form = "json" if json else form
    if form not in OWN and form not in (brought := report_names(AuditReport)):
        raise InputError(f"unknown format: {form}", f"Formats are {', '.join([*OWN, *brought])}.")
    is_sarif = form == "sarif" or (report is not None and report.suffix == ".sarif")
    options = AuditOptions(str(baseline or ""), since, is_sarif)
    wanted = options if any(options) else None

    def audited(one: OpenWorkspace) -> AuditReport:
        asked = editor_asked(file, editor)
        return audit_questions.audit(
            one,
            rules=rule or (),
            without=not_rule or (),
            severity=severity,
            editor=asked,
            on=on,
            layout=layout,
            options=wanted,
        )

    sessions = machines_asked(session, machine)
    if len(sessions) > 1:
        if form not in ("text", "json") or report is not None or write_baseline is not None:
            raise InputError("that is for one machine", "Name one with --machine.")
        return _several(environment, [audited(session) for session in sessions], form == "json")
    session = sessions[0]
    found = audited(session)
    _print(environment, session, found, form)
    if write_baseline is not None:
        for path in audit_questions.write_baseline(session, found, str(write_baseline)):
            environment.say(f"wrote {environment.messages.display.path(str(path))}")
        return Status.FINE
    if report is not None and report.suffix == ".sarif":
        text = _sarif(environment, session, found)
        for path in session.write(f"report {report.name}", {str(report): text}):
            environment.say(f"wrote {environment.messages.display.path(str(path))}")
    elif report is not None:
        write_page(environment, session, report, found, lambda display: audit_report(found, display), "Audit")
    return Status.FOUND if found.findings else Status.FINE


def _several(environment: Environment, found: list[AuditReport], json: bool) -> Status:
    """Print the reports of several machines."""

    def blocks(display: Display) -> list[Block]:
        return [block for one in found for block in (Title(one.machine), *audit_report(one, display), Blank())]

    environment.answer(tuple(found), blocks, json)
    return Status.FOUND if any(one.findings for one in found) else Status.FINE


def _print(environment: Environment, session: OpenWorkspace, found: AuditReport, form: str) -> None:
    """Print a report in one of the forms."""
    display = environment.display
    if form in ("text", "json"):
        environment.answer(found, lambda display: audit_report(found, display), form == "json")
    elif form == "sarif":
        environment.results.stream.write(_sarif(environment, session, found))
    elif form == "markdown":
        from ombix.report import markdown

        environment.results.stream.write(markdown.page("Audit", audit_report(found, display)))
    elif form == "junit":
        from ombix.work.audit.pipelines_layout import junit

        environment.results.stream.write(junit(found, found.rules, display))
    elif form not in OWN:
        environment.results.stream.write(report_named(form, found))
    else:
        from ombix.work.audit.pipelines_layout import annotations

        environment.results.write(annotations(found, display))


def _sarif(environment: Environment, session: OpenWorkspace, found: AuditReport) -> str:
    from ombix.version import __version__
    from ombix.work.audit import sarif_layout

    return sarif_layout.text(found, audit_questions.rules(session, *found.rules), __version__, environment.display)
