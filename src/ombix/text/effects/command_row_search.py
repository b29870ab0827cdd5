"""Which commands in a row do what another program does: the shortest rows first, pruned by what they do to a few states."""

from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

from ombix.text.effects.buffer import Buffer
from ombix.text.effects.compared_states import StartState, small_states
from ombix.text.effects.execution import CommandRun, EditorConventions
from ombix.text.effects.program_comparison import Seen, begun, compare, fits, seen
from ombix.text.effects.program_language import EffectProgram

MOST_ROWS = 60_000
"""Rows of commands that are told apart by what they do; longer ones are not looked for beyond."""
_PROBES = 40


class CommandsInARow(NamedTuple):
    """Commands in a row, and the buffers that they lead to from the probes."""

    names: tuple[str, ...]
    buffers: tuple[Buffer, ...]


def ways(
    goal: CommandRun, commands: Mapping[str, EffectProgram], manner: EditorConventions, longest: int = 4
) -> tuple[str, ...] | None:
    """The shortest row of commands of an editor, named, that does the same as `goal` in all states; None where there is none
    of at most `longest` commands."""
    return next((found for name, found in all_ways({"": goal}, commands, manner, longest) if not name), None)


def all_ways(
    goals: Mapping[str, CommandRun], commands: Mapping[str, EffectProgram], manner: EditorConventions, longest: int = 4,
    most_probes: int = _PROBES,
) -> Iterator[tuple[str, tuple[str, ...]]]:  # fmt: skip
    """For each goal that can be reached the shortest row of commands that does the same, as soon as it is found. Rows are told
    apart by what they do from `most_probes` states: with fewer, longer rows are reached, and some are missed."""
    groups: dict[tuple[object, ...], dict[str, CommandRun]] = {}
    for name, goal in goals.items():
        kind = (goal.manner.ends_lines, goal.manner.on_characters, bool(goal.manner.selects))
        groups.setdefault(kind, {})[name] = goal
    for group in groups.values():
        yield from _ways_to(group, commands, manner, longest, most_probes)


def _ways_to(
    goals: Mapping[str, CommandRun],
    commands: Mapping[str, EffectProgram],
    manner: EditorConventions,
    longest: int,
    most_probes: int,
) -> Iterator[tuple[str, tuple[str, ...]]]:
    """The same for goals that can be begun in the same states."""
    other = next(iter(goals.values())).manner
    every = [start for start in small_states() if fits(start, manner) and fits(start, other)]
    probes = every[:: max(1, len(every) // most_probes)]
    wanted: dict[tuple[Seen, ...], list[str]] = {}
    for name, goal in goals.items():
        after = []
        for start in probes:
            buffer = begun(start, goal.manner)
            goal.run(buffer)
            after.append(seen(buffer))
        wanted.setdefault(tuple(after), []).append(name)
    first = CommandsInARow((), tuple(begun(start, manner) for start in probes))
    known = {_all_of(first.buffers)}
    level = [first]
    for _ in range(longest):
        if len(known) > MOST_ROWS:
            return
        following: list[CommandsInARow] = []
        for row in level:
            for name, one in commands.items():
                buffers = tuple(buffer.copy() for buffer in row.buffers)
                done = [manner.run(one, buffer) for buffer in buffers]
                if manner.ends and not all(done) and row.names:
                    continue  # what stops on its way is not the same everywhere
                state = _all_of(buffers)
                if state in known or len(known) > MOST_ROWS:
                    continue
                known.add(state)
                found = CommandsInARow((*row.names, name), buffers)
                following.append(found)
                key = tuple(map(seen, buffers))
                for goal_name in list(wanted.get(key, ())):
                    side = CommandRun(tuple(commands[name] for name in found.names), manner)
                    if not _is_detour(side, probes) and compare(goals[goal_name], side).is_equal:
                        wanted[key].remove(goal_name)
                        yield goal_name, found.names
        level = following


def _is_detour(side: CommandRun, probes: Sequence[StartState]) -> bool:
    """Whether a row puts something into the text that it takes out again."""
    for start in probes:
        buffer = begun(start, side.manner)
        grew, size = False, len(buffer.text)
        for program in side.programs:
            side.manner.run(program, buffer)
            if grew and len(buffer.text) < size:
                return True
            grew, size = grew or len(buffer.text) > size, len(buffer.text)
    return False


def _all_of(buffers: tuple[Buffer, ...]) -> tuple[object, ...]:
    """All that commands behind a row could tell apart."""
    return tuple(
        (
            *seen(buffer),
            buffer.goal,
            buffer.adds_up,
            buffer.adds_copies,
            buffer.killed_at,
            buffer.by_lines,
            buffer.marking,
            buffer.anchor,
        )
        for buffer in buffers
    )
