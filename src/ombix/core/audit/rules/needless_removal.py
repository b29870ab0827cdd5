"""A removal that removes nothing."""

from collections.abc import Iterator

from msgspec.structs import replace

from ombix.core.audit.model import AuditSubject, Finding, Rule, Spot, at, is_own
from ombix.core.conditions import NEVER
from ombix.core.keymap.changes import RemoveTakeAway, RemoveUnbind
from ombix.core.keymap.outcomes import Do, Nothing


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Actions and keys that are taken away although no lower layer has them."""
    lower: set[str] = set()
    for layer in subject.keymap.layers:
        for removal in layer.removals:
            if removal.action not in lower:
                message = f"{removal.action} has no keys in a lower layer that could be taken away"
                found = RULE.finding(message, (Spot(removal.place, removal.action),))
                yield replace(found, changes=(RemoveTakeAway(removal.action),))
        lower.update(binding.outcome.action for binding in layer.bindings if isinstance(binding.outcome, Do))
    if not subject.has_editor():
        return
    for table in subject.tables.values():
        for row in table.rows:
            if isinstance(row.binding.outcome, Nothing) and not row.beaten and is_own(row.binding):
                weaker = [
                    loser for loser in table.losers if subject.space.both(subject.states(loser), row.states) != NEVER
                ]
                if not weaker:
                    message = f"{subject.show(row.binding.keys)} is bound to nothing that could be taken away"
                    found = RULE.finding(message, at(row.binding), table.trigger, row.states)
                    yield replace(found, changes=(RemoveUnbind(row.binding.keys),))


RULE = Rule(
    name="needless-removal",
    severity="note",
    what="Keys are taken away that no lower layer gives. Keys that are taken away by themselves are looked at only with "
    "an editor's defaults below.",
    why="The line suggests that there is something to be kept off, and there is not, perhaps because of a misprint or a "
    "change of the defaults.",
    example="""\
format = 1
name = "example"

[bind.app]
quit = { press = false, why = "too easy to hit by mistake" }
""",
    mend="Take the line out, or name the action or keys that are meant.",
    check=check,
)
