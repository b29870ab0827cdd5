"""Same keys, different actions, in the same state, and whichever line comes last wins."""

from collections.abc import Iterator

from msgspec.structs import replace

from ombix.core.audit.fix_changes import move_away
from ombix.core.audit.model import AuditSubject, Finding, Rule, Winner, at, is_own
from ombix.core.conditions import NEVER, Space, States
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.deciding import DecisionTable


def overlapping(subject: AuditSubject, table: DecisionTable, is_decided: bool) -> list[Winner]:
    """For each set of states in which one of several bindings of one layer wins a key: the true winner, and those of its
    layer with other outcomes that it beats there; of the latter those against which more than the order of the lines
    decides (the condition is narrower, or the policy prefers it), or those against which nothing else does."""
    space = subject.space
    found: list[Winner] = []
    for row in table.rows:
        winner = row.binding
        if not is_own(winner):
            continue
        beaten = [
            one for one in row.beaten
            if one.layer.id == winner.layer.id and one.outcome != winner.outcome
            and _is_decided(subject, winner, one) == is_decided
        ]  # fmt: skip
        states = space.both(row.states, space.union(subject.states(one) for one in beaten))
        if states != NEVER:
            found.append(Winner(states, winner, tuple(beaten)))
    return found


def _is_decided(subject: AuditSubject, first: Binding, second: Binding) -> bool:
    """Whether one is narrower than the other, or the policy itself prefers one."""
    space, policy = subject.space, subject.policy
    one, other = subject.states(first), subject.states(second)
    if one != other and space.both(one, other) in (one, other):
        return True
    return policy.rank(first, space, subject.catalogue) != policy.rank(second, space, subject.catalogue)


def named(bindings: list[Binding], last: str) -> str:
    """What bindings do, as a list in words."""
    names = list(dict.fromkeys(str(binding.outcome) for binding in bindings))
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} {last} {names[-1]}"


def all_states(winners: list[Winner], space: Space) -> States:
    """The states of all of them."""
    return space.union(winner.states for winner in winners)


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Keys for which in some states nothing but the order of the lines decides; one finding a key."""
    for trigger, table in subject.tables.items():
        if len(table.rows) + len(table.losers) < 2:
            continue
        winners = overlapping(subject, table, is_decided=False)
        if not winners:
            continue
        everyone = {id(one): one for winner in winners for one in (winner.binding, *winner.beaten)}
        concerned = sorted(everyone.values(), key=subject.position)
        keys = concerned[0].keys
        message = f"{subject.show(keys)} is {named(concerned, 'and')}, and whichever line comes last wins"
        if len(winners) == 1:
            message += f": {winners[0].binding.outcome} wins"
        finding = RULE.finding(message, at(*concerned), trigger, all_states(winners, subject.space))
        changes = move_away(subject, min(concerned, key=lambda one: (one.where != "always", subject.position(one))))
        yield replace(finding, winners=tuple(winners), changes=changes)


RULE = Rule(
    name="clash",
    severity="error",
    what="The same keys are bound to different things in one layer, there are states in which more than one applies, and "
    "only the order of the lines decides.",
    why="Only one of them happens. Moving a line changes what the key does.",
    example="""\
format = 1
name = "example"

[bind.line]
copy-down = "Ctrl+D"

[bind.edit]
delete-right = "Ctrl+D"
""",
    mend="Give all but one of them other keys, or each a condition that excludes the others'.",
    check=check,
)
