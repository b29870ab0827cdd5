"""Same keys, different actions, and one is an exception to the other that the policy decides."""

from collections.abc import Iterator

from msgspec.structs import replace

from ombix.core.audit.model import AuditSubject, Finding, Rule, Winner, at
from ombix.core.audit.rules.clash import all_states, named, overlapping


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Keys for which in some states a narrower binding wins, or one that the policy prefers; one finding a key."""
    for trigger, table in subject.tables.items():
        if len(table.rows) < 2:
            continue
        # Those that never win are no general rule that there is an exception to: that is the rule covered.
        wins = {id(row.binding) for row in table.rows}
        winners = []
        for one in overlapping(subject, table, is_decided=True):
            beaten = tuple(other for other in one.beaten if id(other) in wins)
            if beaten:
                winners.append(Winner(one.states, one.binding, beaten))
        if not winners:
            continue
        general = {id(other): other for winner in winners for other in winner.beaten}
        special = [winner.binding for winner in winners]
        others = [one for one in general.values() if one not in special] or list(general.values())
        message = f"{subject.show(others[0].keys)} is {named(others, 'or')}, but {named(special, 'or')} in some of those states"
        spots = at(*dict.fromkeys([*special, *others]))
        finding = RULE.finding(message, spots, trigger, all_states(winners, subject.space))
        yield replace(finding, winners=tuple(winners))


RULE = Rule(
    name="exception",
    severity="note",
    what="A key does one thing in general and another in some states: the conditions overlap, and the editor's way of "
    "deciding settles it.",
    why="It works, but the reader of the wider line does not see the exception. In an editor that decides otherwise it "
    "is the other way round.",
    example="""\
format = 1
name = "example"

[bind.search]
next = { press = "F7", where = "pane is text" }

[bind.problems]
check = { press = "F7", where = "pane is text and modified" }
""",
    mend="Nothing has to be done. To be clear, exclude the narrower condition from the wider one.",
    check=check,
)
