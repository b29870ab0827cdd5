"""A pane, popup or mode that can be entered and not left."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at, is_own
from ombix.core.conditions import NEVER
from ombix.core.keymap import Binding, Do


def check(ground: Ground) -> Iterator[Finding]:
    """Places that a binding leads into, in which the keymap binds keys, but none that leads out again.

    Without an editor's defaults below, a place in which the keymap binds nothing is left to the editor.
    """
    space = ground.space
    entered: dict[str, list[Binding]] = {}
    exits = NEVER
    for name, bindings in ground.bound.items():
        action = ground.catalogue.actions.get(name)
        if action is None:
            continue
        if action.enters:
            entered.setdefault(action.enters, []).extend(bindings)
        if action.leaves:
            for binding in bindings:
                exits = space.either(exits, space.both(_leaving_states(ground, binding), space.states(action.leaves)))
    for text, bindings in entered.items():
        inside = space.states(text)
        if space.both(inside, exits) != NEVER or not any(is_own(binding) for binding in bindings):
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


def _leaving_states(ground: Ground, binding: Binding) -> int:
    """Where an action that leads out may be used: its own condition alone, as what it needs is where it leads out of."""
    assert isinstance(binding.outcome, Do)
    return ground.space.states(binding.where) if binding.where != "always" else ground.space.possible


RULE = Rule(
    name="no-way-back",
    severity="warning",
    what="A key opens a pane, a popup or a mode for which the keymap binds keys, but none of them leads out of it.",
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
