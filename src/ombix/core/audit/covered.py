"""A binding that can never fire, because another one is in force wherever it applies."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule
from ombix.core.conditions import NEVER
from ombix.core.keys import write


def check(ground: Ground) -> Iterator[Finding]:
    """Bindings of a layer that another binding of that layer covers."""
    space = ground.space
    for group in ground.by_layer_and_trigger:
        for index, binding in enumerate(group):
            own = ground.states(binding)
            if own == NEVER:
                continue
            for other_index, other in enumerate(group):
                if other_index == index:
                    continue
                first, second = sorted((index, other_index))
                if ground.winner(group[first], group[second]) is not other:
                    continue
                states = ground.states(other)
                if not space.covers(states, own) or (states == own and other.outcome != binding.outcome):
                    continue
                again = "the same again" if other.outcome == binding.outcome else f"{other.outcome}"
                yield Finding(
                    RULE.name, RULE.severity, binding.trigger,
                    f"{write(binding.trigger)} never runs {binding.outcome}: {again} applies wherever it does",
                    (binding, other), own, RULE.mend,
                )  # fmt: skip
                break


RULE = Rule(
    name="covered",
    severity="warning",
    what="A binding can never fire: another one with the same keys wins in every state in which it applies.",
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
