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
    starts: dict[Trigger, list[Trigger]] = {}
    for trigger in ground.tables:
        if len(trigger) > 1:
            starts.setdefault(trigger[:1], []).append(trigger)
            for length in range(2, len(trigger)):
                if trigger[:length] in ground.tables:
                    starts.setdefault(trigger[:length], []).append(trigger)
    wait = f" for {ground.policy.wait_ms} ms" if ground.policy.prefix == "timed" else ""
    for start, longer in starts.items():
        own = [row.binding for other in longer for row in ground.tables[other].rows if is_own(row.binding)]
        if not own:
            continue
        table = ground.tables.get(start)
        for row in table.rows if table else ():
            both = space.both(row.states, table.waits) if table else NEVER
            if both != NEVER and ground.is_frequent(row.binding.outcome):
                message = f"{write(start)} for {row.binding.outcome} has to wait{wait}: {write(own[0].trigger)} begins with it"
                yield RULE.finding(message, at(row.binding, own[0]), start, both)
        chord = start[0]
        if len(start) == 1 and is_character(chord) and not chord.modifiers & ~SHIFT and not is_tap(chord):
            typing = space.states("pane is text and mode in (plain, insert) and not readonly")
            for binding in own:
                both = space.both(ground.states(binding), typing)
                if both != NEVER:
                    message = f"typing {write(start)} has to wait{wait}: {write(binding.trigger)} begins with it"
                    yield RULE.finding(message, at(binding), start, both)
                    break


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
