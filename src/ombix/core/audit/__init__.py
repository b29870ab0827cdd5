"""The audit: rules, one file each in `rules/`, that find what is wrong with a keymap. A new file there is a new rule."""

import importlib
import re
from collections.abc import Iterator, Sequence
from pathlib import Path

from msgspec.structs import replace

from ombix.core.audit.model import SEVERITIES, AuditSubject, Finding, Rule, Severity
from ombix.core.audit.packaged_rules import brought
from ombix.core.errors import Place
from ombix.core.gc_pause import no_garbage_collection
from ombix.core.keymap.bindings import Accepted
from ombix.core.plug_ins import RULES, plug_ins

_RULE_NAME = re.compile(r"[a-z][a-z0-9-]{0,40}")

__all__ = ["SEVERITIES", "AuditSubject", "Finding", "Rule", "Severity", "all_rules", "audit", "own_rules"]


def own_rules() -> dict[str, Rule]:
    """Ombix's own rules by name."""
    from ombix.core.audit import rules as package

    files = sorted(Path(package.__path__[0]).glob("[a-z]*.py"))
    found = [importlib.import_module(f"{package.__name__}.{file.stem}").RULE for file in files]
    return {rule.name: rule for rule in sorted(found, key=lambda rule: rule.name)}


def all_rules() -> dict[str, Rule]:
    """All rules by name: Ombix's own, and those of installed packages."""
    found = own_rules()
    others = {name: one for name, one in plug_ins(RULES).items() if name not in found and _RULE_NAME.fullmatch(name)}
    return dict(sorted([*found.items(), *((name, brought(one)) for name, one in others.items())]))


def audit(subject: AuditSubject, chosen: Sequence[Rule]) -> list[Finding]:
    """The findings of the chosen rules, errors first, then in the order of the files.

    A finding that the keymap accepts stays quiet; an acceptance that no finding needs is a finding of the rule
    `stale-acceptance`, where that is chosen. Findings with the same cause are put together.
    """
    with no_garbage_collection():
        findings = [finding for rule in chosen for finding in rule.check(subject)]
    if subject.severities:
        findings = list(_with_severities(findings, subject))
    accepted = [one for layer in subject.own_layers for one in layer.accepted]
    if accepted:
        findings = _without_accepted(findings, accepted, subject, chosen)
    return sorted(_put_together(findings, subject, chosen), key=_order)


def _with_severities(findings: list[Finding], subject: AuditSubject) -> Iterator[Finding]:
    """The findings with the severities that the workspace gives their rules."""
    for finding in findings:
        own = subject.severities.get(finding.rule, finding.severity)
        if own in SEVERITIES:
            yield finding if own == finding.severity else replace(finding, severity=own)


def _without_accepted(
    findings: list[Finding], accepted: list[Accepted], subject: AuditSubject, chosen: Sequence[Rule]
) -> list[Finding]:
    def matches(one: Accepted, finding: Finding) -> bool:
        if one.rule != finding.rule:
            return False
        resolve = subject.platform.resolve
        return one.trigger is None or resolve(one.trigger) in [resolve(keys) for keys in finding.keys]

    left = [finding for finding in findings if not any(matches(one, finding) for one in accepted)]
    stale = next((rule for rule in chosen if rule.name == "stale-acceptance"), None)
    if stale is None:
        return left
    known, names = all_rules(), {rule.name for rule in chosen}
    others = [known[name] for name in {one.rule for one in accepted} - names if name in known]
    everything = [*findings, *(finding for rule in others for finding in rule.check(subject))]
    for one in accepted:
        if not any(matches(one, finding) for finding in everything):
            from ombix.core.audit.rules.stale_acceptance import stale_finding

            left.append(stale_finding(one))
    return left


def _put_together(findings: list[Finding], subject: AuditSubject, chosen: Sequence[Rule]) -> list[Finding]:
    """The findings with those of one cause as one."""
    together = {rule.name: rule.together for rule in chosen if rule.together is not None}
    groups: dict[tuple[str, str], list[Finding]] = {}
    rest: list[Finding] = []
    for finding in findings:
        if finding.cause and finding.rule in together:
            groups.setdefault((finding.rule, finding.cause), []).append(finding)
        else:
            rest.append(finding)
    for (name, _cause), members in groups.items():
        make = together[name]
        rest.append(make(subject, members) if make is not None and len(members) > 1 else members[0])
    return rest


def _order(finding: Finding) -> tuple[int, str, str, int, int, str]:
    place = finding.spots[0].place if finding.spots else Place("")
    return SEVERITIES.index(finding.severity), finding.rule, place.file, place.line, place.column, finding.message
