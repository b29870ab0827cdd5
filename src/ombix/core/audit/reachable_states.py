"""Where keys lead: from sets of states to sets of states, by what the actions enter, leave and set."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import cached_property

from msgspec import Struct

from ombix.core.audit.model import AuditSubject
from ombix.core.catalogue.actions import Action
from ombix.core.conditions import ALWAYS, NEVER, Space, States
from ombix.core.keymap.deciding import DecisionRow
from ombix.core.keymap.outcomes import Do, Macro, Outcome, Play
from ombix.core.snippets.macro_steps import every_step


class FactChange(Struct, frozen=True):
    """In the states `where` these facts get these values; nothing changes elsewhere."""

    where: States
    values: States
    facts: frozenset[str]

    def before(self, states: States, space: Space) -> States:
        """The states from which it leads into `states`."""
        changed = space.both(self.where, space.without(space.both(states, self.values), self.facts))
        return space.either(changed, space.minus(states, self.where))

    def after(self, states: States, space: Space) -> States:
        """The states that it leads to from `states`."""
        changed = space.both(space.without(space.both(states, self.where), self.facts), self.values)
        return space.either(changed, space.minus(states, self.where))


class Transition(Struct, frozen=True):
    """The states in which keys change facts in one way, one change after the other."""

    states: States
    changes: tuple[FactChange, ...]

    def leads_into(self, states: States, space: Space) -> States:
        """The states of this transition from which it leads into `states`."""
        for change in reversed(self.changes):
            states = change.before(states, space)
        return space.both(self.states, states)

    def leads_to(self, states: States, space: Space) -> States:
        """The states that it leads to from `states`."""
        states = space.both(self.states, states)
        for change in self.changes:
            states = change.after(states, space)
        return states


def changes_of(
    outcome: Outcome, actions: Mapping[str, Action], macros: Mapping[str, Macro], space: Space
) -> list[FactChange]:
    """How an outcome changes facts; of a macro, its actions one after the other."""
    if isinstance(outcome, Do):
        return action_changes(actions[outcome.action], space) if outcome.action in actions else []
    if isinstance(outcome, Play) and outcome.macro in macros:
        steps = [step for step in every_step(macros[outcome.macro].steps) if isinstance(step, Do)]
        return [change for step in steps for change in changes_of(step, actions, macros, space)]
    return []


def action_changes(action: Action, space: Space) -> list[FactChange]:
    """What an action enters and sets; or, where it only leaves something, that its facts come to rest."""
    found = []
    for text in filter(None, (action.enters, action.sets)):
        node = space.parse(text)
        found.append(_change(ALWAYS, space.one_of(space.both(node, space.possible)), space.mentioned(node), space))
    if action.leaves and not action.enters:
        node = space.parse(action.leaves)
        for name in sorted(space.mentioned(node)):
            fact = space.facts.by_name[name]
            if fact.rest:
                # An editor without a fact, like modes, does not come to have it.
                where = space.minus(node, space.literal(name, [fact.without])) if fact.without else node
                found.append(_change(where, {name: fact.rest}, [name], space))
    return found


def _change(where: States, state: Mapping[str, str], facts: Iterable[str], space: Space) -> FactChange:
    values = ALWAYS
    for name in facts:
        values = space.both(values, space.literal(name, [state[name]]))
    return FactChange(where, values, frozenset(facts))


class Transitions:
    """All transitions of a keymap on its platform: bindings that change facts in the same way are one transition."""

    def __init__(self, subject: AuditSubject) -> None:
        self._space = subject.space
        self._changes = _ChangesOf(subject)
        self._rows = self._by_changes(row for table in subject.tables.values() for row in table.rows)

    def with_no_way_out(self, inside: States, entries: Iterable[DecisionRow]) -> States:
        """The states of `inside` that `entries` lead to, at once or by further keys, and from which no keys, however many,
        lead out of it again.

        What a transition leads to and the facts exclude is outside: something else has to give then.
        """
        space = self._space
        inside = space.both(inside, space.possible)
        out = self._left_at_once(inside)
        if out == inside:
            return NEVER
        transitions = self._transitions(self._rows, inside)
        out = self._closed(out, inside, [transition.leads_into for transition in transitions])
        if out == inside:
            return NEVER
        entering = self._transitions(self._by_changes(entries), ALWAYS)
        entered = space.both(inside, space.union(transition.leads_to(ALWAYS, space) for transition in entering))
        reached = self._closed(entered, inside, [transition.leads_to for transition in transitions])
        return space.minus(reached, out)

    def _left_at_once(self, inside: States) -> States:
        """The states of `inside` in which one key leads out; found a binding at a time, since few are enough mostly."""
        space = self._space
        leaving = {
            changes: space.minus(inside, Transition(ALWAYS, changes).leads_into(inside, space))
            for changes in self._rows
        }
        rest = inside
        for row, changes in self._widest_first:
            if leaving[changes] != NEVER and space.meet(rest, row.states):
                rest = space.minus(rest, space.both(row.states, leaving[changes]))
                if rest == NEVER:
                    break
        return space.minus(inside, rest)

    @cached_property
    def _widest_first(self) -> list[tuple[DecisionRow, tuple[FactChange, ...]]]:
        """The rows with their changes, those with the shortest conditions first: they tell of the most states, mostly."""
        found = [(row, changes) for changes, rows in self._rows.items() for row in rows]
        return sorted(found, key=lambda pair: 0 if pair[0].binding.where == "always" else len(pair[0].binding.where))

    def _by_changes(self, rows: Iterable[DecisionRow]) -> dict[tuple[FactChange, ...], list[DecisionRow]]:
        found: dict[tuple[FactChange, ...], list[DecisionRow]] = {}
        for row in rows:
            changes = self._changes[row.binding.outcome]
            if changes:
                found.setdefault(changes, []).append(row)
        return found

    def _transitions(
        self, found: Mapping[tuple[FactChange, ...], Sequence[DecisionRow]], inside: States
    ) -> list[Transition]:
        """The transitions of rows, where some are made in `inside`."""
        space = self._space
        transitions = []
        for changes, rows in found.items():
            states = space.union_of_many(row.states for row in rows if space.meet(row.states, inside))
            if states != NEVER:
                transitions.append(Transition(states, changes))
        return transitions

    def _closed(self, states: States, inside: States, steps: Sequence[Callable[[States, Space], States]]) -> States:
        """The states of `inside` that steps get to from `states`, these with them."""
        space = self._space
        while True:
            more = states
            for step in steps:
                more = space.either(more, space.both(inside, step(more, space)))
                if more == inside:
                    return inside
            if more == states:
                return states
            states = more


class _ChangesOf(dict[Outcome, tuple[FactChange, ...]]):
    """How each outcome changes facts, worked out once."""

    def __init__(self, subject: AuditSubject) -> None:
        super().__init__()
        self._subject = subject

    def __missing__(self, outcome: Outcome) -> tuple[FactChange, ...]:
        subject = self._subject
        found = tuple(changes_of(outcome, subject.catalogue.actions, subject.keymap.macros, subject.space))
        self[outcome] = found
        return found
