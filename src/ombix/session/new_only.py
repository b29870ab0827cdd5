"""Audits for pipelines: only what is new beside a baseline or an earlier version, with the lines that would mend it."""

import json
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ombix.core.audit import Finding
from ombix.core.changed_lines import changed_lines
from ombix.core.changes import in_words
from ombix.core.errors import InputError, OmbixError, Place
from ombix.core.results.auditing import AuditReport, FindingFix, FindingRows, FoundFault
from ombix.session import auditing
from ombix.session.versions import texts_at
from ombix.session.wishes import AuditWishes
from ombix.store import editing
from ombix.store.files import absolute

if TYPE_CHECKING:
    from ombix.session.session import Session

FORMAT = 1


def wished(
    report: AuditReport, found: auditing.Found, wishes: AuditWishes, session: "Session", asked: tuple[str, str, str]
) -> AuditReport:
    """A report with what is wished. Raises InputError for a baseline that is none, and a version that is none."""
    known: Counter[str] = Counter()
    if wishes.baseline:
        known |= _read_baseline(session.read(wishes.baseline), wishes.baseline)
    if wishes.since:
        known |= _at_version(session, wishes.since, report.rules, asked)
    if wishes.fixes:
        fixes = _fixes(found, session)
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


def _at_version(session: "Session", version: str, rules: Sequence[str], asked: tuple[str, str, str]) -> Counter[str]:
    """The findings of a version; none where its files cannot be read."""
    session.context(*asked, lenient=True)  # so that all files are known
    before = session.with_texts(texts_at(session.opener, session.files(), version))
    editor, on, layout = asked
    try:
        return _fingerprints(before.audit(rules=rules, editor=editor, on=on, layout=layout).findings)
    except InputError:
        return Counter()


# --- baselines


def baseline_text(report: AuditReport) -> str:
    """The findings of a report as a file that says which are known."""
    rows = [
        {"rule": one.rule, "fingerprints": list(one.row_fingerprints or (one.fingerprint,)), "message": one.message}
        for one in report.findings
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
    return isinstance(names, list) and all(isinstance(one, str) for one in names)


# --- fixes


def _fixes(found: auditing.Found, session: "Session") -> Callable[[Finding], FindingFix | None]:
    """What mends findings, as lines of the keymap file."""
    try:
        workspace = session.opener.needed_workspace()
    except InputError:
        return lambda finding: None
    path = workspace.keymap_path
    text = session.resources.files.read_text(path)

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
    first, end, new_end = changed_lines(before, after)
    if first == end == new_end:
        return None
    lines = "".join(f"{line}\n" for line in after[first:new_end])
    return FindingFix(does, Place(absolute(path), first + 1, 1, end + 1, 1), lines)
