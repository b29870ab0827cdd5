"""The same keys do different things in two editors of the workspace."""

from collections.abc import Iterator, Sequence
from itertools import combinations

from msgspec.structs import replace

from ombix.core.audit.model import AuditSubject, Finding, FindingTable, Rule, at, in_one_table
from ombix.core.keymap.outcomes import Do
from ombix.core.keys.notation import Trigger


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Keys that mean different things over text, where at least one of the meanings is used all day."""
    for one, other in combinations(subject.editor_views(), 2):
        for trigger in one.tables:
            first, second = one.over_text_row(trigger, subject.space), other.over_text_row(trigger, subject.space)
            if first is None or second is None or first.binding.outcome == second.binding.outcome:
                continue
            outcomes = (first.binding.outcome, second.binding.outcome)
            if not all(isinstance(outcome, Do) for outcome in outcomes) or not any(map(subject.is_frequent, outcomes)):
                continue
            message = f"{subject.show(trigger)} is {outcomes[0]} in {one.name} and {outcomes[1]} in {other.name}"
            cause = f"{one.name} and {other.name}"
            found = RULE.finding(message, at(first.binding, second.binding), trigger, cause=cause)
            row: tuple[Trigger | str, ...] = (trigger, *map(str, outcomes))
            yield replace(found, table=FindingTable(("keys", one.name, other.name), (row,)))


def together(subject: AuditSubject, findings: Sequence[Finding]) -> Finding:
    """One finding for two editors, with a table."""
    return in_one_table(findings, f"{len(findings)} everyday keys differ between {findings[0].cause}")


RULE = Rule(
    name="other-meaning",
    severity="note",
    what="The same keys do different things in two editors of the workspace, and at least one of the two is used all day.",
    why="Hands do not know which editor they are in. Each such pair costs a mistake a day.",
    example="""\
format = 1
name = "example"

[bind.history]
undo = "Mod+Z"
""",
    mend="Bind the keys in the keymap, so that they are the same in both.",
    check=check,
    together=together,
    editors=True,
)
