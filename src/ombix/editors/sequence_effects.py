"""What ported keys leave for the next: bindings that are exact alone, and not one after the other."""

from collections.abc import Iterable, Iterator, Sequence
from itertools import islice
from typing import NamedTuple

from ombix.core.keys.notation import Trigger
from ombix.core.porting import PortEntry
from ombix.editors.command_effects import EffectJudge
from ombix.editors.dialect import Dialect
from ombix.text.effects.buffer import Buffer
from ombix.text.effects.compared_states import StartState, small_states
from ombix.text.effects.execution import CommandRun
from ombix.text.effects.program_comparison import begun, compare_over, fits

MOST_ROWS = 600
"""Rows of keys that are compared for one section of an editor."""
_PROBES = 40
_PASTES = ("kept", "put-", "paste-")


class KeysInARow(NamedTuple):
    """Keys that are exact each, and differ one after the other, with how they do."""

    triggers: tuple[Trigger, ...]
    sentence: str


class _Pair(NamedTuple):
    """What keys do in the source and in the target."""

    trigger: Trigger
    source: CommandRun
    target: CommandRun
    leaves: frozenset[str]
    """What is not seen of a text and is left behind: `goal`, `cuts`, `lines`, `mark`, `past`."""

    @property
    def takes(self) -> frozenset[str]:
        """What of that its commands go by."""
        every = (*self.source.programs, *self.target.programs)
        found = {"mark"}
        if any(one.keeps_goal for one in every):
            found.add("goal")
        if any(one.adds_up for one in every):
            found.add("cuts")
        if self.pastes:
            found.add("lines")
        if any("take-back" in one.about for one in every):
            found.add("past")
        return frozenset(found)

    @property
    def pastes(self) -> bool:
        """Whether what was kept is put in."""
        return any(
            word in program.text for program in (*self.source.programs, *self.target.programs) for word in _PASTES
        )


def rows_that_differ(entries: Iterable[PortEntry], judge: EffectJudge, target: Dialect) -> list[KeysInARow]:
    """Rows of two and three exact bindings of a port that do not do in the target what they do in the source: those in which
    one takes what another one leaves behind, beside the text, the cursor, the selection and what is kept."""
    found: dict[tuple[Trigger, ...], KeysInARow] = {}
    exact = [entry for entry in entries if entry.verdict == "exact" and entry.trigger is not None]
    for section in target.edited_sections:
        pairs = list(_pairs(exact, section, judge))
        if not pairs:
            continue
        manners = (pairs[0].source.manner, pairs[0].target.manner)
        starts = [
            state for state in small_states()
            if state.anchor is None and all(fits(state, manner) for manner in manners)
        ]  # fmt: skip
        starts = starts[:: max(1, len(starts) // _PROBES)]
        for row in islice(_rows(pairs), MOST_ROWS):
            compared = compare_over(_joined([one.source for one in row]), _joined([one.target for one in row]), starts)
            if compared.start is not None:
                keys = tuple(one.trigger for one in row)
                found.setdefault(keys, KeysInARow(keys, compared.sentence))
    # A row within another one tells enough.
    return [
        one for one in found.values()
        if len(one.triggers) < 3 or not {one.triggers[:2], one.triggers[1:]} & found.keys()
    ]  # fmt: skip


def _pairs(exact: Sequence[PortEntry], section: str, judge: EffectJudge) -> Iterator[_Pair]:
    seen: set[tuple[CommandRun, CommandRun]] = set()
    for entry in exact:
        written = dict(entry.commands).get(section, "")
        there = judge.does(section, written) if written else None
        here = judge.promised(entry.source, entry.macro, section, written, True) if there is not None else None
        if there is None or here is None or "always" in (*here.unsure, *there.unsure) or (here, there) in seen:
            continue
        seen.add((here, there))
        assert entry.trigger is not None
        yield _Pair(entry.trigger, here, there, frozenset(_left_by(here)) | frozenset(_left_by(there)))


def _left_by(side: CommandRun) -> Iterator[str]:
    every = [state for state in small_states() if state.anchor is None and fits(state, side.manner)]
    for start in every[:: max(1, len(every) // 12)]:
        yield from _hidden(side, start)


def _hidden(side: CommandRun, start: StartState) -> Iterator[str]:
    buffer = begun(start, side.manner)
    before = buffer.copy()
    side.run(buffer)
    if buffer.goal is not None:
        yield "goal"
    if buffer.adds_up or buffer.adds_copies:
        yield "cuts"
    if buffer.by_lines != _by_lines(buffer) or buffer.clipboard != before.clipboard:
        yield "lines"
    if buffer.marking:
        yield "mark"
    if buffer.past:
        yield "past"


def _by_lines(buffer: Buffer) -> bool:
    return buffer.clipboard.endswith("\n")


def _rows(pairs: Sequence[_Pair]) -> Iterator[tuple[_Pair, ...]]:
    """Rows in which one takes what another one leaves."""
    for one in pairs:
        for other in pairs:
            if one.leaves & other.takes:
                yield one, other
    for one in pairs:
        if "cuts" in one.leaves:
            yield from ((one, one, other) for other in pairs if other.pastes)
        if "mark" in one.leaves:
            moves = [pair for pair in pairs if not pair.takes & {"cuts", "lines"}]
            yield from ((one, move, other) for move in moves[:8] for other in pairs if "cuts" in other.takes)


def _joined(sides: Sequence[CommandRun]) -> CommandRun:
    """Sides one after the other."""
    return CommandRun(
        tuple(program for side in sides for program in side.programs), sides[0].manner,
        tuple(test for side in sides for test in (side.unsure or ("",) * len(side.programs))),
        tuple(
            manner
            for side in sides
            for manner in (side.manners or (side.manner,) * len(side.programs))
        ),
    )  # fmt: skip
