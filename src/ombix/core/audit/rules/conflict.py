"""What a merge left open."""

from collections.abc import Iterator

from ombix.core.audit.model import AuditSubject, Finding, Rule, Spot
from ombix.core.keymap.bindings import Unsettled
from ombix.core.keys.notation import write


def check(subject: AuditSubject) -> Iterator[Finding]:
    """A finding for each thing that nobody has settled."""
    for layer in subject.own_layers:
        for one in layer.unsettled:
            yield _finding(one)
    for one in subject.unsettled:
        yield _finding(one, "Change the workspace file by hand, and take the table out.")


def _finding(one: Unsettled, mend: str = "") -> Finding:
    what = ".".join(one.at) or write(one.keys)
    said = [
        f"{side} had {text}" if text else f"{side} had nothing"
        for side, text in (("ours", one.ours), ("theirs", one.theirs))
    ]
    message = f"{what} is not settled behind a merge: {one.why + '; ' if one.why else ''}{', '.join(said)}"
    return RULE.finding(message, (Spot(one.place, f"conflict {what}"),), one.keys or None, mend=mend)


RULE = Rule(
    name="conflict",
    severity="error",
    what="A merge left something open that both sides changed, each otherwise.",
    why="Until somebody says which one holds, one side's change is not in the keymap.",
    example="""\
format = 1
name = "example"

[bind.line]
delete = "Ctrl+K"

[[conflict]]
at = "bind.line.delete"
base = '"Ctrl+D"'
ours = '"Ctrl+K"'
theirs = '"Ctrl+L"'
""",
    mend="Leave the entry as it is, or take what the other side had; ombix settle does both.",
    check=check,
)
