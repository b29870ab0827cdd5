"""One of two opposites has keys, the other has none."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at, is_own


def check(ground: Ground) -> Iterator[Finding]:
    """Actions whose opposite, which has them as its own opposite, is not bound."""
    for name, bindings in ground.bound.items():
        action = ground.catalogue.actions.get(name)
        own = [binding for binding in bindings if is_own(binding)]
        if action is None or not own or action.inverse in (None, name) or action.inverse in ground.bound:
            continue
        inverse = ground.catalogue.actions[str(action.inverse)]
        if inverse.inverse == name:
            yield RULE.finding(f"{name} has keys, and its opposite {inverse.name} has none", at(own[0]), own[0].trigger)


RULE = Rule(
    name="half-pair",
    severity="note",
    what="An action is bound, and the action that is its opposite is not.",
    why="Whoever goes too far has to find another way back.",
    example="""\
format = 1
name = "example"

[bind.line]
move-up = "Alt+PageUp"
""",
    mend="Bind the opposite as well, near the first.",
    check=check,
)
