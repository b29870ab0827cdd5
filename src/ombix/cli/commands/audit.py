"""`ombix audit`: what is wrong with the keymap."""

import typer

from ombix.cli.common import Stand, stand
from ombix.cli.environment import Environment, Status, environment_of, shown_place
from ombix.cli.options import EditorOption, JsonOption, PlatformOption, RuleOption, WorkspaceOption
from ombix.core.audit import Finding, Ground, Rule, audit, rules
from ombix.core.errors import InputError, did_you_mean
from ombix.core.keys import write
from ombix.report.plain import wrap

_STYLES = {"error": "bad", "warning": "warn", "note": "quiet"}


def run(
    context: typer.Context,
    rule: RuleOption = None,
    explain: str = typer.Option("", "--explain", metavar="RULE", help="Explain one rule, with an example."),
    editor: EditorOption = "",
    on: PlatformOption = "",
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:
    """Findings: what is wrong with the keymap, where, and what would mend it."""
    environment = environment_of(context)
    known = rules()
    for name in [*(rule or []), *([explain] if explain else [])]:
        if name not in known:
            raise InputError(
                f"unknown rule: {name}", did_you_mean(name, list(known)) or f"Rules are {', '.join(known)}."
            )
    if explain:
        _explain(environment, known[explain], json)
        return Status.FINE
    here = stand(environment, workspace, on, editor)
    ground = Ground(here.keymap, here.setting.platform, here.space, here.catalogue, here.policy)
    findings = audit(ground, [known[name] for name in rule] if rule else list(known.values()))
    if json:
        environment.json({
            "platform": here.setting.platform.name,
            "rules": list(rule or known),
            "findings": [_document(finding, here) for finding in findings],
        })  # fmt: skip
    else:
        _print(environment, findings, here, len(rule or known))
    return Status.FOUND if findings else Status.FINE


def _print(environment: Environment, findings: list[Finding], here: Stand, rule_count: int) -> None:
    paper = environment.paper
    for finding in findings:
        label = f"{finding.severity} ({finding.rule})"
        first, *rest = wrap(f"{label}: {finding.message}", paper)
        environment.out(first.replace(label, paper.style(label, _STYLES[finding.severity]), 1), *rest)
        for binding in finding.bindings:
            environment.out(f"  at {shown_place(binding.place, environment)}  {binding.outcome}")
        environment.out(*wrap(f"when {_states(finding, here)}", paper, 2), *wrap(finding.mend, paper, 2), "")
    bindings = len(here.bindings)
    noun = "finding" if len(findings) == 1 else "findings"
    rules_noun = "rule" if rule_count == 1 else "rules"
    environment.out(
        f"{len(findings)} {noun} in {bindings} bindings on {here.setting.platform.title}, by {rule_count} {rules_noun}"
    )


def _states(finding: Finding, here: Stand) -> str:
    text = here.space.describe(finding.states)
    example = here.space.example(finding.states)
    shown = ", ".join(f"{name} {value}" for name, value in example.items())
    plain = " and ".join(f"{name} is {value}" for name, value in example.items())
    return text if plain == text or text == "always" else f"{text}; for example {shown}"


def _explain(environment: Environment, rule: Rule, json: bool) -> None:
    if json:
        environment.json({
            "rule": rule.name, "severity": rule.severity, "what": rule.what, "why": rule.why, "example": rule.example,
            "mend": rule.mend,
        })  # fmt: skip
        return
    paper = environment.paper
    environment.out(f"{paper.style(rule.name, 'strong')} ({rule.severity})", "")
    for title, text in (("What it finds", rule.what), ("Why it matters", rule.why)):
        environment.out(paper.style(title, "strong"), *wrap(text, paper, 2), "")
    environment.out(paper.style("Example", "strong"))
    environment.out(*(f"  {line}" if line else "" for line in rule.example.rstrip().split("\n")), "")
    environment.out(paper.style("What mends it", "strong"), *wrap(rule.mend, paper, 2))


def _document(finding: Finding, here: Stand) -> dict[str, object]:
    return {
        "rule": finding.rule,
        "severity": finding.severity,
        "keys": write(finding.trigger),
        "message": finding.message,
        "when": here.space.describe(finding.states),
        "example": here.space.example(finding.states),
        "places": [
            {"file": one.place.file, "line": one.place.line, "column": one.place.column, "does": str(one.outcome)}
            for one in finding.bindings
        ],
        "mend": finding.mend,
    }
