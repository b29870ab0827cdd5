"""Macros that do what one action does."""

from collections.abc import Iterator

from msgspec.structs import replace

from ombix.core.audit.model import AuditSubject, Finding, Rule, at
from ombix.core.keymap.changes import Bind, Remove
from ombix.core.keymap.outcomes import Play, in_a_row


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Own macros on keys of which one action is proved to do the same on every text that was tried."""
    macros = subject.keymap.macros
    known: dict[str, tuple[str, ...]] = {}
    for binding in subject.own:
        outcome = binding.outcome
        macro = macros.get(outcome.macro) if isinstance(outcome, Play) and outcome.times == 1 else None
        if macro is None:
            continue
        if macro.name not in known:
            known[macro.name] = subject.one_action_for(macro)
        if not known[macro.name]:
            continue
        name, *others = known[macro.name]
        bound = subject.bound.get(name, ())
        keys = f", which {subject.show(bound[0].keys)} runs" if bound else ""
        also = f" (as do {', '.join(others)})" if others else ""
        message = f"the macro {macro.name} ({in_a_row(macro.steps)}) does what {name} does{keys}{also}"
        mend = f"Bind {name} in place of the macro."
        finding = RULE.finding(message, at(binding), binding.trigger, subject.states(binding), mend)
        where = "" if binding.where == "always" else binding.where
        changes = (Remove(macro.name, binding.keys, binding.where), Bind(name, binding.keys, where, "", bool(bound)))
        opposite = subject.catalogue.actions[name].inverse
        # Of a pair, one alone with keys would be a finding of its own.
        yield finding if opposite and not subject.bound.get(opposite) else replace(finding, changes=changes)


RULE = Rule(
    name="longer-way",
    severity="note",
    what="A macro does, step by step, what one action does. That it does was held against more than ten thousand texts.",
    why="An action is one change that is taken back at once, works where an editor has no macros, and is not broken by other "
    "keys.",
    example="""\
format = 1
name = "example"

[macro.tidy]
press = "Alt+F7"
steps = [{ do = "cursor.line-end" }, { do = "edit.newline" }]
""",
    mend="Bind the action in place of the macro.",
    check=check,
)
