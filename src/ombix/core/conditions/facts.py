"""Facts: the properties of an editor's state that conditions may speak of, what each can be, and what they exclude.

What the rules of meaning need to know of a fact stands beside it in the data: where one is when a state of it is left, its
plainest values, how deep inside an editor it is. No value of a fact is written into code.
"""

from collections.abc import Iterable, Mapping
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

OPERATORS = frozenset({"and", "or", "not", "is", "in", "always", "never"})
"""The words of conditions, which no fact and no condition can be named by."""

ANY_OTHER = "any other"
"""How the value of an open fact that no condition mentions is shown."""


class Fact(Struct, frozen=True):
    """A property of the editor's state. `values` is its domain; an open fact has other values as well.

    `plainest` are its values from the plainest on (none named: in the order of `values`); `rest` is the value that it has
    when a state of it is left without saying for what (empty: nothing leads out of one). `depth` tells how far inside an
    editor what it speaks of is, for editors in which the innermost binding wins. `without` is the value that it always has
    in an editor without it, as an editor without modes is always in one; then `order` are the values whose keys go to such
    an editor, first those that win there. One that `adds` has more values for the fact of its name.
    """

    name: str
    values: tuple[str, ...]
    title: str = ""
    is_open: bool = False
    plainest: tuple[str, ...] = ()
    rest: str = ""
    depth: int = 0
    without: str = ""
    order: tuple[str, ...] = ()
    adds: bool = False

    @property
    def is_flag(self) -> bool:
        """Whether it is a plain yes or no, so that its name alone is a condition."""
        return self.values == ("no", "yes")

    @property
    def domain(self) -> tuple[str, ...]:
        """All its values; of an open fact with ANY_OTHER behind those that have a name."""
        return (*self.values, ANY_OTHER) if self.is_open else self.values

    @property
    def plain_order(self) -> tuple[str, ...]:
        """All named values, the plainest first."""
        return (*self.plainest, *(value for value in self.values if value not in self.plainest))


class Facts(Struct, frozen=True):
    """The facts that conditions may speak of, the conditions that no state can fulfil, and those that rules of meaning use.

    `meaning` has conditions by what they mean: `text` (the keys go to the text), `typing` (a character that is not bound
    is typed into it), `changing` (typing changes the text), and what the stage brings about: `fixed` (the text cannot be
    changed), `changed`, `recording`, `not-recording`, `nothing-selected`, `one-selected`, `several-selected`.

    Raises ValueError for facts that contradict each other.
    """

    facts: tuple[Fact, ...]
    never: tuple[str, ...] = ()
    meaning: dict[str, str] = {}
    by_name: dict[str, Fact] = {}
    order: tuple[str, ...] = ()
    """Names of facts that diagrams ask for first, in this order; all others follow as they stand in `facts`."""

    def __post_init__(self) -> None:
        for fact in self.facts:
            if fact.name in OPERATORS:
                raise ValueError(f"a fact cannot be named like an operator: {fact.name}")
            if self.by_name.setdefault(fact.name, fact) != fact:
                raise ValueError(f"the fact {fact.name} is there already")

    def extended(self, facts: Iterable[Fact], never: Iterable[str]) -> "Facts":
        """These facts and more. Raises ValueError when a name is taken by another fact, or more values are given to one that is
        not there."""
        found = dict(self.by_name)
        for fact in facts:
            known = found.get(fact.name)
            if fact.adds:
                if known is None:
                    raise ValueError(f"there is no fact {fact.name} that could have more values")
                values = (*known.values, *(value for value in fact.values if value not in known.values))
                found[fact.name] = replace(known, values=values)
            elif known is not None and known != fact:
                raise ValueError(f"the fact {fact.name} is there already")
            else:
                found[fact.name] = fact
        excluded = tuple(text for text in never if text not in self.never)
        if found == self.by_name and not excluded:
            return self
        return Facts(tuple(found.values()), (*self.never, *excluded), self.meaning, order=self.order)

    def ordered(self, names: tuple[str, ...]) -> "Facts":
        """These facts, with others to be asked for first."""
        return self if names == self.order else Facts(self.facts, self.never, self.meaning, order=names)

    def in_order(self) -> list[Fact]:
        """The facts in the order in which diagrams ask for them."""
        first = [self.by_name[name] for name in self.order if name in self.by_name]
        return [*first, *(fact for fact in self.facts if fact not in first)] if first else list(self.facts)


def facts_of(table: Mapping[str, Any]) -> Facts:
    """Facts from the table of a facts file: `fact` by name, `never`, and `meaning`."""
    return Facts(
        tuple(
            Fact(
                name, tuple(row["values"]), row.get("title", ""), row.get("open", False), tuple(row.get("plainest", ())),
                row.get("rest", ""), row.get("depth", 0), row.get("without", ""), tuple(row.get("order", ())),
            )
            for name, row in table["fact"].items()
        ),
        tuple(table.get("never", ())),
        dict(table.get("meaning", {})),
    )  # fmt: skip
