"""Audits for pipelines: only what is new beside a baseline or an earlier version, with the lines that would mend it."""

import json
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any, NamedTuple

from ombix.core.audit import Finding
from ombix.core.errors import InputError, OmbixError, Place
from ombix.core.keymap.changes import in_words
from ombix.core.text_changes import alike
from ombix.files import editing
from ombix.files.disk import absolute
from ombix.workspace import findings
from ombix.workspace.context import Opener
from ombix.workspace.edit_options import AuditOptions
from ombix.workspace.findings_answer import AuditReport, FindingFix, FindingRows, FoundFault
from ombix.workspace.resources import Resources

FORMAT = 1


class Beside(NamedTuple):
    """What an audit is looked at beside: the text of a file that a user named, the findings of a version in git, and what opens
    the workspace."""

    read: Callable[[str], str]
    at_version: Callable[[str], Sequence[FoundFault]]
    opener: Opener
    resources: Resources


def wished(report: AuditReport, found: findings.Found, options: AuditOptions, beside: Beside) -> AuditReport:
    """A report with what is wished. Raises InputError for a baseline that is none, and a version that is none."""
    known: Counter[str] = Counter()
    if options.baseline:
        known |= _read_baseline(beside.read(options.baseline), options.baseline)
    if options.since:
        known |= _fingerprints(beside.at_version(options.since))
    if options.fixes:
        fixes = _fixes(beside)
        report = report._replace(findings=tuple(
            one._replace(fix=fixes(each)) for one, each in zip(report.findings, found.findings, strict=True)
        ))  # fmt: skip
    kept = list(_unknown(report.findings, known)) if known else list(report.findings)
    return report._replace(findings=tuple(kept), left_out=len(report.findings) - len(kept))


def _unknown(found: Sequence[FoundFault], known: Counter[str]) -> Iterator[FoundFault]:
    """The findings that are not known; of many alike things the rows that are not."""
    left = Counter(known)
    for one in found:
        if one.table is not None and len(one.row_fingerprints) == len(one.table.rows):
            new = []
            for number, name in enumerate(one.row_fingerprints):
                if left[name]:
                    left[name] -= 1
                else:
                    new.append(number)
            if len(new) == len(one.table.rows):
                yield one
            elif new:
                rows = FindingRows(one.table.head, tuple(one.table.rows[number] for number in new))
                names = tuple(one.row_fingerprints[number] for number in new)
                yield one._replace(table=rows, row_fingerprints=names)
        elif left[one.fingerprint]:
            left[one.fingerprint] -= 1
        else:
            yield one


def _fingerprints(found: Sequence[FoundFault]) -> Counter[str]:
    return Counter(name for one in found for name in (one.row_fingerprints or (one.fingerprint,)))


# --- baselines


def baseline_text(report: AuditReport) -> str:
    """The findings of a report as a file that says which are known."""
    rows = [
        {
            "rule": finding.rule,
            "fingerprints": list(finding.row_fingerprints or (finding.fingerprint,)),
            "message": finding.message,
        }
        for finding in report.findings
    ]
    return json.dumps({"format": FORMAT, "known": rows}, indent=2) + "\n"


def _read_baseline(text: str, file: str) -> Counter[str]:
    try:
        found: Any = json.loads(text)
    except (ValueError, RecursionError):
        found = None
    rows = found.get("known") if isinstance(found, dict) and found.get("format") == FORMAT else None
    is_right = isinstance(rows, list) and all(map(_is_row, rows))
    if not is_right or rows is None:
        raise InputError(
            "this is no baseline", "Write one with: ombix audit --write-baseline FILE", Place(absolute(file))
        )
    return Counter(one for row in rows for one in row["fingerprints"])


def _is_row(row: Any) -> bool:
    names = row.get("fingerprints") if isinstance(row, dict) else None
    return isinstance(names, list) and all(isinstance(name, str) for name in names)


# --- fixes


def _fixes(beside: Beside) -> Callable[[Finding], FindingFix | None]:
    """What mends findings, as lines of the keymap file."""
    try:
        path = beside.opener.needed_workspace().keymap_path
    except InputError:
        return lambda finding: None
    text = beside.resources.files.read_text(path)

    def fix(finding: Finding) -> FindingFix | None:
        if not finding.changes:
            return None
        try:
            edited = editing.apply(text, list(finding.changes)).text
        except OmbixError:
            return None
        return _replaced(path, text, edited, "; ".join(map(in_words, finding.changes)))

    return fix


def _replaced(path: Path, text: str, edited: str, does: str) -> FindingFix | None:
    """The lines that differ between two texts."""
    before, after = text.split("\n"), edited.split("\n")
    first, same = alike(before, after)
    end, new_end = len(before) - same, len(after) - same
    if first == end == new_end:
        return None
    lines = "".join(f"{line}\n" for line in after[first:new_end])
    return FindingFix(does, Place(absolute(path), first + 1, 1, end + 1, 1), lines)
