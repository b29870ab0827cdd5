"""Boxes: quick answers about overlap and cover, beside the diagrams.

A box is a number with the bits of the values that each fact may have: most conditions are one box, or a few, and then
overlap and cover are answered with a handful of operations on numbers. What has no boxes, and all in a space with very
large domains, is answered by the diagrams.
"""

from collections.abc import Iterable

from ombix.core.conditions.diagrams import ALWAYS, LEAF_LEVEL, NEVER, Diagrams, States
from ombix.core.conditions.facts import Facts

_MOST_BITS = 4096
_MOST_BOXES = 8
_SPARE_VALUES = 40
"""Values of an open fact that have a bit of their own; conditions on later ones have no box."""

Box = int


class _NoBoxes(dict[States, tuple[Box, ...]]):
    """Boxes are not kept."""

    def __setitem__(self, node: States, boxes: tuple[Box, ...]) -> None:
        pass


class BoxedDiagrams(Diagrams):
    """Diagrams whose sets have boxes beside them; `possible` are the states that the facts do not exclude."""

    def __init__(self, facts: Facts) -> None:
        super().__init__(facts)
        self.possible = ALWAYS
        self._single: set[States] = set()
        self._boxes: dict[States, tuple[Box, ...]] = {}
        self._bits_of: dict[States, int] = {}
        self._parts: dict[States, list[States]] = {}
        self._never_boxes: list[Box] = []
        self._excluding = 0
        self._known_possible: dict[int, bool] = {}
        self._lay_out()

    def _lay_out(self) -> None:
        """Bits for the values of all facts, a guard bit above those of each fact."""
        self._fields: list[int] = []
        self._guards = self._lows = 0
        self._shifts: list[int] = []
        shift = 0
        for fact in self._levels:
            width = len(fact.values) + (1 + _SPARE_VALUES if fact.is_open else 0)
            self._shifts.append(shift)
            self._fields.append(((1 << width) - 1) << shift)
            self._lows |= 1 << shift
            self._guards |= 1 << (shift + width)
            shift += width + 1
        if shift > _MOST_BITS:
            self._boxes = _NoBoxes()
        self._full: Box = sum(self._fields)
        self._boxes[ALWAYS] = (self._full,)
        self._boxes[NEVER] = ()

    def exclude(self, nevers: Iterable[States]) -> None:
        """Take these states out of the possible ones. To be called once, before anything else is asked."""
        nevers = list(nevers)
        for node in nevers:
            self.possible = self.minus(self.possible, node)
        boxes = [self._boxes_of(node) for node in nevers]
        if None in boxes:
            self._boxes = _NoBoxes()
        self._never_boxes = [box for found in boxes for box in found or ()]
        # Whether a box has a possible state depends only on the facts that the exclusions speak of.
        self._excluding = self._full_bits_of(*nevers)

    def literal(self, name: str, values: Iterable[str]) -> States:
        """The set of states in which the fact `name` has one of `values`."""
        values = list(values)
        node = self._literal(name, values)
        level = self._level_of[name]
        room = self._fields[level].bit_count() - (1 if self._last[level] == -1 else 0)
        indexes = [self._value_index[level][value] for value in values]
        if max(indexes) < room:
            bits = sum(1 << (self._shifts[level] + index) for index in set(indexes))
            self._note(node, (self._full & ~self._fields[level] | bits,))
        return node

    def overlap(self, a: States, b: States) -> bool:
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

    def fulfillable(self, a: States) -> bool:
        """Whether it has a possible state."""
        boxes = self._boxes.get(a) or self._boxes_of(a)
        if boxes is None:
            return self.meet(a, self.possible)
        return any(map(self._has_possible, boxes))

    def covers(self, a: States, b: States) -> bool:
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

    def share_facts(self, a: States, b: States) -> bool:
        """Whether membership in `a` and membership in `b` depend on a common fact."""
        boxes = self._boxes.get(a) or self._boxes_of(a)
        if boxes is not None and len(boxes) == 1:  # a box speaks of a fact where it lacks one of its values
            bits = self._bits_of.get(b)
            if bits is None:
                bits = self._bits_of[b] = self._full_bits_of(b)
            return boxes[0] & bits != bits
        return not self.mentioned(a).isdisjoint(self.mentioned(b))

    def mentioned(self, a: States) -> frozenset[str]:
        """The facts on which membership in `a` depends."""
        found = self._mentioned.get(a)
        if found is None:
            parts = self._parts.get(a)  # of facts joined by "and" none can cancel another, unless nothing is left
            if parts and a > ALWAYS and self._single.issuperset(parts):
                found = self._mentioned[a] = frozenset().union(*map(self._facts_in, parts))
            else:
                found = super().mentioned(a)
        return found

    # --- for reading: like the algebra, but the boxes are kept as well

    def conjunction(self, a: States, b: States) -> States:
        """Like `both`, with its boxes."""
        node = self.both(a, b)
        first, second = self._boxes_of(a), self._boxes_of(b)
        if first is not None and second is not None and node not in self._boxes and len(first) * len(second) <= 16:
            guards, lows = self._guards, self._lows
            products = (one & other for one in first for other in second)
            self._note(node, (box for box in products if ((box | guards) - lows) & guards == guards))
        return node

    def disjunction(self, a: States, b: States) -> States:
        """Like `either`, with its boxes."""
        node = self.either(a, b)
        first, second = self._boxes_of(a), self._boxes_of(b)
        if first is not None and second is not None:
            self._note(node, (*first, *second))
        return node

    def negation(self, a: States) -> States:
        """Like `negate`, with the boxes of what speaks of one fact."""
        node = self.negate(a)
        boxes = self._boxes_of(a)
        if boxes is not None and len(boxes) == 1 and a > ALWAYS and self._speaks_of_one_fact(a):
            bits = self._fields[self._level[a]] if self._fields else 0
            self._note(node, (boxes[0] ^ bits,))
        return node

    def all_of(self, nodes: list[States]) -> States:
        """The states that are in all of `nodes`. Those that speak of one fact each are put together from the last fact
        upwards, with one new node for each."""
        level_of = self._level
        nodes.sort(key=level_of.__getitem__, reverse=True)
        result = nodes[0]
        for node in nodes[1:]:
            level = level_of[node]
            if result <= ALWAYS or level == level_of[result] or level == LEAF_LEVEL or node not in self._single:
                result = self.both(node, result)
            else:
                branches = tuple(
                    [(value, result if child == ALWAYS else NEVER) for value, child in self._branches[node]]
                )
                result = self._node(level, branches, result if self._default[node] == ALWAYS else NEVER)
        if result not in self._boxes:
            self._parts[result] = nodes
        return result

    def note_single(self, node: States) -> None:
        """Remember a node that speaks of one fact only."""
        if node > ALWAYS and self._speaks_of_one_fact(node):
            self._single.add(node)

    # --- boxes

    def _boxes_of(self, node: States) -> tuple[Box, ...] | None:
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
            del self._parts[node]
        return found

    def _product_of_boxes(self, node: States, parts: list[States]) -> tuple[Box, ...] | None:
        boxes = [self._full]
        for part in parts:
            own = self._boxes.get(part)
            if own is None or len(own) * len(boxes) > _MOST_BOXES:
                del self._parts[node]
                return None
            boxes = [box & other for box in boxes for other in own]
        guards, lows = self._guards, self._lows
        found = self._boxes[node] = tuple([box for box in boxes if ((box | guards) - lows) & guards == guards])
        return found

    def _has_possible(self, box: Box) -> bool:
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

    def _full_bits_of(self, *nodes: States) -> int:
        """The bits of all facts that these speak of."""
        names = frozenset().union(*map(self.mentioned, nodes))
        return sum(self._fields[self._level_of[name]] for name in names)

    def _take_away(self, box: Box, other: Box) -> list[Box]:
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

    def _note(self, node: States, boxes: Iterable[Box]) -> None:
        """Remember the boxes of a node, where there are few."""
        if node not in self._boxes:
            found = tuple(boxes)
            if len(found) <= _MOST_BOXES:
                self._boxes[node] = found
