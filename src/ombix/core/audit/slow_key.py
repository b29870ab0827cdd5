"""A frequent key that has to wait, because a longer sequence begins with it."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at, is_own
from ombix.core.conditions import NEVER
from ombix.core.keys import SHIFT, Trigger, is_character, is_tap, write


def check(ground: Ground) -> Iterator[Finding]:
    """Frequent actions on the beginning of a sequence, and sequences that begin with a character that is typed."""
    if ground.policy.prefix == "fires":
        return
    space = ground.space
    starts: dict[Trigger, list[Trigger] | None] = {}
    for trigger in ground.tables:
        for length in range(1, len(trigger)):
            start = trigger[:length]
            if start not in starts:
                starts[start] = [] if _matters(ground, start) else None
            longer = starts[start]
            if longer is not None:
                longer.append(trigger)
    wait = f" for {ground.policy.wait_ms} ms" if ground.policy.prefix == "timed" else ""
    for start, longer in starts.items():
        own = [row.binding for other in longer or () for row in ground.tables[other].rows if is_own(row.binding)]
        if not own:
            continue
        table = ground.tables.get(start)
        for row in table.rows if table else ():
            both = space.both(row.states, table.waits) if table else NEVER
            if both != NEVER and ground.is_frequent(row.binding.outcome):
                message = f"{write(start)} for {row.binding.outcome} has to wait{wait}: {write(own[0].trigger)} begins with it"
                yield RULE.finding(message, at(row.binding, own[0]), start, both)
        if _is_typed(start):
            for binding in own:
                both = space.both(ground.states(binding), ground.typing)
                if both != NEVER:
                    message = f"typing {write(start)} has to wait{wait}: {write(binding.trigger)} begins with it"
                    yield RULE.finding(message, at(binding), start, both)
                    break


def _matters(ground: Ground, start: Trigger) -> bool:
    """Whether the beginning of a sequence is a key that should not wait."""
    table = ground.tables.get(start)
    return _is_typed(start) or (
        table is not None and any(ground.is_frequent(row.binding.outcome) for row in table.rows)
    )


def _is_typed(start: Trigger) -> bool:
    return len(start) == 1 and is_character(start[0]) and not start[0].modifiers & ~SHIFT and not is_tap(start[0])


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
