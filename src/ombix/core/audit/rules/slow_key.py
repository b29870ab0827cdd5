"""A frequent key that has to wait, because a longer sequence begins with it."""

from collections.abc import Iterator

from ombix.core.audit.model import AuditSubject, Finding, Rule, at, is_own
from ombix.core.conditions import NEVER
from ombix.core.keymap.outcomes import Nothing
from ombix.core.keys.notation import Trigger, types_text


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Frequent actions on the beginning of a sequence, and sequences that begin with a character that is typed."""
    if subject.policy.prefix == "fires":
        return
    space = subject.space
    starts: dict[Trigger, list[Trigger] | None] = {}
    for trigger in subject.tables:
        for length in range(1, len(trigger)):
            start = trigger[:length]
            if start not in starts:
                starts[start] = [] if _matters(subject, start) else None
            longer = starts[start]
            if longer is not None:
                longer.append(trigger)
    wait = f" for {subject.policy.wait_ms} ms" if subject.policy.prefix == "timed" else ""
    for start, longer in starts.items():
        own = [
            row.binding
            for other in longer or ()
            for row in subject.tables[other].rows
            if is_own(row.binding) and not isinstance(row.binding.outcome, Nothing)
        ]
        if not own:
            continue
        shown, begins = subject.show(start), f"{subject.show(own[0].keys)} begins with it"
        table = subject.tables.get(start)
        for row in table.rows if table else ():
            both = space.both(row.states, table.waits) if table else NEVER
            if both != NEVER and subject.is_frequent(row.binding.outcome):
                message = f"{shown} for {row.binding.outcome} has to wait{wait}: {begins}"
                yield RULE.finding(message, at(row.binding, own[0]), start, both)
        if _is_typed(start):
            for binding in own:
                both = space.both(subject.states(binding), space.changing)
                if both != NEVER:
                    message = f"typing {shown} has to wait{wait}: {subject.show(binding.keys)} begins with it"
                    yield RULE.finding(message, at(binding), start, both)
                    break


def _matters(subject: AuditSubject, start: Trigger) -> bool:
    """Whether the beginning of a sequence is a key that should not wait."""
    table = subject.tables.get(start)
    return _is_typed(start) or (
        table is not None and any(subject.is_frequent(row.binding.outcome) for row in table.rows)
    )


def _is_typed(start: Trigger) -> bool:
    return len(start) == 1 and types_text(start[0])


RULE = Rule(
    name="slow-key",
    severity="warning",
    what="A key that is used all day, or a character that is typed, is also the beginning of a longer sequence.",
    why="The editor cannot know whether more is to come. It waits, and the key feels slow.",
    example="""\
format = 1
name = "example"

[bind.files]
save = "Ctrl+S"
save-as = "Ctrl+S a"
""",
    mend="Begin the sequence with a key that is seldom used, or exclude the states in which text is typed.",
    check=check,
)
