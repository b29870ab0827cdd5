"""A pane, popup, mode or begun sequence that can be entered and not left."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at, is_own
from ombix.core.keymap import Binding, Nothing
from ombix.core.keys import parse, write

_CALL_OFF = parse("Escape")[0]


def check(ground: Ground) -> Iterator[Finding]:
    """Places that a binding leads into, in which the keymap binds keys, but none that leads out again.

    Without an editor's defaults below, a place in which the keymap binds nothing is left to the editor.
    """
    yield from _prefixes(ground)
    space = ground.space
    entered: dict[str, list[Binding]] = {}
    exits: list[tuple[str, Binding]] = []
    for name, bindings in ground.bound.items():
        action = ground.catalogue.actions.get(name)
        if action is None:
            continue
        if action.enters:
            entered.setdefault(action.enters, []).extend(bindings)
        if action.leaves:
            exits.extend((action.leaves, binding) for binding in bindings)
    for text, bindings in entered.items():
        inside = space.states(text)
        if not any(is_own(binding) for binding in bindings):
            continue
        # An action that leads out may be used by its own condition: what it needs is where it leads out of.
        ways_out = ((space.both(inside, space.parse(leaves)), binding) for leaves, binding in exits)
        if any(space.overlap(left, space.parse(binding.where)) for left, binding in ways_out):
            continue
        mentioned = space.mentioned(inside)
        furnished = next(
            (
                binding
                for binding in ground.own
                if binding.where != "always"
                and mentioned & space.mentioned(space.parse(binding.where))
                and space.overlap(space.parse(binding.where), inside)
            ),
            None,
        )
        if ground.has_editor() or furnished:
            first = next(binding for binding in bindings if is_own(binding))
            message = f"{first.outcome} leads to {text}, and no key there leads out again"
            yield RULE.finding(message, at(first, *([furnished] if furnished else [])), first.trigger, inside)


def _prefixes(ground: Ground) -> Iterator[Finding]:
    """Sequences that Escape does not call off, because it is bound as their continuation; without a time limit."""
    if ground.policy.prefix != "waits":
        return
    for trigger, table in ground.tables.items():
        if len(trigger) < 2 or trigger[-1] != _CALL_OFF:
            continue
        for row in table.rows:
            action = ground.catalogue.actions.get(str(row.binding.outcome))
            if is_own(row.binding) and not isinstance(row.binding.outcome, Nothing) and not (action and action.leaves):
                message = f"after {write(trigger[:-1])}, Escape runs {row.binding.outcome} and does not call it off"
                yield RULE.finding(message, at(row.binding), trigger, row.states)


RULE = Rule(
    name="no-way-back",
    severity="warning",
    what="A key opens a pane, a popup or a mode for which the keymap binds keys, but none of them leads out of it; or "
    "Escape, which calls off a sequence that was begun by mistake, is bound as its continuation.",
    why="Whoever gets there by mistake is stuck.",
    example="""\
format = 1
name = "example"

[bind.edit]
suggest = "Ctrl+Space"
complete-word = { press = "Tab", where = "popup is suggestions" }
""",
    mend="Bind an action that leads out, like prompt.cancel or mode.normal, in that state.",
    check=check,
)
