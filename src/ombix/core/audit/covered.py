"""A binding that can never fire, because others of its layer are in force wherever it applies."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at
from ombix.core.conditions import NEVER
from ombix.core.keymap import Binding
from ombix.core.keys import write


def check(ground: Ground) -> Iterator[Finding]:
    """Bindings of a layer that stronger ones of that layer cover, one alone or several together."""
    space = ground.space
    for group in ground.groups:
        ordered = ground.policy.order(group, space, ground.catalogue)
        taken = NEVER
        for index, binding in enumerate(ordered):
            own = ground.states(binding)
            stronger = [one for one in ordered[:index] if space.both(ground.states(one), own) != NEVER]
            if own != NEVER and stronger and space.minus(own, taken) == NEVER:
                alone = [one for one in stronger if space.minus(own, ground.states(one)) == NEVER]
                by = alone[:1] or stronger
                if not any(one.outcome == binding.outcome for one in alone) and not _is_clash(ground, by, own):
                    names = " and ".join(str(one.outcome) for one in by)
                    apply = "applies" if len(by) == 1 else "together apply"
                    message = f"{write(binding.trigger)} never runs {binding.outcome}: {names} {apply} wherever it does"
                    yield RULE.finding(message, at(binding, *by), binding.trigger, own)
            taken = space.either(taken, own)


def _is_clash(ground: Ground, by: list[Binding], own: int) -> bool:
    return len(by) == 1 and ground.states(by[0]) == own


RULE = Rule(
    name="covered",
    severity="warning",
    what="A binding can never fire: one other binding with the same keys, or several together, win in every state in "
    "which it applies.",
    why="The line looks as if it did something. Whoever reads the file believes in a key that does not work.",
    example="""\
format = 1
name = "example"

[bind.line]
delete = { press = "Ctrl+D", where = "pane is text and not readonly" }

[bind.tabs]
next = { press = "Ctrl+D", where = "pane is text" }
""",
    mend="Take the covered line out, or put it behind the wider one, or narrow the wider one's condition.",
    check=check,
)
