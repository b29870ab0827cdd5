"""Macros that do what one action does."""

from collections.abc import Iterator

from ombix.core.audit.model import AuditSubject, Finding, Rule, Spot, at
from ombix.core.outcomes import Play, in_a_row


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Own macros of which one action is proved to do the same on every text that was tried."""
    for layer in subject.own_layers:
        for macro in layer.macros.values():
            found = subject.one_action_for(macro)
            if not found:
                continue
            name, *others = found
            bound = subject.bound.get(name, ())
            keys = f", which {subject.show(bound[0].keys)} runs" if bound else ""
            also = f" (as do {', '.join(others)})" if others else ""
            message = f"the macro {macro.name} ({in_a_row(macro.steps)}) does what {name} does{keys}{also}"
            places = [one for one in subject.own if isinstance(one.outcome, Play) and one.outcome.macro == macro.name]
            spots = at(places[0]) if places else (Spot(macro.place, macro.name),)
            mend = f"Bind {name} in the place of the macro."
            yield RULE.finding(message, spots, places[0].trigger if places else None, mend=mend)


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
    mend="Bind the action in the place of the macro.",
    check=check,
)
