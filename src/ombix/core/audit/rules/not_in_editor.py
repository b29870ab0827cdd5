"""A binding that an editor of the workspace cannot have on its keys."""

from collections.abc import Iterator, Sequence

from msgspec.structs import replace

from ombix.core.audit.model import AuditSubject, Finding, FindingTable, MissingBinding, Rule, at, in_one_table
from ombix.core.keys.notation import Trigger


def check(subject: AuditSubject) -> Iterator[Finding]:
    """The bindings of the keymap that an editor does not obey, with the keys or the action that come nearest there."""
    for view in subject.editor_views():
        for missing in view.missing:
            binding = missing.binding
            instead = _instead(missing, subject)
            message = f"{binding.outcome} is not on {subject.show(binding.trigger)} in {view.name}: {missing.why}"
            found = RULE.finding(
                f"{message}; {instead}" if instead else message, at(binding), binding.trigger, cause=view.name
            )
            row: tuple[Trigger | str, ...] = (binding.trigger, str(binding.outcome), instead or missing.why)
            yield replace(found, table=FindingTable(("keys", "action", f"in {view.name}"), (row,)))


def _instead(missing: MissingBinding, subject: AuditSubject) -> str:
    """The keys that it has there instead, or the action that comes nearest; empty for neither."""
    if missing.moved:
        return f"it is on {' and '.join(subject.show(keys) for keys in dict.fromkeys(missing.moved))}"
    return f"nearest is {missing.nearest}" if missing.nearest else ""


def together(subject: AuditSubject, findings: Sequence[Finding]) -> Finding:
    """One finding for an editor, with a table."""
    return in_one_table(findings, f"{len(findings)} bindings are not in {findings[0].cause}")


RULE = Rule(
    name="not-in-editor",
    severity="note",
    what="An editor of the workspace cannot have a binding of the keymap on its keys: it has no command for it, its file cannot "
    "name the keys, or its terminal does not tell them from others.",
    why="The keymap looks as if the key worked there. It does what it does by default, or nothing.",
    example="""\
format = 1
name = "example"

[bind.program]
start = "F8"
""",
    mend="Bind what comes nearest for that editor, choose keys that it can have, or leave the keys alone there.",
    check=check,
    together=together,
    editors=True,
)
