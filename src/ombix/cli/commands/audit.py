"""`ombix audit`: what is wrong with the keymap."""

from collections.abc import Sequence

import typer

from ombix.cli.common import Stand, reserved, stand, terminals, views
from ombix.cli.environment import Environment, Status, environment_of, shown_place
from ombix.cli.options import (
    EditorOption,
    JsonOption,
    LayoutOption,
    NotRuleOption,
    PlatformOption,
    RuleOption,
    WorkspaceOption,
)
from ombix.core.audit import SEVERITIES, Finding, Ground, Rule, audit, rules
from ombix.core.conditions import ALWAYS, NEVER
from ombix.core.errors import InputError, did_you_mean
from ombix.core.keys import write
from ombix.data import shipped
from ombix.report.plain import wrap

_STYLES = {"error": "bad", "warning": "warn", "note": "quiet"}


def run(
    context: typer.Context,
    rule: RuleOption = None,
    not_rule: NotRuleOption = None,
    severity: str = typer.Option(
        "note", "--severity", metavar="LEAST", help="error, warning or note, and what is worse."
    ),
    explain: str = typer.Option("", "--explain", metavar="RULE", help="Explain one rule, with an example."),
    editor: EditorOption = "",
    on: PlatformOption = "",
    layout: LayoutOption = "",
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:
    """Findings: what is wrong with the keymap, where, and what would mend it."""
    environment = environment_of(context)
    known = rules()
    for name in [*(rule or []), *(not_rule or []), *([explain] if explain else [])]:
        if name not in known:
            raise InputError(
                f"unknown rule: {name}", did_you_mean(name, list(known)) or f"Rules are {', '.join(known)}."
            )
    if severity not in SEVERITIES:
        raise InputError(f"unknown severity: {severity}", f"Severities are {', '.join(SEVERITIES)}.")
    if explain:
        _explain(environment, known[explain], json)
        return Status.FINE
    here = stand(environment, workspace, on, editor, lenient=True, layout=layout)
    setting = here.setting
    ground = Ground(
        here.keymap, setting.platform, here.space, here.catalogue, here.policy, lambda: views(here), setting.seats,
        reserved(setting), terminals(setting), [shipped.platform(name) for name in shipped.platform_names()],
    )  # fmt: skip
    least = SEVERITIES.index(severity)
    chosen = [
        one for name, one in known.items()
        if (not rule or name in rule) and name not in (not_rule or ()) and SEVERITIES.index(one.severity) <= least
    ]  # fmt: skip
    findings = audit(ground, chosen)
    if json:
        environment.json({
            "platform": here.setting.platform.name,
            "rules": [one.name for one in chosen],
            "findings": [_document(finding, here) for finding in findings],
        })  # fmt: skip
    else:
        _print(environment, findings, here, chosen)
    return Status.FOUND if findings else Status.FINE


def _print(environment: Environment, findings: list[Finding], here: Stand, chosen: Sequence[Rule]) -> None:
    paper = environment.paper
    for finding in findings:
        label = f"{finding.severity} ({finding.rule})"
        first, *rest = wrap(f"{label}: {finding.message}", paper)
        environment.out(first.replace(label, paper.style(label, _STYLES[finding.severity]), 1), *rest)
        for place, text in finding.places:
            environment.out(*wrap(f"at {shown_place(place, environment)}  {text}".rstrip(), paper, 2))
        states = _states(finding, here)
        environment.out(*(wrap(states, paper, 2) if states else []), *wrap(finding.mend, paper, 2), "")
    noun = "finding" if len(findings) == 1 else "findings"
    rules_noun = "rule" if len(chosen) == 1 else "rules"
    environment.out(
        f"{len(findings)} {noun} in {len(here.bindings)} bindings on {here.setting.platform.title}, "
        f"by {len(chosen)} {rules_noun}"
    )


def _states(finding: Finding, here: Stand) -> str:
    if finding.states in (ALWAYS, NEVER, here.space.possible):
        return ""
    text = here.space.describe(finding.states)
    example = here.space.example(finding.states)
    plain = " and ".join(f"{name} is {value}" for name, value in example.items())
    shown = ", ".join(f"{name} {value}" for name, value in example.items())
    return (
        f"when {text}"
        if plain == text or not (set("(") & set(text) or " or " in text)
        else f"when {text}; for example {shown}"
    )


def _explain(environment: Environment, rule: Rule, json: bool) -> None:
    if json:
        environment.json({
            "rule": rule.name, "severity": rule.severity, "what": rule.what, "why": rule.why, "example": rule.example,
            "workspace": rule.workspace, "mend": rule.mend,
        })  # fmt: skip
        return
    paper = environment.paper
    environment.out(f"{paper.style(rule.name, 'strong')} ({rule.severity})", "")
    for title, text in (("What it finds", rule.what), ("Why it matters", rule.why)):
        environment.out(paper.style(title, "strong"), *wrap(text, paper, 2), "")
    how = "Example, in a workspace of two editors whose defaults differ" if rule.editors else "Example"
    if rule.policy.prefix == "fires":
        how += ", in an editor that does not wait for more keys"
    if rule.workspace:
        how += ", in a workspace with"
    environment.out(paper.style(how, "strong"))
    if rule.workspace:
        environment.out(
            *(f"  {line}" for line in rule.workspace.split("\n")), "", paper.style("and the keymap", "strong")
        )
    environment.out(*(f"  {line}" if line else "" for line in rule.example.rstrip().split("\n")), "")
    environment.out(paper.style("What mends it", "strong"), *wrap(rule.mend, paper, 2))


def _document(finding: Finding, here: Stand) -> dict[str, object]:
    possible = here.space.both(finding.states, here.space.possible) != NEVER
    return {
        "rule": finding.rule,
        "severity": finding.severity,
        "keys": write(finding.trigger) if finding.trigger else None,
        "message": finding.message,
        "when": here.space.describe(finding.states),
        "example": here.space.example(finding.states) if possible else None,
        "places": [
            {"file": place.file, "line": place.line, "column": place.column, "text": text}
            for place, text in finding.places
        ],
        "mend": finding.mend,
    }
