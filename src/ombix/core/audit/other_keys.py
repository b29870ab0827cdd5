"""The same action has different keys in two editors of the workspace."""

from collections.abc import Iterator
from itertools import combinations

from ombix.core.audit import Finding, Ground, Rule, View, at
from ombix.core.keymap import Binding, Do
from ombix.core.keys import write


def check(ground: Ground) -> Iterator[Finding]:
    """Frequent actions that both editors have over text, on keys none of which is the same."""
    for one, other in combinations(ground.views(), 2):
        keys_one, keys_other = _keys(one, ground), _keys(other, ground)
        for action in keys_one:
            here, there = keys_one[action], keys_other.get(action)
            if not there or {binding.trigger for binding in here} & {binding.trigger for binding in there}:
                continue
            shown = [" or ".join(write(binding.trigger) for binding in side) for side in (here, there)]
            message = f"{action} is {shown[0]} in {one.name} and {shown[1]} in {other.name}"
            yield RULE.finding(message, at(here[0], there[0]), here[0].trigger)


def _keys(view: View, ground: Ground) -> dict[str, list[Binding]]:
    found: dict[str, list[Binding]] = {}
    for trigger in view.tables:
        row = view.over_text_row(trigger, ground.space)
        if row is not None and isinstance(row.binding.outcome, Do) and ground.is_frequent(row.binding.outcome):
            found.setdefault(row.binding.outcome.action, []).append(row.binding)
    return found


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
    editors=True,
)
