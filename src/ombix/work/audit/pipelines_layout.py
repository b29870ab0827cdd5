"""Findings in the forms that pipelines read: one line each as compilers write them, and as the results of tests."""

from collections.abc import Sequence
from xml.etree import ElementTree

from ombix.report.terminal_text import Display, visible
from ombix.workspace.findings_answer import AuditReport, FoundFault


def annotations(report: AuditReport, display: Display) -> list[str]:
    """A line for each finding: file, line, column, severity, what is wrong, and the rule in square brackets."""
    return [_annotation(finding, display) for finding in report.findings]


def _annotation(found: FoundFault, display: Display) -> str:
    where = f"{visible(display.place(found.places[0].place))}: " if found.places else ""
    return f"{where}{found.severity}: {_said(found)} [{found.rule}]"


def _said(found: FoundFault) -> str:
    when = f" when {found.when}" if found.when else ""
    return visible(" ".join(f"{found.message}{when}".split()))


def junit(report: AuditReport, rules: Sequence[str], display: Display) -> str:
    """Each rule as a test: it passes, or fails with its findings (the XML that test runners write and pipelines read)."""
    failed = {finding.rule for finding in report.findings}
    suite = ElementTree.Element(
        "testsuite", name="ombix audit", tests=str(len(rules)), failures=str(len(failed)), errors="0"
    )
    for rule in rules:
        case = ElementTree.SubElement(suite, "testcase", classname="ombix", name=rule)
        found = [finding for finding in report.findings if finding.rule == rule]
        if found:
            noun = "finding" if len(found) == 1 else "findings"
            failure = ElementTree.SubElement(case, "failure", message=f"{len(found)} {noun}", type=found[0].severity)
            failure.text = "\n".join(_annotation(one, display) for one in found)
    top = ElementTree.Element("testsuites")
    top.append(suite)
    ElementTree.indent(top)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + ElementTree.tostring(top, encoding="unicode") + "\n"
