"""Frequent actions without keys."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule
from ombix.core.errors import Place


def check(ground: Ground) -> Iterator[Finding]:
    """The frequent actions that an editor's defaults and the keymap leave unbound, in one finding.

    Without an editor's defaults below, the keymap leaves most actions to the editor: then only those are looked at that
    a layer takes away.
    """
    if ground.has_editor():
        missing = [one for one in ground.catalogue.actions.values() if one.frequent and one.name not in ground.bound]
        place = Place(ground.own_layers[-1].name if ground.own_layers else "keymap")
        places: tuple[tuple[Place, str], ...] = ((place, ""),)
    else:
        removed = {one.action: one.place for layer in ground.own_layers for one in layer.removals}
        missing = [
            one for one in ground.catalogue.actions.values()
            if one.frequent and one.name in removed and one.name not in ground.bound
        ]  # fmt: skip
        places = tuple((removed[one.name], one.name) for one in missing)
    if missing:
        yield RULE.finding(f"used all day, but without keys: {', '.join(one.name for one in missing)}", places)


RULE = Rule(
    name="no-keys",
    severity="note",
    what="Actions that most people use all day have no keys: none in the editor's defaults and none in the keymap, or "
    "their keys were taken away.",
    why="They are done by menu or mouse, many times a day.",
    example="""\
format = 1
name = "example"

[bind.history]
undo = false
""",
    mend="Bind them, or accept the finding with a reason.",
    check=check,
)
