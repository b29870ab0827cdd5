"""What is wrong with a keymap: the rules' findings, put into words."""

import hashlib
import re
from collections.abc import Iterator, Mapping, Sequence
from functools import cache
from pathlib import PurePath
from typing import NamedTuple

from ombix.core.audit import SEVERITIES, AuditSubject, Finding, Rule, all_rules, audit
from ombix.core.audit.model import EditorView, MissingBinding
from ombix.core.conditions import ALWAYS, NEVER, Space
from ombix.core.errors import InputError, did_you_mean
from ombix.core.keymap import changes
from ombix.core.keymap.deciding import DecisionTable
from ombix.core.keymap.outcomes import Do, Macro
from ombix.core.keys.notation import Trigger, write
from ombix.editors.dialect import Dialect
from ombix.editors.obeyed_keymap import ObeyedKeymap
from ombix.files.workspace_file import WorkspaceEditor
from ombix.workspace.context import reserved, setup_at_hand, terminals
from ombix.workspace.effective_keymap import EffectiveKeymap
from ombix.workspace.findings_answer import (
    AuditReport,
    FindingChange,
    FindingRows,
    FindingSpot,
    FindingWinner,
    FoundFault,
    RuleExplanation,
)
from ombix.workspace.not_in_editor import missing_entries, nearest_action, other_keys
from ombix.workspace.obeyed import decided_in, obeyed
from ombix.workspace.outcome_titles import named_in, titles_of
from ombix.workspace.reason_words import said_of
from ombix.workspace.resources import Resources

_AS_THEY_ARE: Mapping[str, str] = {}


class Found(NamedTuple):
    """Findings, with what they are about."""

    subject: AuditSubject
    rules: tuple[Rule, ...]
    findings: tuple[Finding, ...]


def find(
    here: EffectiveKeymap, editors: Sequence[WorkspaceEditor], resources: Resources, chosen: Sequence[Rule]
) -> Found:
    """The findings of rules. `editors` are those of the workspace that can be named here."""
    subject = subject_of(here, editors, resources)
    return Found(subject, tuple(chosen), tuple(audit(subject, chosen)))


def subject_of(here: EffectiveKeymap, editors: Sequence[WorkspaceEditor], resources: Resources) -> AuditSubject:
    """What is audited."""
    context, shipped = here.context, resources.shipped
    subject = AuditSubject(
        here.keymap, context.platform, _space(here, editors, resources), here.catalogue, here.policy,
        cache(lambda: _views(here, subject.space, editors, resources)), context.setups, setup_at_hand(context, resources),
        reserved(context, resources), terminals(context, editors, resources), shipped.platforms(),
        one_action_for=lambda macro: _shorter_ways(macro, here),
        unsettled=context.workspace.unsettled if context.workspace is not None else (),
        problems=context.workspace.problems if context.workspace is not None else (),
        severities=context.workspace.severities if context.workspace is not None else {},
        effort=shipped.effort(),
    )  # fmt: skip
    return subject


def _shorter_ways(macro: Macro, here: EffectiveKeymap) -> tuple[str, ...]:
    from ombix.workspace.shorter_ways import shorter_ways

    return shorter_ways(macro, here.keymap, here.catalogue)


def _space(here: EffectiveKeymap, editors: Sequence[WorkspaceEditor], resources: Resources) -> Space:
    """The states of the keymap and of all editors that it is compared in."""
    facts = here.space.facts
    for editor in editors:
        facts = facts.extended(resources.dialect(editor).facts, [])
    return resources.space(facts, here.space)


def _views(
    here: EffectiveKeymap, space: Space, editors: Sequence[WorkspaceEditor], resources: Resources
) -> list[EditorView]:
    """The editors of the workspace, each with what it would obey with the keymap in its file."""
    on = here.context.platform.name
    return [_view(here, space, editor, resources) for editor in editors if editor.platform in ("", on)]


def _view(here: EffectiveKeymap, space: Space, editor: WorkspaceEditor, resources: Resources) -> EditorView:
    context = here.context
    dialect = resources.dialect(editor)
    over_text = space.states(dialect.states_where_text_is_edited())
    found = obeyed(here.keymap.layers, editor, context.platform, context.workspace, resources)
    decided = decided_in(found, here.keymap.layers, editor, context.platform, space, resources)
    missing = _missing(found, dialect, decided.tables, space, here) if found is not None else ()
    otherwise = {
        key: said for key, entry in decided.entries.items()
        if entry.verdict == "adapted" and (said := said_of(entry, editor.name))
    }  # fmt: skip
    return EditorView(editor.name, decided.tables, over_text, tuple(missing), otherwise)


def _missing(
    found: ObeyedKeymap, dialect: Dialect, tables: Mapping[Trigger, DecisionTable], space: Space, here: EffectiveKeymap
) -> Iterator[MissingBinding]:
    """What of the keymap an editor does not have on its keys."""
    for entry in missing_entries(found, tables, space, here.catalogue):
        outcome = entry.source.outcome
        name = outcome.action if isinstance(outcome, Do) else ""
        nearest = nearest_action(name, dialect, here.catalogue, tables) if name else None
        keys = tuple(other_keys(entry, found))
        yield MissingBinding(
            entry.source, said_of(entry, found.name), keys, nearest.action if nearest is not None else ""
        )


def choose_rules(
    only: Sequence[str] = (), without: Sequence[str] = (), severity: str = "note", own: Mapping[str, str] = _AS_THEY_ARE
) -> list[Rule]:
    """The rules that are asked for, from a severity on; `own` are the workspace's severities of some. Raises InputError with the
    nearest names."""
    known = all_rules()
    for names in (only, without):
        if isinstance(names, str):  # whose letters would be taken for rules
            raise InputError(f"rules are a list of names: {names!r} is one name", f'Write ["{names}"].')
    for name in [*only, *without]:
        if name not in known:
            raise InputError(
                f"unknown rule: {name}", did_you_mean(name, list(known)) or f"Rules are {', '.join(known)}."
            )
    if severity not in SEVERITIES:
        raise InputError(f"unknown severity: {severity}", f"Severities are {', '.join(SEVERITIES)}.")
    least = SEVERITIES.index(severity)
    return [
        rule
        for name, rule in known.items()
        if (not only or name in only) and name not in without and _is_at_least(own.get(name, rule.severity), least)
    ]


def _is_at_least(severity: str, least: int) -> bool:
    return severity in SEVERITIES and SEVERITIES.index(severity) <= least


def explanation(rule: Rule) -> RuleExplanation:
    """A rule in its four short parts."""
    return RuleExplanation(
        rule.name, rule.severity, rule.what, rule.why, rule.example, rule.workspace, rule.editors,
        rule.policy.prefix == "fires", rule.mend,
    )  # fmt: skip


def report(found: Found, about: str = "") -> AuditReport:
    """The findings in words."""
    subject = found.subject
    return AuditReport(
        subject.platform.name, subject.platform.title, tuple(rule.name for rule in found.rules), len(subject.bindings),
        tuple(in_words(finding, subject) for finding in found.findings), about,
    )  # fmt: skip


def joined(found: Found, report: AuditReport, more: Found, machine: str) -> tuple[Found, AuditReport]:
    """Findings and their report with those of another machine of the workspace that are no finding here; what is wrong with the
    same lines by the same rule is the same finding, though its keys have other modifiers there."""
    known = set(map(_about, found.findings))
    new = tuple(finding for finding in more.findings if _about(finding) not in known)
    said = tuple(
        words._replace(message=f"on {more.subject.platform.title} ({machine}): {words.message}")
        for words in (in_words(one, more.subject) for one in new)
    )
    pairs = [*zip(found.findings, report.findings, strict=True), *zip(new, said, strict=True)]
    pairs.sort(key=lambda pair: SEVERITIES.index(pair[0].severity))
    return (
        found._replace(findings=tuple(one for one, _words in pairs)),
        report._replace(findings=tuple(words for _one, words in pairs), machines=(*report.machines, machine)),
    )


def _about(one: Finding) -> tuple[object, ...]:
    if one.table is not None:
        return one.rule, one.cause or re.sub(r"[0-9]+", "", one.message)
    return one.rule, *((spot.place, spot.text) for spot in one.spots), *(() if one.spots else map(write, one.keys))


def in_words(one: Finding, subject: AuditSubject) -> FoundFault:
    """A finding in words."""
    space = subject.space
    states = space.both(one.states, space.possible)
    has_states = states not in (NEVER, space.possible) and one.states != ALWAYS
    winners = tuple(
        FindingWinner(
            space.describe(winner.states), str(winner.binding.outcome), winner.binding.place,
            tuple(str(beaten.outcome) for beaten in winner.beaten),
        )
        for winner in one.winners
    )  # fmt: skip
    table = None
    if one.table is not None:
        rows = (tuple(cell if isinstance(cell, str) else subject.show(cell) for cell in row) for row in one.table.rows)
        table = FindingRows(one.table.head, tuple(rows))
    return FoundFault(
        one.rule, one.severity, tuple(map(write, one.keys)), one.message, space.describe(states) if has_states else "",
        space.example(states) if has_states else None, tuple(FindingSpot(spot.place, spot.text) for spot in one.spots),
        winners, table, one.mend, tuple(FindingChange(_kind(change), changes.in_words(change)) for change in one.changes),
        fingerprint(one), _row_fingerprints(one), None, _titles(one, winners, table, subject),
    )  # fmt: skip


def _titles(
    one: Finding, winners: Sequence[FindingWinner], table: FindingRows | None, subject: AuditSubject
) -> dict[str, str]:
    """What people call what a finding names."""
    texts = [
        one.message,
        *(winner.does for winner in winners),
        *(cell for row in (table.rows if table else ()) for cell in row),
    ]
    names = [name for text in texts for name in named_in(text)]
    return titles_of(dict.fromkeys(names), subject.catalogue, subject.keymap)


def fingerprint(one: Finding) -> str:
    """What a finding is known by: its rule, its keys and what it is about; not where that stands, nor how it is put into words."""
    if one.table is not None:  # what is alike comes and goes
        return _hashed(one.rule, one.cause or re.sub(r"[0-9]+", "", one.message))
    about = sorted(f"{PurePath(spot.place.file).name} {spot.text}" for spot in one.spots)
    return _hashed(one.rule, *map(write, one.keys), *(about or [one.message]))


def _row_fingerprints(one: Finding) -> tuple[str, ...]:
    """What each of many alike things is known by."""
    rows = one.table.rows if one.table is not None else ()
    return tuple(_hashed(one.rule, *(cell if isinstance(cell, str) else write(cell) for cell in row)) for row in rows)


def _hashed(*texts: str) -> str:
    return hashlib.sha256("\0".join(texts).encode("utf-8", "surrogatepass")).hexdigest()[:24]


def _kind(change: changes.KeymapChange) -> str:
    """The kind of a change in words with hyphens."""
    return re.sub(r"(?<!^)(?=[A-Z])", "-", type(change).__name__).lower()
