"""Where keys lead: from sets of states to sets of states, by what the actions enter, leave and set."""

from collections.abc import Iterable, Mapping, Sequence

from msgspec import Struct

from ombix.core.actions import Action
from ombix.core.audit.model import AuditSubject
from ombix.core.conditions import ALWAYS, NEVER, Space, States
from ombix.core.keymap import Binding
from ombix.core.outcomes import Do, Macro, Outcome, Play


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


class Way(Struct, frozen=True):
    """A binding that wins in some states and changes facts there, one change after the other."""

    binding: Binding
    states: States
    changes: tuple[FactChange, ...]

    def leads_into(self, states: States, space: Space) -> States:
        """The states of this way from which it leads into `states`."""
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
        steps = [step for step in macros[outcome.macro].steps if isinstance(step, Do)]
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


class Ways:
    """All ways of a keymap on its platform."""

    def __init__(self, subject: AuditSubject) -> None:
        self._space = subject.space
        macros = subject.keymap.macros
        self.all: list[Way] = []
        for table in subject.tables.values():
            for row in table.rows:
                found = changes_of(row.binding.outcome, subject.catalogue.actions, macros, subject.space)
                if found:
                    self.all.append(Way(row.binding, row.states, tuple(found)))

    def with_no_way_out(self, inside: States, entries: Sequence[Way]) -> States:
        """The states of `inside` that `entries` lead to, at once or by further keys, and from which no keys, however many,
        lead out of it again.

        What a way leads to and the facts exclude is outside: something else has to give then.
        """
        space = self._space
        inside = space.both(inside, space.possible)
        touching = [way for way in self.all if space.both(way.states, inside) != NEVER]
        out = NEVER
        for way in touching:
            out = space.either(out, space.minus(space.both(way.states, inside), way.leads_into(inside, space)))
        while True:
            more = out
            for way in touching:
                more = space.either(more, space.both(inside, way.leads_into(out, space)))
            if more == out:
                break
            out = more
        reached = NEVER
        for way in entries:
            reached = space.either(reached, space.both(inside, way.leads_to(ALWAYS, space)))
        while True:
            more = reached
            for way in touching:
                more = space.either(more, space.both(inside, way.leads_to(reached, space)))
            if more == reached:
                break
            reached = more
        return space.minus(reached, out)
