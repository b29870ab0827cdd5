"""From the neutral model to another editor's means: for each binding a verdict, and what is to be written."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from ombix.core.carrying import Ground
from ombix.core.conditions import NEVER, Space
from ombix.core.deciding import Policy, Table
from ombix.core.free_keys import FreeKeys, give_defaults_keys, give_lost_ones_keys
from ombix.core.keymap import Binding, Macro, Nothing
from ombix.core.keys import Trigger, write
from ombix.core.verdicts import Means, Port


def port(
    tables: Sequence[Table],
    macros: dict[str, Macro],
    target: Means,
    defaults: Mapping[Trigger, Table],
    canonical: Callable[[Trigger], Trigger],
    space: Space,
    source_differs: Callable[[Binding], str] = lambda binding: "",
    rehome: bool = False,
    source_policy: Policy | None = None,
    within: int | None = None,
    avoid: Callable[[Trigger], bool] = lambda trigger: False,
    rank: Callable[[Binding], int] = lambda binding: 0,
) -> Port:
    """Carry the decisions of a keymap over to another editor.

    `tables` are the source's decisions by trigger; `defaults` those of the target without any file, by canonical
    trigger. `canonical` gives the trigger that stands for all those which the target cannot tell apart; a trigger that
    the target's file cannot have is written as another one that stands for the same. A binding whose keys cannot be had,
    and whose action has no others in the target, gets free ones: see `give_lost_ones_keys`.
    `source_differs` says how what the source's command does differs from the action it stands for; `source_policy` how
    the source decides (None: nothing is known of it), and `within` the states that it can be in (None: all). `avoid` tells
    which chords are not to be chosen as free ones, `rank` how strong the target's policy takes a binding to be. With
    `rehome` each default that lost its only keys gets free ones.

    A key that does several things by mode does in a target without modes what it does where text is typed; if nothing,
    what it does where keys are commands. The target's own sequences that would make a key of the source wait are taken
    away, and so is a default that would fire before a sequence of the source is complete.
    """
    ground = Ground(tables, macros, target, defaults, canonical, space, source_policy, source_differs, rank)
    ground.within = space.possible if within is None else within
    for table in tables:
        for row in table.rows:
            ground.carry(row, table)
    free = FreeKeys(ground, avoid)
    give_lost_ones_keys(ground, free)
    _note_waiting(ground)
    if rehome:
        give_defaults_keys(ground, free)
    return ground.result


def _note_waiting(ground: Ground) -> None:
    """Keys that wait in the target, as a sequence of the source begins with what arrives as the same bytes there."""
    longer: dict[Trigger, list[tuple[Trigger, int]]] = {}
    for (keys, _section), found in ground.taken.items():
        for length in range(1, len(keys)):
            longer.setdefault(keys[:length], []).extend(
                (keys, states) for states, outcome in found if not isinstance(outcome, Nothing)
            )
    space = ground.space
    for index, entry in enumerate(ground.result.entries if longer else ()):
        if entry.verdict != "exact" or entry.trigger is None or isinstance(entry.source.outcome, Nothing):
            continue
        states = space.minus(entry.states, ground.tables[entry.source.trigger].waits)
        for keys, others in longer.get(ground.canonical(entry.trigger), ()):
            if space.both(states, others) != NEVER:
                how = f"{entry.how}; it waits, as {write(keys)} begins with the same bytes"
                ground.result.entries[index] = replace(entry, verdict="adapted", how=how)
                break
