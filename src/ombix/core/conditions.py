"""Facts about an editor's state, conditions over them, and exact reasoning about the sets of states they describe.

A condition is turned into a node of a reduced, ordered decision diagram over many-valued facts. Each distinct set of
states is one node, so equality is identity, emptiness is a comparison with NEVER, and overlap and cover are one
conjunction or difference each, over all states at once and without going through their product. A node keeps only the
values that differ from its default branch: a domain of ten thousand values costs no more than the values that are
mentioned, and an open domain's default branch is its value "any other".

What the facts exclude (`Facts.never`) is held in the node `Space.possible`; a set of states is always taken within it.
"""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, NoReturn

from ombix.core.errors import NotationError, did_you_mean

NEVER = 0
"""The node of the empty set of states."""
ALWAYS = 1
"""The node of the set of all states."""

ANY_OTHER = "any other"
"""How the value of an open domain that no condition mentions is shown."""

_LEAF = 1 << 30
MAX_CONDITION_LENGTH = 100_000
_MOST_BITS = 4096
_MOST_BOXES = 8
_SPARE_VALUES = 40
"""Values of an open domain that have a bit of their own; conditions on later ones have no box."""
_OPERATORS = frozenset({"and", "or", "not", "is", "in", "always", "never"})


@dataclass(frozen=True, slots=True)
class Fact:
    """A property of the editor's state. `values` is its domain; an open domain has other values as well."""

    name: str
    values: tuple[str, ...]
    title: str = ""
    is_open: bool = False


@dataclass(frozen=True, slots=True)
class Facts:
    """The facts that conditions may speak of, and the conditions that no state can fulfil."""

    facts: tuple[Fact, ...]
    never: tuple[str, ...] = ()
    by_name: dict[str, Fact] = field(init=False, compare=False, default_factory=dict)

    def __post_init__(self) -> None:
        for fact in self.facts:
            if fact.name in _OPERATORS:
                raise ValueError(f"a fact cannot be named like an operator: {fact.name}")
            if fact.name in self.by_name and self.by_name[fact.name] != fact:
                raise ValueError(f"the fact {fact.name} is there already")
            self.by_name[fact.name] = fact

    def extended(self, facts: Iterable[Fact], never: Iterable[str]) -> "Facts":
        """These facts and more. Raises ValueError when a name is taken by another fact."""
        more = tuple(fact for fact in facts if fact != self.by_name.get(fact.name))
        return Facts((*self.facts, *more), (*self.never, *(text for text in never if text not in self.never)))


class _NoBoxes(dict[int, tuple[int, ...]]):
    """Boxes are not kept."""

    def __setitem__(self, node: int, boxes: tuple[int, ...]) -> None:
        pass


def facts_of(table: Mapping[str, Any]) -> Facts:
    """Facts from the table of a facts file: `fact` by name, and `never`."""
    return Facts(
        tuple(
            Fact(name, tuple(row["values"]), row.get("title", ""), row.get("open", False))
            for name, row in table["fact"].items()
        ),
        tuple(table.get("never", ())),
    )


class Space:
    """All states of an editor, and the sets of them that conditions describe. Nodes are plain numbers."""

    def __init__(self, facts: Facts, named: dict[str, str] | None = None) -> None:
        self.facts = facts
        self._named = dict(named or {})
        self._named_nodes: dict[str, int] = {}
        self._resolving: list[str] = []
        self._level_of = {fact.name: level for level, fact in enumerate(facts.facts)}
        self._value_index = [{value: index for index, value in enumerate(fact.values)} for fact in facts.facts]
        self._last = [-1 if fact.is_open else len(fact.values) - 1 for fact in facts.facts]
        self._level: list[int] = [_LEAF, _LEAF]
        self._branches: list[tuple[tuple[int, int], ...]] = [(), ()]
        self._default: list[int] = [0, 1]
        self._unique: dict[tuple[int, tuple[tuple[int, int], ...], int], int] = {}
        self._and: dict[tuple[int, int], int] = {}
        self._not: dict[int, int] = {0: 1, 1: 0}
        self._parsed: dict[str, int] = {}
        self._mentioned: dict[int, frozenset[str]] = {}
        self._meet: dict[tuple[int, int], bool] = {}
        self._single: set[int] = set()
        self._boxes: dict[int, tuple[int, ...]] = {}
        self._bits_of: dict[int, int] = {}
        self._parts: dict[int, list[int]] = {}
        self._lay_out_boxes()
        self.possible = ALWAYS
        for text in facts.never:
            self.possible = self.minus(self.possible, self.parse(text))
        nevers = [self._boxes_of(self.parse(text)) for text in facts.never]
        if None in nevers:
            self._boxes = _NoBoxes()
        self._never_boxes = [box for boxes in nevers for box in boxes or ()]
        # Whether a box has a possible state depends only on the facts that the exclusions speak of.
        self._excluding = self._full_bits_of(*(self.parse(text) for text in facts.never))
        self._known_possible: dict[int, bool] = {}

    # --- from text

    def parse(self, text: str) -> int:
        """The set of states in which the condition `text` is true. Raises NotationError."""
        node = self._parsed.get(text)
        if node is None:
            node = self._parsed[text] = self._parse(text)
        return node

    def states(self, text: str) -> int:
        """Like `parse`, with what the facts exclude taken away."""
        return self.both(self.parse(text), self.possible)

    def _lay_out_boxes(self) -> None:
        """Bits for the values of all facts, a guard bit above those of each fact.

        A box is a number with the bits of the values that each fact may have: most conditions are one box, or a few,
        and then overlap and cover are answered with a handful of operations on numbers. Nodes without boxes, and spaces
        with very large domains, are answered by the diagrams.
        """
        self._fields: list[int] = []
        self._full = self._guards = self._lows = 0
        self._shifts: list[int] = []
        shift = 0
        for fact in self.facts.facts:
            width = len(fact.values) + (1 + _SPARE_VALUES if fact.is_open else 0)
            self._shifts.append(shift)
            self._fields.append(((1 << width) - 1) << shift)
            self._lows |= 1 << shift
            self._guards |= 1 << (shift + width)
            shift += width + 1
        if shift > _MOST_BITS:
            self._boxes = _NoBoxes()
        self._full = sum(self._fields)
        self._boxes[ALWAYS] = (self._full,)
        self._boxes[NEVER] = ()

    def literal(self, name: str, values: Iterable[str]) -> int:
        """The set of states in which the fact `name` has one of `values`."""
        values = list(values)
        node = self._literal(name, values)
        level = self._level_of[name]
        room = self._fields[level].bit_count() - (1 if self._last[level] == -1 else 0)
        indexes = [self._value_index[level][value] for value in values]
        if max(indexes) < room:
            bits = sum(1 << (self._shifts[level] + index) for index in set(indexes))
            self._note_boxes(node, (self._full & ~self._fields[level] | bits,))
        return node

    def _literal(self, name: str, values: list[str]) -> int:
        level = self._level_of[name]
        known = self._value_index[level]
        indexes = {known.setdefault(value, len(known)) for value in values}
        if self._last[level] in indexes:
            others = tuple((index, NEVER) for index in range(self._last[level]) if index not in indexes)
            return self._node(level, others, ALWAYS)
        return self._node(level, tuple((index, ALWAYS) for index in sorted(indexes)), NEVER)

    # --- algebra

    def both(self, a: int, b: int) -> int:
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
        level_a, level_b = self._level[a], self._level[b]
        level = level_a if level_a < level_b else level_b
        branches_a, default_a = (self._branches[a], self._default[a]) if level_a == level else ((), a)
        branches_b, default_b = (self._branches[b], self._default[b]) if level_b == level else ((), b)
        default = self.both(default_a, default_b)
        if not branches_b:
            branches = tuple((value, self.both(child, default_b)) for value, child in branches_a)
        elif not branches_a:
            branches = tuple((value, self.both(default_a, child)) for value, child in branches_b)
        else:
            in_a, in_b = dict(branches_a), dict(branches_b)
            branches = tuple(
                (value, self.both(in_a.get(value, default_a), in_b.get(value, default_b)))
                for value in sorted(in_a.keys() | in_b.keys())
            )
        node = self._and[key] = self._node(level, branches, default)
        return node

    def negate(self, a: int) -> int:
        """The states that are not in `a`."""
        node = self._not.get(a)
        if node is None:
            branches = tuple((value, self.negate(child)) for value, child in self._branches[a])
            node = self._node(self._level[a], branches, self.negate(self._default[a]))
            self._not[a] = node
            self._not[node] = a
        return node

    def either(self, a: int, b: int) -> int:
        """The states that are in `a` or in `b`."""
        if a == NEVER or b == ALWAYS:
            return b
        if b == NEVER or a == ALWAYS:
            return a
        return self.negate(self.both(self.negate(a), self.negate(b)))

    def minus(self, a: int, b: int) -> int:
        """The states that are in `a` and not in `b`."""
        return self.both(a, self.negate(b))

    def union(self, nodes: Iterable[int]) -> int:
        """The states that are in at least one of `nodes`."""
        result = NEVER
        for node in nodes:
            result = self.either(result, node)
        return result

    def meet(self, a: int, b: int) -> bool:
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

    def _meets(self, a: int, b: int) -> bool:
        level_a, level_b = self._level[a], self._level[b]
        level = level_a if level_a < level_b else level_b
        branches_a, default_a = (self._branches[a], self._default[a]) if level_a == level else ((), a)
        branches_b, default_b = (self._branches[b], self._default[b]) if level_b == level else ((), b)
        if self.meet(default_a, default_b):
            return True
        if not branches_b:
            return any(self.meet(child, default_b) for _value, child in branches_a)
        in_b = dict(branches_b)
        for value, child in branches_a:
            if self.meet(child, in_b.pop(value, default_b)):
                return True
        return any(self.meet(default_a, child) for child in in_b.values())

    def overlap(self, a: int, b: int) -> bool:
        """Whether a possible state is in both."""
        first, second = self._boxes.get(a) or self._boxes_of(a), self._boxes.get(b) or self._boxes_of(b)
        if first is None or second is None:
            return self.meet(self.both(a, b), self.possible)
        guards, lows = self._guards, self._lows
        for one in first:
            for other in second:
                box = one & other
                if ((box | guards) - lows) & guards == guards and self._has_possible(box):
                    return True
        return False

    def fulfillable(self, a: int) -> bool:
        """Whether it has a possible state."""
        boxes = self._boxes.get(a) or self._boxes_of(a)
        if boxes is None:
            return self.meet(a, self.possible)
        return any(map(self._has_possible, boxes))

    def covers(self, a: int, b: int) -> bool:
        """Whether every possible state of `b` is in `a`."""
        first, second = self._boxes.get(a) or self._boxes_of(a), self._boxes.get(b) or self._boxes_of(b)
        if first is None or second is None:
            return not self.meet(self.minus(b, a), self.possible)
        for box in second:
            rest = [box]
            for one in first:
                if len(rest) == 1 and not rest[0] & ~one:
                    rest = []
                    break
                rest = [piece for other in rest for piece in self._take_away(other, one)]
            for piece in rest:
                if self._has_possible(piece):
                    return False
        return True

    def _boxes_of(self, node: int) -> tuple[int, ...] | None:
        """The boxes of a node; those of facts joined by "and" are put together when they are first asked for."""
        found = self._boxes.get(node)
        if found is None and (parts := self._parts.get(node)):
            known = self._boxes.get
            box = self._full
            for part in parts:
                own = known(part)
                if own is None or len(own) != 1:
                    return self._product_of_boxes(node, parts)
                box &= own[0]
            found = self._boxes[node] = (box,)
        return found

    def _product_of_boxes(self, node: int, parts: list[int]) -> tuple[int, ...] | None:
        boxes = [self._full]
        for part in parts:
            own = self._boxes.get(part)
            if own is None or len(own) * len(boxes) > _MOST_BOXES:
                del self._parts[node]
                return None
            boxes = [one & other for one in boxes for other in own]
        guards, lows = self._guards, self._lows
        found = self._boxes[node] = tuple([box for box in boxes if ((box | guards) - lows) & guards == guards])
        return found

    def _has_possible(self, box: int) -> bool:
        """Whether a state of a box is possible."""
        key = box & self._excluding
        known = self._known_possible.get(key)
        if known is None:
            guards, lows = self._guards, self._lows
            rest = [box]
            for never in self._never_boxes:
                if (((box & never) | guards) - lows) & guards == guards:
                    rest = [piece for one in rest for piece in self._take_away(one, never)]
            known = self._known_possible[key] = bool(rest)
        return known

    def _full_bits_of(self, *nodes: int) -> int:
        """The bits of all facts that these speak of."""
        names = frozenset().union(*map(self.mentioned, nodes))
        return sum(self._fields[self._level_of[name]] for name in names)

    def share_facts(self, a: int, b: int) -> bool:
        """Whether membership in `a` and membership in `b` depend on a common fact."""
        boxes = self._boxes.get(a) or self._boxes_of(a)
        if boxes is not None and len(boxes) == 1:  # a box speaks of a fact where it lacks one of its values
            bits = self._bits_of.get(b)
            if bits is None:
                bits = self._bits_of[b] = self._full_bits_of(b)
            return boxes[0] & bits != bits
        return not self.mentioned(a).isdisjoint(self.mentioned(b))

    def _take_away(self, box: int, other: int) -> list[int]:
        """The states of a box that are not in another one, as boxes without a common state."""
        common = box & other
        guards = self._guards
        if ((common | guards) - self._lows) & guards != guards:
            return [box]
        pieces = []
        outside = box & ~other
        for field_bits in self._fields:
            part = outside & field_bits
            if part:
                pieces.append(box & ~field_bits | part)
                box = box & ~field_bits | common & field_bits
        return pieces

    def _note_boxes(self, node: int, boxes: Iterable[int]) -> int:
        """Remember the boxes of a node, where there are few."""
        if node not in self._boxes:
            found = tuple(boxes)
            if len(found) <= _MOST_BOXES:
                self._boxes[node] = found
        return node

    def conjunction(self, a: int, b: int) -> int:
        """Like `both`, for reading: the boxes are kept as well."""
        node = self.both(a, b)
        first, second = self._boxes_of(a), self._boxes_of(b)
        if first is not None and second is not None and node not in self._boxes and len(first) * len(second) <= 16:
            guards, lows = self._guards, self._lows
            products = (one & other for one in first for other in second)
            self._note_boxes(node, (box for box in products if ((box | guards) - lows) & guards == guards))
        return node

    def disjunction(self, a: int, b: int) -> int:
        """Like `either`, for reading: the boxes are kept as well."""
        node = self.either(a, b)
        first, second = self._boxes_of(a), self._boxes_of(b)
        if first is not None and second is not None:
            self._note_boxes(node, (*first, *second))
        return node

    def negation(self, a: int) -> int:
        """Like `negate`, for reading: the boxes of what speaks of one fact are kept as well."""
        node = self.negate(a)
        boxes = self._boxes_of(a)
        if boxes is not None and len(boxes) == 1 and a > ALWAYS and self._speaks_of_one_fact(a):
            bits = self._fields[self._level[a]] if self._fields else 0
            self._note_boxes(node, (boxes[0] ^ bits,))
        return node

    def without(self, a: int, names: Iterable[str]) -> int:
        """The states that agree with one of `a` in all facts but `names`: what `a` says when these are unknown."""
        dropped = {self._level_of[name] for name in names if name in self._level_of}
        memo: dict[int, int] = {}

        def walk(node: int) -> int:
            if node <= ALWAYS:
                return node
            if node not in memo:
                children = [(value, walk(child)) for value, child in self._branches[node]]
                default = walk(self._default[node])
                if self._level[node] in dropped:
                    memo[node] = self.union([default, *(child for _value, child in children)])
                else:
                    memo[node] = self._node(self._level[node], tuple(children), default)
            return memo[node]

        return walk(a)

    def coarsened(self, a: int, classes: Mapping[str, Sequence[Iterable[str]]]) -> int:
        """The least set that has `a` in it and cannot tell the values of one class from each other.

        `classes` has for each fact groups of its values; ANY_OTHER is a value, too. What is in no group stands alone.
        """
        groups = {
            self._level_of[name]: [{self._index(self._level_of[name], value) for value in group} for group in found]
            for name, found in classes.items()
            if name in self._level_of
        }
        memo: dict[int, int] = {}

        def walk(node: int) -> int:
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
                memo[node] = self._node(level, tuple(sorted(children.items())), default)
            return memo[node]

        return walk(a)

    def _index(self, level: int, value: str) -> int:
        return -1 if value == ANY_OTHER else self._value_index[level][value]

    def terms(self, a: int, within: int) -> list[list[tuple[str, tuple[str, ...], bool]]]:
        """`a` as alternatives, none in another, each a list of (fact, values, whether the fact has one of them).

        It need be right only in the states `within`; no alternative: in none of them; one without literals: in all.
        """
        found: list[list[tuple[str, tuple[str, ...], bool]]] = []

        def walk(node: int, path: list[tuple[str, tuple[str, ...], bool]]) -> None:
            if node == ALWAYS:
                found.append(path)
            if node <= ALWAYS:
                return
            level = self._level[node]
            name = self.facts.facts[level].name
            groups: dict[int, list[int]] = {}
            for index, child in self._branches[node]:
                groups.setdefault(child, []).append(index)
            for child, indexes in groups.items():
                walk(child, [*path, (name, tuple(self._value_name(level, one) for one in indexes), True)])
            others = tuple(self._value_name(level, index) for index, _child in self._branches[node])
            walk(self._default[node], [*path, (name, others, False)])

        walk(self._simplify(a, within), [])
        return found

    def mentioned(self, a: int) -> frozenset[str]:
        """The facts on which membership in `a` depends."""
        found = self._mentioned.get(a)
        if found is None:
            parts = self._parts.get(a)  # of facts joined by "and" none can cancel another, unless nothing is left
            if parts and a > ALWAYS and self._single.issuperset(parts):
                found = frozenset().union(*map(self._facts_of, parts))
            else:
                found = self._facts_of(a)
            self._mentioned[a] = found
        return found

    def _facts_of(self, a: int) -> frozenset[str]:
        seen: set[int] = set()
        names: set[str] = set()
        stack = [a]
        while stack:
            node = stack.pop()
            if node <= ALWAYS or node in seen:
                continue
            seen.add(node)
            names.add(self.facts.facts[self._level[node]].name)
            stack.append(self._default[node])
            stack.extend(child for _value, child in self._branches[node])
        return frozenset(names)

    def holds(self, a: int, state: dict[str, str]) -> bool:
        """Whether the one state `state` is in `a`; a fact that it does not name has its default value."""
        while a > ALWAYS:
            level = self._level[a]
            value = state.get(self.facts.facts[level].name)
            index = self._value_index[level].get(value, -1) if value is not None else self._last[level]
            a = dict(self._branches[a]).get(index, self._default[a])
        return a == ALWAYS

    # --- back to what people read

    def example(self, a: int) -> dict[str, str]:
        """One possible state of `a`, with the facts that matter; raises ValueError when there is none."""
        node = self.both(a, self.possible)
        if node == NEVER:
            raise ValueError("no state is in the empty set")
        state: dict[str, str] = {}
        while node != ALWAYS:
            level = self._level[node]
            for index, child in (*self._branches[node], (self._last[level], self._default[node])):
                if child != NEVER:
                    state[self.facts.facts[level].name] = self._value_name(level, index)
                    node = child
                    break
        return state

    def describe(self, a: int) -> str:
        """A short condition for the possible states of `a`; `parse` reads it back to the same possible states."""
        node = self.both(a, self.possible)
        if node == NEVER:
            return "never"
        if node == self.possible:
            return "always"
        fewest = node
        for fact in self.facts.facts:  # a fact that the others imply need not be said
            rest = self.without(fewest, [fact.name])
            if rest != fewest and self.both(rest, self.possible) == node:
                fewest = rest
        candidates = [self._write(self._simplify(one, self.possible)) for one in (a, fewest)]
        if a != node:
            candidates.append(self._write(node))
        opposite = self._write(self._simplify(self.negate(a), self.possible))
        candidates.append(f"not {opposite}" if _is_atom(opposite) else f"not ({opposite})")
        valid = [text for text in candidates if self.states(text) == node]
        return min(valid or [self._write(node)], key=lambda text: (len(text), text))

    def _simplify(self, a: int, care: int) -> int:
        """A node that equals `a` wherever `care` holds and is no larger elsewhere (Coudert and Madre's restriction)."""
        if care in (NEVER, ALWAYS) or a <= ALWAYS:
            return a
        level = min(self._level[a], self._level[care])
        if self._level[care] < level or self._level[a] > level:
            merged = self.union([self._default[care], *(child for _value, child in self._branches[care])])
            return self._simplify(a, merged)
        in_care = dict(self._branches[care]) if self._level[care] == level else {}
        care_default = self._default[care] if self._level[care] == level else care
        own = dict(self._branches[a])
        keys = sorted(own.keys() | in_care.keys())
        pairs = [(key, own.get(key, self._default[a]), in_care.get(key, care_default)) for key in keys]
        children: dict[int, int] = {}
        free: list[int] = []
        for key, child, child_care in pairs:
            if child_care == NEVER:
                free.append(key)
            else:
                children[key] = self._simplify(child, child_care)
        if care_default == NEVER and children:  # no possible state takes the default branch: it may be anything
            kept = list(children.values())
            default = max(kept, key=kept.count)
        else:
            default = self._simplify(self._default[a], care_default)
        for key in free:
            children[key] = default
        return self._node(level, tuple(sorted(children.items())), default)

    def _write(self, node: int) -> str:
        terms: list[str] = []
        self._terms(node, [], terms)
        return terms[0] if len(terms) == 1 else " or ".join(terms)

    def _terms(self, node: int, path: list[str], terms: list[str]) -> None:
        if node == ALWAYS:
            terms.append(" and ".join(path) or "always")
            return
        if node == NEVER:
            if not path:
                terms.append("never")
            return
        level = self._level[node]
        groups: dict[int, list[int]] = {}
        for index, child in self._branches[node]:
            groups.setdefault(child, []).append(index)
        default = self._default[node]
        mentioned = [index for index, _child in self._branches[node]]
        for child, indexes in groups.items():
            if child != NEVER:
                values = [self._value_name(level, index) for index in indexes]
                self._terms(child, [*path, self._write_literal(level, values, True)], terms)
        if default != NEVER:
            values = [self._value_name(level, index) for index in mentioned]
            self._terms(default, [*path, self._write_literal(level, values, False)], terms)

    def _write_literal(self, level: int, values: list[str], positive: bool) -> str:
        fact = self.facts.facts[level]
        name = fact.name
        if not fact.is_open:
            others = [value for value in fact.values if value not in values]
            if fact.values == ("no", "yes"):
                return name if (values == ["yes"]) == positive else f"not {name}"
            if len(others) < len(values) or (len(others) == 1 and not positive):
                values, positive = others, not positive
        if len(values) == 1:
            return f"{name} is {values[0]}" if positive else f"{name} is not {values[0]}"
        return f"{name} in ({', '.join(values)})" if positive else f"{name} not in ({', '.join(values)})"

    def _value_name(self, level: int, index: int) -> str:
        if index == -1:
            return ANY_OTHER
        for value, known in self._value_index[level].items():
            if known == index:
                return value
        raise IndexError(index)

    # --- nodes

    def _all(self, nodes: list[int]) -> int:
        """The states that are in all of `nodes`. Those that speak of one fact each are put together from the last fact
        upwards, with one new node for each."""
        level_of = self._level
        nodes.sort(key=level_of.__getitem__, reverse=True)
        result = nodes[0]
        for node in nodes[1:]:
            level = level_of[node]
            if result <= ALWAYS or level == level_of[result] or level == _LEAF or node not in self._single:
                result = self.both(node, result)
            else:
                branches = tuple(
                    [(value, result if child == ALWAYS else NEVER) for value, child in self._branches[node]]
                )
                result = self._node(level, branches, result if self._default[node] == ALWAYS else NEVER)
        if result not in self._boxes:
            self._parts[result] = nodes
        return result

    def _speaks_of_one_fact(self, node: int) -> bool:
        return self._default[node] <= ALWAYS and all(child <= ALWAYS for _value, child in self._branches[node])

    def _node(self, level: int, branches: tuple[tuple[int, int], ...], default: int) -> int:
        kept = tuple([branch for branch in branches if branch[1] != default])
        if not kept:
            return default
        key = (level, kept, default)
        node = self._unique.get(key)
        if node is None:
            node = self._unique[key] = len(self._level)
            self._level.append(level)
            self._branches.append(kept)
            self._default.append(default)
        return node

    # --- the expression language

    def _parse(self, text: str) -> int:
        if len(text) > MAX_CONDITION_LENGTH:
            raise NotationError(
                f"the condition is longer than {MAX_CONDITION_LENGTH} characters", text[:60] + "…", 0, 1,
                "Give its parts names under [where].",
            )  # fmt: skip
        if " and " in text:
            # The usual form, facts joined by "and": the same few facts stand in thousands of conditions.
            try:
                parsed = self._parsed
                return self._all([
                    known if (known := parsed.get(part)) is not None else self._parse_part(part)
                    for part in text.split(" and ")
                ])  # fmt: skip
            except NotationError:
                pass  # another form, or a fault, whose place is that in the whole text
        return _Reader(self, text).read()

    def _parse_part(self, part: str) -> int:
        """What stands between two "and": a fact, or facts joined by "or" in parentheses. Raises NotationError for all
        else, also where an "or" would bind less than the "and" beside it."""
        if " or " in part:
            if not (part.startswith("(") and part.endswith(")")):
                raise NotationError("this is another form", part, 0, 1)
            node = NEVER
            for piece in part[1:-1].split(" or "):
                known = self._parsed.get(piece)
                node = self.disjunction(node, self._parse_part(piece) if known is None else known)
        else:
            node = _Reader(self, part).read()
            if node > ALWAYS and self._speaks_of_one_fact(node):
                self._single.add(node)
        self._parsed[part] = node
        return node

    def named(self, name: str) -> int:
        """The node of a condition with a name. Raises NotationError when its definition goes round in a circle."""
        known = self._named_nodes.get(name)
        if known is not None:
            return known
        if self._resolving:  # found inside another definition, which is read again when this one is known
            raise _Needs(name)
        try:
            self._resolving.append(name)
            while self._resolving:
                current = self._resolving[-1]
                try:
                    self._named_nodes[current] = self.parse(self._named[current])
                    self._resolving.pop()
                except _Needs as needs:
                    if needs.name in self._resolving:
                        circle = " → ".join([*self._resolving[self._resolving.index(needs.name) :], needs.name])
                        text = self._named[current]
                        raise NotationError(
                            f"conditions are defined by each other: {circle}",
                            text,
                            0,
                            len(text),
                            "Write one of them out.",
                        ) from None
                    self._resolving.append(needs.name)
        finally:
            self._resolving.clear()
        return self._named_nodes[name]

    def has_name(self, name: str) -> bool:
        """Whether a condition has this name."""
        return name in self._named

    def is_over(self, facts: Facts, named: dict[str, str]) -> bool:
        """Whether these are its facts and its conditions with names."""
        return self._named == named and self.facts == facts

    def names(self) -> list[str]:
        """All names that may stand in a condition: of facts and of conditions."""
        return [*self.facts.by_name, *self._named]


class _Needs(Exception):
    """A condition with a name that has to be read first."""

    def __init__(self, name: str) -> None:
        super().__init__(name)
        self.name = name


_TOKEN = re.compile(r"\s*(?:([A-Za-z0-9_][A-Za-z0-9_.+#-]*)|([(),])|(\S))")
_PRECEDENCE = {"or": 1, "and": 2, "not": 3}


class _Reader:
    """One pass over a condition, with a stack of its own, so that nesting costs memory and not the call stack."""

    def __init__(self, space: Space, text: str) -> None:
        self.space = space
        self.text = text
        self.tokens: list[tuple[str, int]] = []
        for match in _TOKEN.finditer(text):
            if match[3]:
                self.fail(
                    f"unexpected character: {match[3]}", match.start(3), match.end(3), "Use and, or, not, is, in."
                )
            token = match[1] or match[2]
            if token:
                self.tokens.append((token, match.end() - len(token)))
        self.position = 0

    def read(self) -> int:
        operands: list[int] = []
        operators: list[tuple[str, int]] = []

        def reduce(least: int) -> None:
            while operators and operators[-1][0] != "(" and _PRECEDENCE[operators[-1][0]] >= least:
                operator, _start = operators.pop()
                right = operands.pop()
                if operator == "not":
                    operands.append(self.space.negation(right))
                elif operator == "and":
                    operands.append(self.space.conjunction(operands.pop(), right))
                else:
                    operands.append(self.space.disjunction(operands.pop(), right))

        wants_operand = True
        while self.position < len(self.tokens):
            token, start = self.tokens[self.position]
            if wants_operand:
                if token in ("not", "("):
                    operators.append((token, start))
                    self.position += 1
                else:
                    operands.append(self.atom())
                    wants_operand = False
            elif token in ("and", "or"):
                reduce(_PRECEDENCE[token])
                operators.append((token, start))
                self.position += 1
                wants_operand = True
            elif token == ")":
                reduce(0)
                if not operators:
                    self.fail("this parenthesis is closed but was never opened", start, start + 1)
                operators.pop()
                self.position += 1
                # A "not" before the parenthesis belongs to it.
                while operators and operators[-1][0] == "not":
                    operators.pop()
                    operands.append(self.space.negation(operands.pop()))
            else:
                self.fail(f"expected and, or, or the end, not {token}", start, start + len(token))
        if wants_operand:
            end = len(self.text)
            self.fail("the condition ends too early" if self.tokens else "the condition is empty", max(0, end - 1), end)
        reduce(0)
        if operators:
            start = operators[-1][1]
            self.fail("this parenthesis is never closed", start, start + 1)
        return operands[0]

    def atom(self) -> int:
        name, start = self.take("a fact")
        if name == "always":
            return ALWAYS
        if name == "never":
            return NEVER
        end = start + len(name)
        if name in _OPERATORS or name in "(),":
            self.fail(f"expected a fact, not {name}", start, end)
        fact = self.space.facts.by_name.get(name)
        word = self.peek()
        if word not in ("is", "in", "not") or (word == "not" and self.peek(1) != "in"):
            if self.space.has_name(name):
                return self.space.named(name)
            if fact is None:
                self.unknown(name, start, self.space.names(), "fact or condition")
            elif fact.values == ("no", "yes"):
                return self.space.literal(name, ["yes"])
            else:
                self.fail(f"{name} needs a value", start, end, f"Write {name} is {fact.values[0]}.")
        if fact is None:
            self.unknown(name, start, list(self.space.facts.by_name), "fact")
        operator, _ = self.take("is or in")
        negative = False
        if operator == "not":
            negative = True
            operator, _ = self.take("in")
        elif operator == "is" and self.peek() == "not":
            negative = True
            self.take("not")
        values = [self.value(fact)] if operator == "is" else self.values(fact)
        node = self.space.literal(name, values)
        return self.space.negation(node) if negative else node

    def values(self, fact: Fact) -> list[str]:
        self.expect("(")
        values = [self.value(fact)]
        while self.peek() == ",":
            self.take(",")
            values.append(self.value(fact))
        self.expect(")")
        return values

    def value(self, fact: Fact) -> str:
        value, start = self.take(f"a value of {fact.name}")
        if value in "(),":
            self.fail(f"expected a value of {fact.name}, not {value}", start, start + 1)
        if not fact.is_open and value not in fact.values:
            shown = ", ".join(fact.values[:12]) + (", …" if len(fact.values) > 12 else "")
            self.fail(
                f"{fact.name} is never {value}", start, start + len(value),
                did_you_mean(value, fact.values) or f"Its values are {shown}.",
            )  # fmt: skip
        return value

    def peek(self, ahead: int = 0) -> str:
        index = self.position + ahead
        return self.tokens[index][0] if index < len(self.tokens) else ""

    def take(self, wanted: str) -> tuple[str, int]:
        if self.position >= len(self.tokens):
            end = len(self.text)
            self.fail(f"the condition ends where {wanted} should stand", max(0, end - 1), end)
        self.position += 1
        return self.tokens[self.position - 1]

    def expect(self, token: str) -> None:
        found, start = self.take(token)
        if found != token:
            self.fail(f"expected {token}, not {found}", start, start + len(found))

    def unknown(self, name: str, start: int, known: Sequence[str], kind: str) -> NoReturn:
        advice = did_you_mean(name, list(known)) or f"Facts are {', '.join(self.space.facts.by_name)}."
        self.fail(f"unknown {kind}: {name}", start, start + len(name), advice)

    def fail(self, what: str, start: int, end: int, advice: str = "") -> NoReturn:
        raise NotationError(what, self.text, start, end, advice)


def _is_atom(text: str) -> bool:
    return " " not in text
