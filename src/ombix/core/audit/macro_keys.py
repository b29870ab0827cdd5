"""What the keys that a macro presses do where they are pressed."""

from collections.abc import Iterable, Iterator, Mapping
from typing import NamedTuple

from ombix.core.audit.model import AuditSubject
from ombix.core.conditions import Space, States
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.deciding import DecisionTable
from ombix.core.keymap.outcomes import Do, Insert, Outcome, Play, Press, Step
from ombix.core.keys.notation import Trigger, types_text
from ombix.core.snippets.macro_steps import every_step


class PressedRow(NamedTuple):
    """Keys of a step, as far as they are decided at once, and their table; None where nothing is bound to them."""

    keys: Trigger
    table: DecisionTable | None


def pressed_rows(keys: Trigger, tables: Mapping[Trigger, DecisionTable]) -> Iterator[PressedRow]:
    """Keys that are pressed one after the other, cut into what is decided at once: the longest that is bound each time."""
    at = 0
    while at < len(keys):
        size = next((size for size in range(len(keys) - at, 0, -1) if keys[at : at + size] in tables), 0)
        yield PressedRow(keys[at : at + max(size, 1)], tables.get(keys[at : at + size]) if size else None)
        at += max(size, 1)


def always_plays(steps: Iterable[Step], subject: AuditSubject) -> Iterator[str]:
    """The macros that keys of steps run whatever the state."""
    for step in every_step(steps):
        if isinstance(step, Press):
            keys = subject.settled(subject.platform.resolve(step.keys))
            for row in pressed_rows(keys, subject.tables):
                for one in row.table.rows if row.table is not None else ():
                    outcome = one.binding.outcome
                    if isinstance(outcome, Play) and subject.space.covers(one.states, subject.space.text):
                        yield outcome.macro


def said(outcome: Outcome) -> str:
    """What an outcome is called where keys are relied on for it."""
    return (
        outcome.action
        if isinstance(outcome, Do)
        else outcome.key
        if isinstance(outcome, Play | Insert)
        else str(outcome)
    )


def ran_by(
    keys: Trigger, tables: Mapping[Trigger, DecisionTable], states: States, space: Space
) -> list[list[Binding]] | None:
    """For each part of keys that is decided at once the bindings that run in states, none for one that types; None where a part
    does nothing."""
    found: list[list[Binding]] = []
    for row in pressed_rows(keys, tables):
        rows = [one.binding for one in row.table.rows if space.overlap(one.states, states)] if row.table else []
        if not rows and not all(map(types_text, row.keys)):
            return None
        found.append(rows)
    return found


def runs(keys: Trigger, tables: Mapping[Trigger, DecisionTable], states: States, subject: AuditSubject) -> str:
    """What keys do in states of the editor, in words: each of what they run; empty where that is nothing."""
    found = ran_by(keys, tables, states, subject.space) or []
    return ", ".join(" or ".join(dict.fromkeys(said(one.outcome) for one in some)) or "typing" for some in found)
