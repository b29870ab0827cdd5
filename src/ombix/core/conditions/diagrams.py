"""Sets of states as reduced, ordered decision diagrams over facts with many values.

Each distinct set of states is one node, so equality is identity, emptiness is a comparison with NEVER, and overlap and
cover are one conjunction or difference each, over all states at once and without going through their product. A node
keeps only the values that differ from its default branch: a domain of ten thousand values costs no more than the values
that are mentioned, and an open domain's default branch is its value "any other".
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import NamedTuple, NewType

from ombix.core.conditions.facts import ANY_OTHER, Facts
from ombix.core.errors import TangledError

States = NewType("States", int)
"""A set of states: a node of one `Space`'s diagrams. It means nothing in another one."""

NEVER = States(0)
"""The empty set of states, in every space."""
ALWAYS = States(1)
"""The set of all states, in every space."""

LEAF_LEVEL = 1 << 30
MOST_NODES = 500_000
"""Nodes of one space. 100,000 bindings with conditions of two to four facts take about 80,000."""

MOST_TERMS = 1000
"""Alternatives that a set of states is put into words by; nobody reads as many."""

Branch = tuple[int, States]
Literal = tuple[str, tuple[str, ...], bool]
"""A fact, values of it, and whether it has one of them."""


class ExportedSets(NamedTuple):
    """Sets of states as plain rows. A row asks for the fact of its number (in `names`): it goes on where the number of its value
    (in `values`; -1 another one) leads, or to the default; 0 is no state, 1 every state, and the first row is 2. `last` is the
    number of each fact's value where it is not told; `numbers` has where each set begins."""

    names: tuple[str, ...]
    values: tuple[tuple[str, ...], ...]
    last: tuple[int, ...]
    rows: tuple[tuple[int, tuple[tuple[int, int], ...], int], ...]
    numbers: Mapping[States, int]


class Diagrams:
    """All sets of states over some facts, and their algebra."""

    def __init__(self, facts: Facts) -> None:
        self.facts = facts
        self._levels = facts.in_order()
        self._level_of = {fact.name: level for level, fact in enumerate(self._levels)}
        self._value_index = [{value: index for index, value in enumerate(fact.values)} for fact in self._levels]
        self._last = [-1 if fact.is_open else len(fact.values) - 1 for fact in self._levels]
        self._level: list[int] = [LEAF_LEVEL, LEAF_LEVEL]
        self._branches: list[tuple[Branch, ...]] = [(), ()]
        self._default: list[States] = [NEVER, ALWAYS]
        self._unique: dict[tuple[int, tuple[Branch, ...], States], States] = {}
        self._and: dict[tuple[States, States], States] = {}
        self._or: dict[tuple[States, States], States] = {}
        self._not: dict[States, States] = {NEVER: ALWAYS, ALWAYS: NEVER}
        self._meet: dict[tuple[States, States], bool] = {}
        self._simple: dict[tuple[States, States], States] = {}
        self._mentioned: dict[States, frozenset[str]] = {}

    @property
    def size(self) -> int:
        """How many sets of states were told apart so far."""
        return len(self._level)

    # --- algebra

    def both(self, a: States, b: States) -> States:
        """The states that are in `a` and in `b`."""
        if a == b or b == ALWAYS:
            return a
        if a == ALWAYS:
            return b
        if a == NEVER or b == NEVER:
            return NEVER
        key = (a, b) if a < b else (b, a)
        node = self._and.get(key)
        if node is not None:
            return node
        node = self._and[key] = self._branch_by_branch(self.both, a, b)
        return node

    def negate(self, a: States) -> States:
        """The states that are not in `a`."""
        node = self._not.get(a)
        if node is None:
            branches = [(value, self.negate(child)) for value, child in self._branches[a]]
            node = self._node(self._level[a], branches, self.negate(self._default[a]))
            self._not[a] = node
            self._not[node] = a
        return node

    def either(self, a: States, b: States) -> States:
        """The states that are in `a` or in `b`."""
        if a == NEVER or b == ALWAYS:
            return b
        if b == NEVER or a == ALWAYS:
            return a
        if a == b:
            return a
        key = (a, b) if a < b else (b, a)
        node = self._or.get(key)
        if node is None:
            node = self._or[key] = self._branch_by_branch(self.either, a, b)
        return node

    def _branch_by_branch(self, operation: Callable[[States, States], States], a: States, b: States) -> States:
        """Two nodes combined by an operation on the states of each of their branches."""
        level, branches_a, default_a, branches_b, default_b = self._side_by_side(a, b)
        default = operation(default_a, default_b)
        if not branches_b:
            branches = [(value, operation(child, default_b)) for value, child in branches_a]
        elif not branches_a:
            branches = [(value, operation(default_a, child)) for value, child in branches_b]
        else:
            in_a, in_b = dict(branches_a), dict(branches_b)
            branches = [
                (value, operation(in_a.get(value, default_a), in_b.get(value, default_b)))
                for value in (sorted(in_a.keys() | in_b.keys()) if in_a.keys() != in_b.keys() else in_a)
            ]
        return self._node(level, branches, default)

    def minus(self, a: States, b: States) -> States:
        """The states that are in `a` and not in `b`."""
        return self.both(a, self.negate(b))

    def union(self, nodes: Iterable[States]) -> States:
        """The states that are in at least one of `nodes`."""
        result = NEVER
        for node in nodes:
            result = self.either(result, node)
        return result

    def union_of_many(self, nodes: Iterable[States]) -> States:
        """The same as `union`, made in halves: the sets on the way stay small where there are hundreds of them."""
        found = list(dict.fromkeys(nodes))
        while len(found) > 1:
            found = [
                self.either(*found[at : at + 2]) if at + 1 < len(found) else found[at] for at in range(0, len(found), 2)
            ]
        return found[0] if found else NEVER

    def meet(self, a: States, b: States) -> bool:
        """Whether a state is in both, possible or not; no set is made for the answer."""
        if a == NEVER or b == NEVER:
            return False
        if b == ALWAYS or a in (ALWAYS, b):
            return True
        key = (a, b) if a < b else (b, a)
        known = self._meet.get(key)
        if known is None:
            known = self._meet[key] = self._meets(a, b)
        return known

    def _meets(self, a: States, b: States) -> bool:
        _level, branches_a, default_a, branches_b, default_b = self._side_by_side(a, b)
        if self.meet(default_a, default_b):
            return True
        if not branches_b:
            return any(self.meet(child, default_b) for _value, child in branches_a)
        in_b = dict(branches_b)
        for value, child in branches_a:
            if self.meet(child, in_b.pop(value, default_b)):
                return True
        return any(self.meet(default_a, child) for child in in_b.values())

    def _side_by_side(self, a: States, b: States) -> tuple[int, tuple[Branch, ...], States, tuple[Branch, ...], States]:
        """The first level of two nodes, and the branches and the default that each has there."""
        level_a, level_b = self._level[a], self._level[b]
        level = level_a if level_a < level_b else level_b
        branches_a, default_a = (self._branches[a], self._default[a]) if level_a == level else ((), a)
        branches_b, default_b = (self._branches[b], self._default[b]) if level_b == level else ((), b)
        return level, branches_a, default_a, branches_b, default_b

    def without(self, a: States, names: Iterable[str]) -> States:
        """The states that agree with one of `a` in all facts but `names`: what `a` says when these are unknown."""
        dropped = {self._level_of[name] for name in names if name in self._level_of}
        deepest = max(dropped, default=-1)
        memo: dict[States, States] = {}

        def walk(node: States) -> States:
            if node <= ALWAYS or self._level[node] > deepest:
                return node
            if node not in memo:
                children = [(value, walk(child)) for value, child in self._branches[node]]
                default = walk(self._default[node])
                if self._level[node] in dropped:
                    memo[node] = self.union([default, *(child for _value, child in children)])
                else:
                    memo[node] = self._node(self._level[node], children, default)
            return memo[node]

        return walk(a)

    def coarsened(self, a: States, classes: Mapping[str, Sequence[Iterable[str]]]) -> States:
        """The least set that has `a` in it and cannot tell the values of one class from each other.

        `classes` has for each fact groups of its values; ANY_OTHER is a value, too. What is in no group stands alone.
        """
        groups = {
            self._level_of[name]: [{self._index(self._level_of[name], value) for value in group} for group in found]
            for name, found in classes.items()
            if name in self._level_of
        }
        memo: dict[States, States] = {}

        def walk(node: States) -> States:
            if node <= ALWAYS:
                return node
            if node not in memo:
                level = self._level[node]
                children = {value: walk(child) for value, child in self._branches[node]}
                default = walk(self._default[node])
                for group in groups.get(level, ()):
                    merged = self.union([children.get(value, default) for value in group])
                    children.update(dict.fromkeys(group, merged))
                last = self._last[level]
                if last in children:  # the last value is said by the default
                    default = children.pop(last)
                    for value in set(range(len(self._value_index[level]))) - {last}:
                        children.setdefault(value, walk(dict(self._branches[node]).get(value, self._default[node])))
                memo[node] = self._node(level, sorted(children.items()), default)
            return memo[node]

        return walk(a)

    def simplified(self, a: States, care: States) -> States:
        """A node that equals `a` wherever `care` holds and is no larger elsewhere (Coudert and Madre's restriction)."""
        if care in (NEVER, ALWAYS) or a <= ALWAYS:
            return a
        known = self._simple.get((a, care))
        if known is None:
            known = self._simple[a, care] = self._simplify(a, care)
        return known

    def _simplify(self, a: States, care: States) -> States:
        level = min(self._level[a], self._level[care])
        if self._level[care] < level or self._level[a] > level:
            merged = self.union([self._default[care], *(child for _value, child in self._branches[care])])
            return self.simplified(a, merged)
        in_care = dict(self._branches[care]) if self._level[care] == level else {}
        care_default = self._default[care] if self._level[care] == level else care
        own = dict(self._branches[a])
        keys = sorted(own.keys() | in_care.keys())
        pairs = [(key, own.get(key, self._default[a]), in_care.get(key, care_default)) for key in keys]
        children: dict[int, States] = {}
        free: list[int] = []
        for key, child, child_care in pairs:
            if child_care == NEVER:
                free.append(key)
            else:
                children[key] = self.simplified(child, child_care)
        if care_default == NEVER and children:  # no state that matters takes the default branch: it may be anything
            kept = list(children.values())
            default = max(kept, key=kept.count)
        else:
            default = self.simplified(self._default[a], care_default)
        for key in free:
            children[key] = default
        return self._node(level, sorted(children.items()), default)

    # --- questions

    def terms(self, a: States, within: States) -> list[list[Literal]]:
        """`a` as alternatives, none in another, each a list of literals.

        It need be right only in the states `within`; no alternative: in none of them; one without literals: in all.
        Raises TangledError where there are more than MOST_TERMS of them.
        """
        simple = self.simplified(a, within)
        if self._paths(simple) > MOST_TERMS:
            raise TangledError
        found: list[list[Literal]] = []

        def walk(node: States, path: list[Literal]) -> None:
            if node == ALWAYS:
                found.append(path)
            if node <= ALWAYS:
                return
            level = self._level[node]
            name = self._levels[level].name
            for child, indexes in self._by_child(node).items():
                walk(child, [*path, (name, tuple(self._value_name(level, index) for index in indexes), True)])
            others = tuple(self._value_name(level, index) for index, _child in self._branches[node])
            walk(self._default[node], [*path, (name, others, False)])

        walk(simple, [])
        return found

    def _paths(self, a: States) -> int:
        """The alternatives that a set would be taken apart into."""
        counts: dict[States, int] = {NEVER: 0, ALWAYS: 1}
        pending = [a]
        while pending:
            node = pending[-1]
            if node in counts:
                pending.pop()
                continue
            children = [*self._by_child(node), self._default[node]]
            missing = [child for child in children if child not in counts]
            pending += missing
            if not missing:
                counts[node] = sum(counts[child] for child in children)
        return counts[a]

    def share(self, a: States) -> float:
        """Which part of all states is in `a`, from 0 to 1, the values of each fact being counted alike."""
        known: dict[States, float] = {NEVER: 0.0, ALWAYS: 1.0}
        pending = [a]
        while pending:
            node = pending[-1]
            children = {self._default[node], *(child for _value, child in self._branches[node])}
            if missing := [child for child in children if child not in known]:
                pending += missing
                continue
            pending.pop()
            if node > ALWAYS:
                level, branches = self._level[node], self._branches[node]
                values = len(self._levels[level].values) + (
                    self._last[level] < 0
                )  # an open fact has any other value, too
                inside = sum(known[child] for _value, child in branches)
                known[node] = (inside + (values - len(branches)) * known[self._default[node]]) / values
        return known[a]

    def _by_child(self, node: States) -> dict[States, list[int]]:
        """The values of a node's branches by where they lead."""
        groups: dict[States, list[int]] = {}
        for index, child in self._branches[node]:
            groups.setdefault(child, []).append(index)
        return groups

    def mentioned(self, a: States) -> frozenset[str]:
        """The facts on which membership in `a` depends."""
        found = self._mentioned.get(a)
        if found is None:
            found = self._mentioned[a] = self._facts_in(a)
        return found

    def _facts_in(self, a: States) -> frozenset[str]:
        seen: set[States] = set()
        names: set[str] = set()
        stack = [a]
        while stack:
            node = stack.pop()
            if node <= ALWAYS or node in seen:
                continue
            seen.add(node)
            names.add(self._levels[self._level[node]].name)
            stack.append(self._default[node])
            stack.extend(child for _value, child in self._branches[node])
        return frozenset(names)

    def holds(self, a: States, state: Mapping[str, str]) -> bool:
        """Whether the one state `state` is in `a`; a fact that it does not name has its default value."""
        while a > ALWAYS:
            level = self._level[a]
            value = state.get(self._levels[level].name)
            index = self._value_index[level].get(value, -1) if value is not None else self._last[level]
            a = dict(self._branches[a]).get(index, self._default[a])
        return a == ALWAYS

    def one_of(self, a: States) -> dict[str, str]:
        """One state of `a`, with the facts that matter; raises ValueError when there is none."""
        if a == NEVER:
            raise ValueError("no state is in the empty set")
        state: dict[str, str] = {}
        node = a
        while node != ALWAYS:
            level = self._level[node]
            for index, child in (*self._branches[node], (self._last[level], self._default[node])):
                if child != NEVER:
                    state[self._levels[level].name] = self._value_name(level, index)
                    node = child
                    break
        return state

    def exported(self, wanted: Iterable[States]) -> ExportedSets:
        """Some sets as plain rows, for what decides elsewhere whether a state is in one."""
        numbers: dict[States, int] = {NEVER: 0, ALWAYS: 1}
        rows: list[tuple[int, tuple[tuple[int, int], ...], int]] = []
        wanted = list(wanted)
        pending = list(wanted)
        while pending:
            node = pending[-1]
            children = [child for _value, child in self._branches[node]] + [self._default[node]]
            missing = [child for child in children if child not in numbers]
            if node in numbers or missing:
                pending += missing if node not in numbers else []
                if node in numbers:
                    pending.pop()
                continue
            pending.pop()
            branches = tuple((value, numbers[child]) for value, child in self._branches[node])
            numbers[node] = len(rows) + 2
            rows.append((self._level[node], branches, numbers[self._default[node]]))
        values = tuple(tuple(sorted(known, key=known.__getitem__)) for known in self._value_index)
        names = tuple(fact.name for fact in self._levels)
        return ExportedSets(names, values, tuple(self._last), tuple(rows), {node: numbers[node] for node in wanted})

    # --- nodes

    def _literal(self, name: str, values: Iterable[str]) -> States:
        level = self._level_of[name]
        known = self._value_index[level]
        indexes = {known.setdefault(value, len(known)) for value in values}
        if self._last[level] in indexes:
            others = [(index, NEVER) for index in range(self._last[level]) if index not in indexes]
            return self._node(level, others, ALWAYS)
        return self._node(level, [(index, ALWAYS) for index in sorted(indexes)], NEVER)

    def _speaks_of_one_fact(self, node: States) -> bool:
        return self._default[node] <= ALWAYS and all(child <= ALWAYS for _value, child in self._branches[node])

    def _node(self, level: int, branches: Iterable[Branch], default: States) -> States:
        kept = tuple([branch for branch in branches if branch[1] != default])
        if not kept:
            return default
        key = (level, kept, default)
        node = self._unique.get(key)
        if node is None:
            node = self._unique[key] = States(len(self._level))
            if node > MOST_NODES:
                raise TangledError
            self._level.append(level)
            self._branches.append(kept)
            self._default.append(default)
        return node

    def _index(self, level: int, value: str) -> int:
        return -1 if value == ANY_OTHER else self._value_index[level][value]

    def _value_name(self, level: int, index: int) -> str:
        if index == -1:
            return ANY_OTHER
        for value, known in self._value_index[level].items():
            if known == index:
                return value
        raise IndexError(index)
