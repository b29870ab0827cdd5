"""Frequent actions without keys."""

from collections.abc import Iterator

from ombix.core.audit.model import AuditSubject, Finding, Rule, Spot
from ombix.core.errors import Place


def check(subject: AuditSubject) -> Iterator[Finding]:
    """The frequent actions that an editor's defaults and the keymap leave unbound, in one finding.

    Without an editor's defaults below, the keymap leaves most actions to the editor: then only those are looked at that
    a layer takes away.
    """
    frequent = [
        action for action in subject.catalogue.actions.values() if action.frequent and action.name not in subject.bound
    ]
    if subject.has_editor():
        missing = frequent
        own = subject.own_layers
        file = own[-1].name.id if own else "the keymap"
        spots: tuple[Spot, ...] = (Spot(Place(file), ""),)
    else:
        removed = {removal.action: removal.place for layer in subject.own_layers for removal in layer.removals}
        missing = [one for one in frequent if one.name in removed]
        spots = tuple(Spot(removed[one.name], one.name) for one in missing)
    if missing:
        yield RULE.finding(f"used all day, but without keys: {', '.join(one.name for one in missing)}", spots)


RULE = Rule(
    name="no-keys",
    severity="note",
    what="Actions that most people use all day have no keys: none in the editor's defaults and none in the keymap, or "
    "their keys were taken away.",
    why="They are done by menu or mouse, many times a day.",
    example="""\
format = 1
name = "example"

[bind.history]
undo = false
""",
    mend="Bind them, or accept the finding with a reason.",
    check=check,
)
