"""The catalogue: what an editor can be asked to do, named independently of any editor."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

Risk = Literal["none", "leaves", "loses work"]


@dataclass(frozen=True, slots=True)
class Action:
    """Something an editor can do. `name` is `domain.verb`; `needs` is the condition under which it makes sense.

    A binding whose own condition says nothing about the facts in `needs` has `needs` added to it. `enters` is the
    condition that the action leads to, `leaves` the one that it leads out of, `sets` a state that it brings about but that
    needs no way out; `frequent` tells that it is used all day.
    """

    name: str
    title: str
    does: str
    words: tuple[str, ...] = ()
    needs: str = "always"
    risk: Risk = "none"
    inverse: str | None = None
    toggles: bool = False
    arguments: tuple[str, ...] = ()
    frequent: bool = False
    enters: str = ""
    leaves: str = ""
    sets: str = ""

    @property
    def domain(self) -> str:
        """The kind of work, the part of the name before the point."""
        return self.name.partition(".")[0]


@dataclass(frozen=True, slots=True)
class Catalogue:
    """All actions by name, and the titles of the domains in their order."""

    actions: dict[str, Action]
    domains: dict[str, str]

    def title(self, name: str) -> str:
        """The action's title; an unknown name is its own title."""
        action = self.actions.get(name)
        return action.title if action else name


def catalogue(tables: Iterable[tuple[str, Mapping[str, Any]]]) -> Catalogue:
    """A catalogue from pairs of a domain's name and its table: `title` and one table for each action.

    Raises ValueError when an inverse is missing or a key is unknown.
    """
    actions: dict[str, Action] = {}
    domains: dict[str, str] = {}
    for domain, table in tables:
        for name, value in table.items():
            if name == "title":
                domains[domain] = value
                continue
            fields = dict(value)
            for key in ("words", "arguments"):
                fields[key] = tuple(fields.get(key, ()))
            actions[f"{domain}.{name}"] = Action(name=f"{domain}.{name}", **fields)
    for action in actions.values():
        if action.inverse and action.inverse not in actions:
            raise ValueError(f"{action.name} has an unknown inverse: {action.inverse}")
    return Catalogue(actions, domains)
