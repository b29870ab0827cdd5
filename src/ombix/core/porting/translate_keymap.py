"""Makes a port: binding by binding, then other keys for what could not have its own."""

from msgspec.structs import replace

from ombix.core.conditions import NEVER, States
from ombix.core.keymap.outcomes import Nothing
from ombix.core.keys.notation import Trigger, write
from ombix.core.porting.new_keys import give_defaults_keys, give_lost_ones_keys, unused_keys
from ombix.core.porting.port_in_progress import PortInProgress
from ombix.core.porting.request import PortRequest
from ombix.core.porting.translate_binding import translate
from ombix.core.porting.verdicts import Port


def port(request: PortRequest) -> Port:
    """Carry the decisions of a keymap over to another editor.

    A trigger that the target's file cannot have is written as another one that the target cannot tell from it. A binding
    whose keys cannot be had, and whose action has no others in the target, gets free ones: see `give_lost_ones_keys`.

    A key that does several things by mode does in a target without modes what it does where text is typed; if nothing,
    what it does where keys are commands. The target's own sequences that would make a key of the source wait are taken
    away, and so is a default that would fire before a sequence of the source is complete.
    """
    work = PortInProgress(request)
    every = [(row, table) for table in request.source.tables.values() for row in table.rows]
    # Keys that do nothing, and arrive as others do, leave these to the others.
    every.sort(
        key=lambda one: isinstance(one[0].binding.outcome, Nothing) and not work.is_canonical(one[0].binding.trigger)
    )
    if request.target.holds_one_key:  # what a command has already is kept for it
        every.sort(key=lambda one: not work.has_default(one[0]))
    for row, table in every:
        translate(work, row, table)
    free = unused_keys(work)
    give_lost_ones_keys(work, free)
    _note_waiting(work)
    if request.rehome:
        give_defaults_keys(work, free)
    return work.result


def _note_waiting(work: PortInProgress) -> None:
    """Keys that wait in the target, as a sequence of the source begins with what arrives as the same bytes there."""
    longer: dict[Trigger, list[tuple[Trigger, States]]] = {}
    for (keys, _section), found in work.taken.items():
        for length in range(1, len(keys)):
            longer.setdefault(keys[:length], []).extend(
                (keys, states) for states, outcome in found if not isinstance(outcome, Nothing)
            )
    space = work.space
    for index, entry in enumerate(work.result.entries if longer else ()):
        if entry.verdict != "exact" or entry.trigger is None or isinstance(entry.source.outcome, Nothing):
            continue
        states = space.minus(entry.states, work.tables[entry.source.trigger].waits)
        for keys, others in longer.get(work.canonical(entry.trigger), ()):
            if space.both(states, others) != NEVER:
                waits = f"it waits, as {write(keys)} begins with the same bytes"
                work.result.entries[index] = replace(
                    entry, verdict="adapted", how=f"{entry.how}; {waits}", also=(*entry.also, waits)
                )
                break
