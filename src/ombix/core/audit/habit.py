"""Keys that mean the same nearly everywhere, bound to something else."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at, is_own
from ombix.core.conditions import NEVER
from ombix.core.keymap import Do
from ombix.core.keys import parse, write

# Common to the style guides of the three platforms; Mod is Ctrl, or Command on a Mac.
HABITS = {
    "Mod+C": ("edit.copy", "edit.copy-selection", "edit.copy-line"),
    "Mod+X": ("edit.cut", "edit.cut-line"),
    "Mod+V": ("edit.paste",),
    "Mod+Z": ("history.undo",),
    "Mod+S": ("files.save",),
    "Mod+F": ("search.find",),
}


def check(ground: Ground) -> Iterator[Finding]:
    """Universal chords that do something else while text is edited."""
    over_text = ground.space.states("pane is text")
    for keys, usual in HABITS.items():
        trigger = ground.platform.resolve(parse(keys))
        table = ground.tables.get(trigger)
        for row in table.rows if table else ():
            outcome = row.binding.outcome
            both = ground.space.both(row.states, over_text)
            if both == NEVER or not is_own(row.binding) or (isinstance(outcome, Do) and outcome.action in usual):
                continue
            message = f"{write(trigger)} is {outcome}; hands expect {usual[0]}"
            yield RULE.finding(message, at(row.binding), trigger, both)


RULE = Rule(
    name="habit",
    severity="warning",
    what="A chord that copies, cuts, pastes, undoes, saves or finds nearly everywhere does something else over text.",
    why="Hands press it without asking, and are surprised.",
    example="""\
format = 1
name = "example"

[bind.search]
next = "Mod+V"
""",
    mend="Give the action other keys and leave this chord to what it usually does.",
    check=check,
)
