"""A removal that removes nothing."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at
from ombix.core.conditions import NEVER
from ombix.core.keymap import Do, Nothing
from ombix.core.keys import write


def check(ground: Ground) -> Iterator[Finding]:
    """Actions and keys that are taken away although no lower layer has them."""
    lower: set[str] = set()
    for layer in ground.keymap.layers:
        for removal in layer.removals:
            if removal.action not in lower:
                message = f"{removal.action} has no keys in a lower layer that could be taken away"
                yield RULE.finding(message, ((removal.place, removal.action),))
        lower.update(one.outcome.action for one in layer.bindings if isinstance(one.outcome, Do))
    for table in ground.tables.values():
        for row in table.rows:
            if isinstance(row.binding.outcome, Nothing) and not row.beaten and row.binding.layer != "":
                weaker = [one for one in table.losers if ground.space.both(ground.states(one), row.states) != NEVER]
                if not weaker and ground.has_editor():
                    message = f"{write(table.trigger)} is bound to nothing that could be taken away"
                    yield RULE.finding(message, at(row.binding), table.trigger, row.states)


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
