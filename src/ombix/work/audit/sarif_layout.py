"""Findings as SARIF, the format in which tools exchange the results of static analysis (OASIS, SARIF 2.1.0)."""

from collections.abc import Sequence
from pathlib import PurePosixPath
from typing import Any
from urllib.parse import quote

from ombix.core.errors import Place
from ombix.report.json import dump
from ombix.report.terminal_text import Display, visible
from ombix.workspace.findings_answer import AuditReport, FindingFix, FoundFault, RuleExplanation

_LEVELS = {"error": "error", "warning": "warning", "note": "note"}


def text(report: AuditReport, rules: Sequence[RuleExplanation], version: str, display: Display) -> str:
    """The report as one SARIF log."""
    log = {
        "$schema": "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json",
        "version": "2.1.0",
        "runs": [{
            "tool": {"driver": {"name": "ombix", "version": version, "rules": [_rule(rule) for rule in rules]}},
            "columnKind": "unicodeCodePoints",
            "results": [_result(finding, [rule.rule for rule in rules], display) for finding in report.findings],
        }],
    }  # fmt: skip
    return dump(log) + "\n"


def _rule(rule: RuleExplanation) -> dict[str, Any]:
    return {
        "id": rule.rule, "shortDescription": {"text": rule.what}, "fullDescription": {"text": f"{rule.what} {rule.why}"},
        "help": {"text": rule.mend}, "defaultConfiguration": {"level": _LEVELS[rule.severity]},
    }  # fmt: skip


def _result(found: FoundFault, rules: list[str], display: Display) -> dict[str, Any]:
    said = [found.message, *([f"When {found.when}."] if found.when else []), found.mend]
    result: dict[str, Any] = {
        "ruleId": found.rule, "ruleIndex": rules.index(found.rule), "level": _LEVELS[found.severity],
        "message": {"text": visible(" ".join(said))},
        "locations": [_location(spot.place, spot.text, display) for spot in found.places[:1]],
    }  # fmt: skip
    if len(found.places) > 1:
        others = [_location(spot.place, spot.text, display) for spot in found.places[1:]]
        result["relatedLocations"] = [{"id": number, **one} for number, one in enumerate(others, 1)]
    if found.fingerprint:
        result["partialFingerprints"] = {"finding/v1": found.fingerprint}
    if found.fix is not None:
        result["fixes"] = [_fix(found.fix, display)]
    return result


def _fix(fix: FindingFix, display: Display) -> dict[str, Any]:
    where = {
        "startLine": fix.place.line, "startColumn": fix.place.column, "endLine": fix.place.end_line,
        "endColumn": fix.place.end_column,
    }  # fmt: skip
    replaced = {"deletedRegion": where, "insertedContent": {"text": fix.text}}
    change = {"artifactLocation": {"uri": _uri(fix.place, display)}, "replacements": [replaced]}
    return {"description": {"text": visible(fix.does)}, "artifactChanges": [change]}


def _uri(place: Place, display: Display) -> str:
    path = PurePosixPath(display.path(place.file))
    return f"file://{quote(str(path))}" if path.is_absolute() else quote(str(path))


def _location(place: Place, said: str, display: Display) -> dict[str, Any]:
    physical: dict[str, Any] = {"artifactLocation": {"uri": _uri(place, display)}}
    if place.line:
        region = {"startLine": place.line, "startColumn": max(1, place.column)}
        if place.end_line:
            region |= {"endLine": place.end_line, "endColumn": max(1, place.end_column)}
        physical["region"] = region
    return {"physicalLocation": physical, **({"message": {"text": visible(said)}} if said else {})}
