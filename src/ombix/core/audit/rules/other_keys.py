"""The same action has different keys in two editors of the workspace."""

from collections.abc import Iterator, Sequence
from itertools import combinations

from msgspec.structs import replace

from ombix.core.audit.model import AuditSubject, EditorView, Finding, FindingTable, Rule, at, in_one_table
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.outcomes import Do


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Frequent actions that both editors have over text, on keys none of which is the same."""
    for one, other in combinations(subject.editor_views(), 2):
        keys_one, keys_other = _keys(one, subject), _keys(other, subject)
        for action in keys_one:
            here, there = keys_one[action], keys_other.get(action)
            if not there or {binding.trigger for binding in here} & {binding.trigger for binding in there}:
                continue
            shown = [_shown(side, subject) for side in (here, there)]
            message = f"{action} is {shown[0]} in {one.name} and {shown[1]} in {other.name}"
            found = RULE.finding(message, at(here[0], there[0]), here[0].trigger, cause=f"{one.name} and {other.name}")
            yield replace(found, table=FindingTable(("action", one.name, other.name), ((action, *shown),)))


def _shown(bindings: list[Binding], subject: AuditSubject) -> str:
    return " or ".join(subject.show(binding.trigger) for binding in bindings)


def _keys(view: EditorView, subject: AuditSubject) -> dict[str, list[Binding]]:
    found: dict[str, list[Binding]] = {}
    for trigger in view.tables:
        row = view.over_text_row(trigger, subject.space)
        if row is not None and isinstance(row.binding.outcome, Do) and subject.is_frequent(row.binding.outcome):
            found.setdefault(row.binding.outcome.action, []).append(row.binding)
    return found


def together(subject: AuditSubject, findings: Sequence[Finding]) -> Finding:
    """One finding for two editors, with a table."""
    return in_one_table(findings, f"{len(findings)} actions used all day have other keys in {findings[0].cause}")


RULE = Rule(
    name="other-keys",
    severity="note",
    what="An action that is used all day has keys in two editors of the workspace, and none of them is the same in both.",
    why="Hands have to learn it twice, and press the wrong one.",
    example="""\
format = 1
name = "example"

[bind.history]
undo = "Mod+Z"
""",
    mend="Bind the action in the keymap, so that it has the same keys in both.",
    check=check,
    together=together,
    editors=True,
)
