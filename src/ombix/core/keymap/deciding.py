"""What happens for given keys, and why. One function decides, for every use: looking, auditing, porting, comparing."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Literal, NamedTuple

from msgspec import Struct

from ombix.core.catalogue.actions import Catalogue
from ombix.core.conditions import NEVER, Space, States
from ombix.core.keymap.bindings import Binding, applies_somewhere, by_trigger, effective_states, wide_states
from ombix.core.keymap.outcomes import Nothing
from ombix.core.keys.notation import Trigger, types_text

Wins = Literal["last", "first", "innermost", "specific"]
Prefix = Literal["waits", "timed", "fires"]
Unmatched = Literal["types", "nothing"]


class Policy(Struct, frozen=True):
    """How an editor decides.

    `wins`: of several bindings that apply, the last wins (the higher layer, then the later line); or the first; or the
    innermost, whose condition speaks of what is deepest inside the editor (`Fact.depth`); or the most specific, whose
    condition speaks of the most facts. Ties go to the last.

    `prefix`: a chord that begins a longer sequence waits for the rest; or waits for `wait_ms` milliseconds and then runs
    what it has itself; or fires at once, so that the longer one is never reached.

    `unmatched`: a character that is not bound is typed, or nothing happens.
    """

    wins: Wins = "last"
    prefix: Prefix = "waits"
    wait_ms: int = 1000
    unmatched: Unmatched = "types"

    def order(self, candidates: Sequence[Binding], space: Space, catalogue: Catalogue) -> list[Binding]:
        """The candidates, the strongest first. They come lowest layer first, in the order of their files."""
        if self.wins == "last":
            return list(reversed(candidates))
        if self.wins == "first":
            layers = list(dict.fromkeys(binding.layer.id for binding in candidates))
            return sorted(candidates, key=lambda binding: -layers.index(binding.layer.id))
        rank = self.rank
        return [binding for _, binding in sorted(
            enumerate(candidates), key=lambda pair: (rank(pair[1], space, catalogue), pair[0]), reverse=True
        )]  # fmt: skip

    def rank(self, binding: Binding, space: Space, catalogue: Catalogue) -> int:
        """What the policy itself says of a binding, before the order of layers and lines: more is stronger.

        A condition speaks of what its action needs, too, where it says nothing about that itself.
        """
        if self.wins in ("last", "first"):
            return 0
        facts = space.mentioned(wide_states(binding, space, catalogue))
        if self.wins == "specific":
            return len(facts)
        by_name = space.facts.by_name
        return max((by_name[name].depth for name in facts), default=0)


class _LazyStates(NamedTuple):
    """What a row needs to work its states out."""

    space: Space
    catalogue: Catalogue


class DecisionRow:
    """One line of the complete decision for a trigger: in the states of `states` `binding` wins, and beats `beaten`.

    Most rows are never asked for their states: these are worked out then, as those in which the binding applies.
    """

    __slots__ = ("_states", "beaten", "binding")

    def __init__(self, binding: Binding, states: States | _LazyStates, beaten: tuple[Binding, ...] = ()) -> None:
        self._states = states
        self.binding = binding
        self.beaten = beaten

    def with_binding(self, binding: Binding, beaten: tuple[Binding, ...]) -> "DecisionRow":
        """The same row, with what stands for its bindings."""
        return DecisionRow(binding, self._states if binding is self.binding else self.states, beaten)

    @property
    def states(self) -> States:
        """The possible states in which the binding wins."""
        if isinstance(self._states, _LazyStates):
            self._states = effective_states(self.binding, *self._states)
        return self._states


class DecisionTable:
    """The complete decision for a trigger: rows with disjoint states.

    `losers` are the bindings that win in no state. In the states of `waits` a longer sequence begins with the trigger;
    in those of `hidden` a shorter one fires before it is complete.
    """

    __slots__ = ("hidden", "losers", "rows", "trigger", "waits")

    def __init__(
        self, trigger: Trigger, rows: tuple[DecisionRow, ...], losers: tuple[Binding, ...], hidden: States = NEVER
    ) -> None:
        self.trigger = trigger
        self.rows = rows
        self.losers = losers
        self.waits = NEVER
        self.hidden = hidden

    def rest(self, space: Space) -> States:
        """The possible states in which nothing is bound."""
        rest = space.minus(space.possible, self.hidden)
        for row in self.rows:
            rest = space.minus(rest, row.states)
        return rest

    def at(self, space: Space, state: Mapping[str, str]) -> DecisionRow | None:
        """The row for one state."""
        return next((row for row in self.rows if space.holds(row.states, state)), None)


class Decision(Struct, frozen=True):
    """What happens for given keys in one state, and why.

    `runs`: the binding runs. `waits`: more keys are awaited; `binding`, if there is one, runs when `wait_ms` are over
    (None: as soon as another key does not go on). `types`: the characters are typed. `nothing`: nothing happens.
    `lost` has every other candidate with the reason why it did not win.
    """

    kind: Literal["runs", "waits", "types", "nothing"]
    binding: Binding | None
    reason: str
    lost: tuple[tuple[Binding, str], ...] = ()
    wait_ms: int | None = None


_MANY = 32
"""Candidates for one trigger from which on they are not compared each with each."""


class Decider:
    """Makes the complete decisions of an editor that decides by `policy`."""

    def __init__(self, space: Space, catalogue: Catalogue, policy: Policy) -> None:
        self._space = space
        self._catalogue = catalogue
        self._policy = policy
        self._unasked = _LazyStates(space, catalogue)

    def decide(self, trigger: Trigger, candidates: Sequence[Binding], hidden: States = NEVER) -> DecisionTable:
        """The complete decision for `trigger` over all possible states.

        `candidates` are the bindings of exactly this trigger, lowest layer first, in the order of their files. `hidden`
        are the states in which a shorter sequence fires first.
        """
        space, catalogue = self._space, self._catalogue
        if len(candidates) == 1 and hidden == NEVER:  # by far the most frequent case
            if not applies_somewhere(candidates[0], space, catalogue):
                return DecisionTable(trigger, (), tuple(candidates))
            return DecisionTable(trigger, (DecisionRow(candidates[0], self._unasked),), ())
        possible = space.minus(space.possible, hidden)
        ordered = self._policy.order(candidates, space, catalogue)
        states = [space.both(wide_states(binding, space, catalogue), possible) for binding in ordered]
        rest = possible
        rows: list[DecisionRow] = []
        losers: list[Binding] = []
        overlaps = Overlaps(space, states)
        for index, binding in enumerate(ordered):
            own = space.both(states[index], rest)
            if own == NEVER:
                losers.append(binding)
                continue
            rows.append(DecisionRow(binding, own, tuple([ordered[at] for at in overlaps.behind(index, own)])))
            rest = space.minus(rest, states[index])
        return DecisionTable(trigger, tuple(rows), tuple(losers), hidden)


class Overlaps:
    """Which of many sets have a state in common with another one: asked of their unions first, in halves of halves."""

    def __init__(self, space: Space, sets: Sequence[States]) -> None:
        self._space = space
        self._levels = [list(sets)]
        while len(self._levels[-1]) > 1 and len(sets) > _MANY:
            below = self._levels[-1]
            pairs = [below[at : at + 2] for at in range(0, len(below), 2)]
            self._levels.append([space.either(*pair) if len(pair) > 1 else pair[0] for pair in pairs])

    def behind(self, index: int, own: States) -> Iterator[int]:
        """The numbers of the sets behind one, in order, that meet it."""
        top = len(self._levels) - 1
        for number in range(len(self._levels[top])):
            yield from self._within(top, number, index, own)

    def _within(self, level: int, number: int, index: int, own: States) -> Iterator[int]:
        if ((number + 1) << level) - 1 <= index or not self._space.meet(own, self._levels[level][number]):
            return
        if level == 0:
            yield number
            return
        for below in (2 * number, 2 * number + 1):
            if below < len(self._levels[level - 1]):
                yield from self._within(level - 1, below, index, own)


def decide_all(
    bindings: Iterable[Binding], space: Space, catalogue: Catalogue, policy: Policy
) -> dict[Trigger, DecisionTable]:
    """The complete decisions for every trigger of a keymap, with what sequences and their beginnings do to each other."""
    decide = Decider(space, catalogue, policy).decide
    groups = by_trigger(bindings)
    starts: dict[Trigger, list[Trigger]] = {}
    for trigger in groups:
        if len(trigger) > 1:
            found = [start for length in range(1, len(trigger)) if (start := trigger[:length]) in groups]
            if found:
                starts[trigger] = found
    tables: dict[Trigger, DecisionTable] = {}
    if policy.prefix == "fires":  # what a shorter one does comes first
        order = sorted(groups, key=len) if starts else list(groups)
        for trigger in order:
            hidden = space.union(running(tables[start], space) for start in starts.get(trigger, ()))
            tables[trigger] = decide(trigger, groups[trigger], hidden)
        for trigger, found in starts.items():  # where the shorter one does nothing, the longer one is waited for
            for start in found:
                follows = space.minus(running(tables[trigger], space), running(tables[start], space))
                tables[start].waits = space.either(tables[start].waits, follows)
        return {trigger: tables[trigger] for trigger in groups}
    for trigger, group in groups.items():
        tables[trigger] = decide(trigger, group)
    for trigger, found in starts.items():
        for start in found:
            tables[start].waits = space.either(tables[start].waits, running(tables[trigger], space))
    return tables


def running(table: DecisionTable, space: Space) -> States:
    """The states in which keys do something: keys that were taken away neither wait nor fire."""
    return space.union(row.states for row in table.rows if not isinstance(row.binding.outcome, Nothing))


def decision(
    trigger: Trigger, state: Mapping[str, str], tables: Mapping[Trigger, DecisionTable], space: Space, catalogue: Catalogue,
    policy: Policy,
) -> Decision:  # fmt: skip
    """What happens in one state when these keys are pressed from rest, and nothing has been pressed before them."""
    if policy.prefix == "fires":
        for length in range(1, len(trigger)):
            table = tables.get(trigger[:length])
            row = table.at(space, state) if table else None
            if row is not None and not isinstance(row.binding.outcome, Nothing):
                rest = tables[trigger].rows if trigger in tables else ()
                lost = tuple((one.binding, "a chord that begins it fires first") for one in rest)
                return Decision("runs", row.binding, "it fires as soon as its own keys are pressed", lost)
    table = tables.get(trigger)
    row = table.at(space, state) if table else None
    lost = _lost(table, row, state, space, catalogue)
    longer = (policy.prefix != "fires" or not _runs(row)) and any(
        len(other) > len(trigger) and other[: len(trigger)] == trigger and _runs(one.at(space, state))
        for other, one in tables.items()
    )
    if longer:
        wait = policy.wait_ms if policy.prefix == "timed" and row else None
        return Decision("waits", row.binding if row else None, "longer sequences begin with these keys", lost, wait)
    if row is not None:
        return Decision(
            "runs", row.binding, "its condition is true" if row.binding.where != "always" else "it is bound", lost
        )
    if policy.unmatched == "types" and all(map(types_text, trigger)):
        return Decision("types", None, "the keys are not bound, and characters are typed", lost)
    return Decision("nothing", None, "the keys are not bound", lost)


def _runs(row: DecisionRow | None) -> bool:
    return row is not None and not isinstance(row.binding.outcome, Nothing)


def _lost(
    table: DecisionTable | None,
    winner: DecisionRow | None,
    state: Mapping[str, str],
    space: Space,
    catalogue: Catalogue,
) -> tuple[tuple[Binding, str], ...]:
    if table is None:
        return ()
    lost = []
    for binding in [*(row.binding for row in table.rows), *table.losers]:
        if winner is not None and binding is winner.binding:
            continue
        if not space.holds(effective_states(binding, space, catalogue), state):
            lost.append((binding, "its condition is not true"))
        elif winner is not None and binding.layer.id != winner.binding.layer.id:
            lost.append((binding, f"the layer {winner.binding.layer.name} wins over {binding.layer.name}"))
        else:
            lost.append((binding, "another line of its layer wins"))
    return tuple(lost)
