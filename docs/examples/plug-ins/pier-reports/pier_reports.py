"""Findings as comma-separated values (RFC 4180), for the ferry company's tables."""

import csv
import io

from ombix.core.report_forms import ReportForm
from ombix.workspace.findings_answer import AuditReport


def write(report: AuditReport) -> str:
    """A line for each finding: the rule, how bad it is, the keys, and what is wrong."""
    text = io.StringIO()
    rows = csv.writer(text)
    rows.writerow(["rule", "severity", "keys", "message"])
    rows.writerows([one.rule, one.severity, " ".join(one.keys), one.message] for one in report.findings)
    return text.getvalue()


CSV = ReportForm(takes=(AuditReport,), ending=".csv", write=write)
