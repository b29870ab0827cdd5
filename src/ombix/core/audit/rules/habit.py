"""Keys that mean the same nearly everywhere, bound to something else."""

from collections.abc import Iterator

from msgspec.structs import replace

from ombix.core.audit.fix_changes import move_away
from ombix.core.audit.model import AuditSubject, Finding, Rule, at, is_own
from ombix.core.conditions import NEVER
from ombix.core.keymap.outcomes import Do
from ombix.core.keys.notation import parse

# Common to the style guides of the three platforms; Mod is Ctrl, or Command on a Mac.
HABITS = {
    "Mod+C": ("edit.copy", "edit.copy-selection", "edit.copy-line"),
    "Mod+X": ("edit.cut", "edit.cut-line"),
    "Mod+V": ("edit.paste",),
    "Mod+Z": ("history.undo",),
    "Mod+S": ("files.save",),
    "Mod+F": ("search.find",),
}


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Universal chords that do something else while text is edited."""
    for keys, usual in HABITS.items():
        trigger = subject.platform.resolve(parse(keys))
        table = subject.tables.get(trigger)
        for row in table.rows if table else ():
            outcome = row.binding.outcome
            both = subject.space.both(row.states, subject.space.text)
            if both == NEVER or not is_own(row.binding) or (isinstance(outcome, Do) and outcome.action in usual):
                continue
            message = f"{subject.show(trigger)} is {outcome}; hands expect {usual[0]}"
            found = RULE.finding(message, at(row.binding), trigger, both)
            yield replace(found, changes=move_away(subject, row.binding))


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
