"""A port that is being made: what the source and the target have, and what was written so far."""

from collections.abc import Mapping, Sequence

from msgspec import Struct

from ombix.core.conditions import NEVER, States
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.deciding import DecisionRow, DecisionTable
from ombix.core.keymap.outcomes import Do, Outcome, Step
from ombix.core.keys.notation import Trigger, write
from ombix.core.porting.request import PortRequest
from ombix.core.porting.verdicts import Port, PortEntry


class LostBinding(Struct, frozen=True):
    """A binding that was lost though the target has its sections: the entry's index, and whether it was the keys that the
    target could not have."""

    index: int
    row: DecisionRow
    table: DecisionTable
    homes: tuple[str, ...]
    needs_other_keys: bool


class PortInProgress:
    """A port that is being made: the request, and what was written so far."""

    def __init__(self, request: PortRequest) -> None:
        space = request.space
        self.request = request
        self.result = Port()
        self.tables = request.source.tables
        self.macros = request.source.macros
        self.snippets = request.source.snippets
        self.target = request.target
        self.defaults = request.defaults
        self.space = space
        self.rank = request.rank
        self.nodes = {name: space.states(text) for name, text in self.target.sections().items()}
        self.taken: dict[tuple[Trigger, str], list[tuple[States, Outcome]]] = {}
        """What was put on a trigger in a section, and in which states."""
        self.lost: list[LostBinding] = []
        self.within = space.possible if request.source.within is None else request.source.within
        """The states that the source can be in."""
        self.usual = space.possible if request.usual is None else request.usual
        """The states that an editor usually is in."""
        can_type = self.target.policy.unmatched == "types"
        self.typing = space.typing if can_type else NEVER
        """The states in which a character that is not bound is typed in the target."""
        self.lacking_fact, self.merged = self._merged()
        """A fact that the target is without, as an editor without modes is without the mode, and the states of each of its
        values, those first whose keys the target has; empty where the target has them all."""
        self._canonical: dict[Trigger, Trigger] = {}
        self._expressed: dict[tuple[str, States], bool] = {}
        self._inexpressible: dict[tuple[frozenset[str], frozenset[str], States], str] = {}
        self._facts_of = {
            self.nodes[name]: space.mentioned(space.parse(text)) for name, text in self.target.sections().items()
        }
        self._places: dict[tuple[Outcome, str], Trigger] = {}
        self._defaults_of: dict[Outcome, list[tuple[Trigger, States]]] = {}
        for keys, table in self.defaults.items():
            for row in table.rows:
                self._defaults_of.setdefault(row.binding.outcome, []).append((keys, row.states))
        self._bound = {self.canonical(trigger) for trigger in self.tables}
        self._longer: dict[Trigger, list[Trigger]] = {}
        for keys in self.defaults:
            for length in range(1, len(keys)):
                self._longer.setdefault(keys[:length], []).append(keys)
        self._alike: dict[Trigger, Trigger] = {}
        for trigger in self.target.bindable():
            self._alike.setdefault(self.canonical(trigger), trigger)
        self._written: set[tuple[Trigger, Outcome, str]] = set()
        self._key_of: dict[tuple[str, str], Trigger] = {}
        """The key of each command in a section, in a target that has one for each."""

    def _merged(self) -> tuple[str, list[States]]:
        space = self.space
        can_be = space.minus(space.possible, space.union(map(space.parse, self.target.never)))
        for fact in space.facts.facts:
            if fact.without and not space.overlap(can_be, space.negate(space.literal(fact.name, [fact.without]))):
                values = [space.both(space.literal(fact.name, [value]), space.possible) for value in fact.order]
                return fact.name, values
        return "", []

    def canonical(self, trigger: Trigger) -> Trigger:
        """The trigger that stands for all those which the target cannot tell from this one."""
        known = self._canonical.get(trigger)
        if known is None:
            known = self._canonical[trigger] = self.request.canonical(trigger)
        return known

    def is_canonical(self, trigger: Trigger) -> bool:
        """Whether a trigger stands for those which the target cannot tell from it."""
        return self.canonical(trigger) == trigger

    def add_entry(self, entry: PortEntry, bindings: Sequence[Binding]) -> None:
        """Add an entry and its bindings to the result."""
        self.result.entries.append(entry)
        self.write(bindings)

    def write(self, bindings: Sequence[Binding]) -> None:
        """Add bindings to what is written."""
        for binding in bindings:
            key = (binding.trigger, binding.outcome, binding.where)
            if key in self._written:
                continue
            self._written.add(key)
            self.result.layer.bindings.append(binding)

    def writable(self, trigger: Trigger) -> Trigger | None:
        """A trigger that the target's file can have and that it cannot tell from this one."""
        return self._alike.get(self.canonical(trigger))

    def default_rows(self, place: Trigger, states: States) -> list[tuple[Binding, States]]:
        """What the target's defaults have on a trigger in these states, each with its own part of them."""
        table = self.defaults.get(place)
        parts = [(row.binding, self.space.both(row.states, states)) for row in table.rows] if table else []
        return [(binding, part) for binding, part in parts if part != NEVER]

    def has_default(self, row: DecisionRow) -> bool:
        """Whether the target has a row of the source by default."""
        rows = self.default_rows(self.canonical(row.binding.trigger), row.states)
        return bool(rows) and all(one.outcome == row.binding.outcome for one, _part in rows)

    def has_other_key(self, command: str, section: str, place: Trigger) -> str:
        """That a target which has one key for each command has another one for this already; empty where it has not."""
        key = self._key_of.get((command, section))
        if key in (None, place):
            return ""
        assert key is not None
        return f"{self.target.name} has one key for each command, and {write(key)} for {command}"

    def give_key(self, command: str, section: str, place: Trigger) -> list[Trigger]:
        """Note the key of a command in a section; which default keys it loses by that, in a target that has one for each."""
        if not self.target.holds_one_key or not command:
            return []
        self._key_of[command, section] = place
        node = self.nodes[section]
        return [
            keys for keys, table in self.defaults.items()
            if keys != place
            and any(row.binding.written == command and self.space.overlap(row.states, node) for row in table.rows)
        ]  # fmt: skip

    def is_bound(self, place: Trigger) -> bool:
        """Whether the source binds these keys."""
        return place in self._bound

    def longer(self, place: Trigger) -> list[Trigger]:
        """The keys of the target's defaults that begin with `place` and go on."""
        return self._longer.get(place, [])

    def inexpressible(self, spoken: frozenset[str], expressed: frozenset[str], section: States) -> str:
        """Of the facts that a condition speaks of, those that the target's file cannot express in a section; `expressed`
        are those that it speaks of there."""
        key = (spoken, expressed, section)
        if key not in self._inexpressible:
            beside = sorted(spoken - self._facts_of.get(section, frozenset()))
            found = [fact for fact in beside if not self._can_express(fact, section)]
            self._inexpressible[key] = ", ".join(found or sorted(set(beside) - expressed) or beside or sorted(spoken))
        return self._inexpressible[key]

    def _can_express(self, fact: str, section: States) -> bool:
        """Whether the target's file can express any value of a fact in a section."""
        known = self._expressed.get((fact, section))
        if known is None:
            known = False
            for value in self.space.facts.by_name[fact].values:
                has = self.space.both(self.space.literal(fact, [value]), section)
                found = self.target.expressible(has, section, self.space) if has != NEVER else section
                known = known or not self.space.overlap(found, self.space.minus(section, has))
            self._expressed[fact, section] = known
        return known

    def record_placement(self, place: Trigger, section: str, states: States, outcome: Outcome) -> None:
        """Note what was put on a trigger."""
        self.taken.setdefault((place, section), []).append((states, outcome))
        self._places.setdefault((outcome, section), place)

    def assigned_keys(self, outcome: Outcome, section: str) -> Trigger | None:
        """Keys that an outcome has in a section by now, by the port or by default."""
        place = self._places.get((outcome, section))
        if place is not None:
            return place
        for keys, states in self._defaults_of.get(outcome, ()):
            if (keys, section) not in self.taken and self.space.both(states, self.nodes[section]) != NEVER:
                return keys
        return None

    def time_differs(self, table: DecisionTable) -> str:
        """How the target waits otherwise for what may follow these keys."""
        source, target = self.request.source.policy, self.target.policy
        if source is None or table.waits == NEVER or "timed" not in (source.prefix, target.prefix):
            return ""
        if source.prefix == "timed" and target.prefix == "waits":
            return f"it runs when another key does not go on, and not after {source.wait_ms} ms"
        if target.prefix == "timed" and (source.prefix, source.wait_ms) != (target.prefix, target.wait_ms):
            before = (
                f"after {source.wait_ms} ms" if source.prefix == "timed" else "only when another key does not go on"
            )
            return f"it runs after {target.wait_ms} ms, and not {before}"
        return ""

    def sure(
        self, keys: Trigger, states: States, beneath: Mapping[Trigger, DecisionTable] | None = None
    ) -> list[Step] | None:
        """What pressed keys do in the source, where each of them does one thing in all these states, whatever happened
        before; None where that is not sure. `beneath` is what the editor decides by default where the source says nothing."""
        steps: list[Step] = []
        for chord in keys:
            table = self.tables.get((chord,)) or (beneath or {}).get((chord,))
            if table is None or table.waits != NEVER:
                return None
            rows = [row for row in table.rows if self.space.both(row.states, states) != NEVER]
            if len(rows) != 1 or not self.space.covers(rows[0].states, states):
                return None
            outcome = rows[0].binding.outcome
            if not isinstance(outcome, Do) or outcome.domain in _MOVING_ON:
                return None
            steps.append(outcome)
        return steps


_MOVING_ON = ("mode", "panes", "prompt", "files", "tabs", "app", "terminal", "search", "goto", "macro")
"""Kinds of work after which other keys hold."""
