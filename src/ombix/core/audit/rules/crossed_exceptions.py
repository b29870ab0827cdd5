"""Exceptions of two platforms that give the same keys different meanings."""

from collections.abc import Iterator
from itertools import combinations

from ombix.core.audit.model import AuditSubject, Finding, Rule, at
from ombix.core.conditions import NEVER
from ombix.core.keymap.bindings import Binding, concrete
from ombix.core.keys.notation import Trigger, write


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Pairs of exceptions with the same keys, on different platforms, for different things, in states that both have."""
    exceptions = [
        binding for layer in subject.own_layers for binding in layer.bindings if 0 < len(binding.platforms) < 2
    ]
    on: dict[str, dict[Trigger, list[Binding]]] = {platform.name: {} for platform in subject.platforms}
    for platform in subject.platforms:
        for binding in exceptions:
            if platform.name in binding.platforms:
                for one in concrete(binding, platform):
                    on[platform.name].setdefault(one.trigger, []).append(one)
    for here, there in combinations(subject.platforms, 2):
        for trigger, firsts in on[here.name].items():
            for first in firsts:
                for second in on[there.name].get(trigger, ()):
                    both = subject.space.both(subject.states(first), subject.states(second))
                    if first.outcome != second.outcome and both != NEVER:
                        message = (
                            f"{write(trigger)} is {first.outcome} on {here.title} and {second.outcome} on {there.title}, "
                            "each by an exception"
                        )
                        yield RULE.finding(message, at(first, second), trigger, both)


RULE = Rule(
    name="crossed-exceptions",
    severity="warning",
    what="Two exceptions for different platforms give the same keys to different actions.",
    why="Each looks harmless in its own line. Whoever changes machines presses the wrong one.",
    example="""\
format = 1
name = "example"

[bind.files]
rename = { press = "F4", mac = "Ctrl+Enter" }
open = { press = "Ctrl+O", windows = "Ctrl+Enter" }
""",
    workspace='platform = "linux"',
    mend="Give one of the two exceptions other keys.",
    check=check,
)
