"""Actions that have keys on one platform and none on another."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at
from ombix.core.keymap import Binding, Do


def check(ground: Ground) -> Iterator[Finding]:
    """Actions of the own layers that are bound on some platforms only."""
    own = [binding for layer in ground.own_layers for binding in layer.bindings]
    limited = [binding for binding in own if binding.platforms and isinstance(binding.outcome, Do)]
    found: dict[str, list[Binding]] = {}
    for binding in limited:
        assert isinstance(binding.outcome, Do)
        found.setdefault(binding.outcome.action, []).append(binding)
    bound = {
        platform.name: {str(binding.outcome) for binding in ground.keymap.in_force(platform)}
        for platform in ground.platforms
        if found
    }
    for action, bindings in found.items():
        outcomes = {str(binding.outcome) for binding in bindings}
        have = [platform for platform in ground.platforms if bound[platform.name] & outcomes]
        lack = [platform for platform in ground.platforms if not bound[platform.name] & outcomes]
        if have and lack:
            has, has_not = (" and ".join(platform.title for platform in side) for side in (have, lack))
            yield RULE.finding(
                f"{action} has keys on {has} and none on {has_not}", at(bindings[0]), bindings[0].trigger
            )


RULE = Rule(
    name="one-platform",
    severity="note",
    what="An action has keys on one platform, and none on another.",
    why="On the other machine the hand finds nothing there.",
    example="""\
format = 1
name = "example"

[bind.view]
soft-wrap = { linux = "Alt+W" }
""",
    workspace='platform = "linux"',
    mend="Write press for all platforms and name only the exceptions.",
    check=check,
)
