"""The catalogue: what an editor can be asked to do, named independently of any editor."""

import re
from collections.abc import Iterable, Iterator, Mapping
from typing import Any, Literal

from msgspec import Struct

Risk = Literal["none", "leaves", "closes", "loses work"]
ArgumentKind = Literal["number", "letter", "character", "name", "text", "direction"]
"""What an argument takes: a number from 1 on, a letter, any one character, a word of letters and digits, any text, or where
to."""

_EXAMPLES: dict[ArgumentKind, str] = {
    "number": "2", "letter": "f", "character": "x", "name": "a", "text": "…", "direction": "left",
}  # fmt: skip
_SHAPES: dict[ArgumentKind, tuple[re.Pattern[str], str]] = {
    "number": (re.compile("[1-9][0-9]{0,8}"), "a number from 1 on"),
    "letter": (re.compile(r"[^\W\d_]"), "a letter"),
    "character": (re.compile(r"[^\n]"), "one character"),
    "name": (re.compile(r"\w+"), "a word of letters and digits"),
    "text": (re.compile(r"(?s).+"), "a text"),
    "direction": (re.compile("left|right|up|down"), "left, right, up or down"),
}

Reach = Literal["text", "files", "programs"]
"""What running something may touch at the most: the text that is edited and the editor's windows; files, too; or programs,
and with them everything."""

COUNT = "count"
"""The argument that each action takes beside its own: how many times in a row it is run."""


SELECTED = "selected"
"""What an operator works on where it is told no movement, but an object that is selected."""
_MOVING = ("cursor", "search", "bookmark")


class Action(Struct, frozen=True):
    """Something an editor can do. `name` is `domain.verb`; `needs` is the condition under which it makes sense.

    A binding whose own condition says nothing about the facts in `needs` has `needs` added to it; `fits` is the wider
    condition in which the action can do something at all, where it is bound for that (empty: that of `needs`). `enters` is
    the condition that the action leads to, `leaves` the one that it leads out of, `sets` a state that it brings about but
    that needs no way out, `turns` a fact of yes and no that it changes to the other; `frequent` tells that it is used all
    day. `arguments` has what it has to be told, or, where it `asks`, may be told, `reaches` what it may touch. `effect` is
    what it does to a text with its cursor, as a program of `ombix.text.effects` with `{name}` for an argument; empty for one
    that does something else: that is in `facts`, in the same language; both are empty where it does something to a text
    that depends on more than the text. An action with an `operator` waits for a movement, and does that to what it goes over;
    `over` says what of a movement that is (see `ombix.text.effects.operators`), where it is not just up to where it leads.
    """

    name: str
    title: str
    does: str
    words: tuple[str, ...] = ()
    needs: str = "always"
    fits: str = ""
    risk: Risk = "none"
    inverse: str | None = None
    toggles: bool = False
    arguments: dict[str, ArgumentKind] = {}
    asks: bool = False
    frequent: bool = False
    enters: str = ""
    leaves: str = ""
    sets: str = ""
    turns: str = ""
    reaches: Reach = "text"
    effect: str = ""
    facts: str = ""
    operator: str = ""
    over: str = ""

    @property
    def moves_over(self) -> str:
        """What of this movement, or object, an operator works on; empty where it is neither."""
        if self.domain in _MOVING:
            return self.over or "exclusive"
        return SELECTED if self.domain == "select" else self.over

    @property
    def domain(self) -> str:
        """The kind of work, the part of the name before the point."""
        return self.name.partition(".")[0]

    def faults(self, given: Mapping[str, str]) -> Iterator[str]:
        """What is wrong with the arguments that it is told, in sentences."""
        for name, kind in {**self.arguments, COUNT: "number"}.items():
            shape, said = _SHAPES[kind]
            if name not in given:
                if name != COUNT and not self.asks:
                    yield f"{self.name} has to be told its {name}"
            elif not shape.fullmatch(given[name]):
                yield f"the {name} of {self.name} is {said}, not {given[name] or 'nothing'}"

    def told_like(self) -> str:
        """How a file says what the action has to be told, by an example."""
        said = ", ".join(f'{name} = "{_EXAMPLES[kind]}"' for name, kind in self.arguments.items())
        return f"with = {{ {said} }}" if said else ""

    def program(self, given: Mapping[str, str]) -> str:
        """Its effect, for the arguments that it is told; empty where it has none, or asks for one of them first."""
        return self.told(given, self.effect)

    def told(self, given: Mapping[str, str], effect: str) -> str:
        """A program of this action with what it is told put in; empty where something is not told."""
        if "{" not in effect or not self.arguments:
            return effect
        if not self.arguments.keys() <= given.keys() or any(self.faults(given)):
            return ""
        found = effect
        for name, kind in self.arguments.items():
            found = found.replace(f"{{{name}}}", given[name] if kind == "number" else quoted(given[name]))
        return found


def quoted(text: str) -> str:
    """A text as it stands in a program of effects."""
    return '"' + text.replace("\\", "\\\\").replace('"', '\\"').replace("\n", "\\n").replace("\t", "\\t") + '"'


class Catalogue(Struct, frozen=True):
    """All actions by name, and the titles of the domains in their order."""

    actions: dict[str, Action]
    domains: dict[str, str]

    def title(self, name: str) -> str:
        """The action's title; an unknown name is its own title."""
        action = self.actions.get(name)
        return action.title if action else name


def catalogue(tables: Iterable[tuple[str, Mapping[str, Any]]]) -> Catalogue:
    """A catalogue from pairs of a domain's name and its table: `title`, one table for each action, `fits`, which holds
    for all actions of the domain that do not say otherwise, and `about-text`: whether they all do something to a text.

    Raises ValueError when an inverse is missing or a key is unknown.
    """
    actions: dict[str, Action] = {}
    domains: dict[str, str] = {}
    for domain, table in tables:
        domains[domain] = table["title"]
        for verb, value in table.items():
            if not isinstance(value, Mapping):
                continue
            name = f"{domain}.{verb}"
            given = {"fits": table.get("fits", ""), **value, "words": tuple(value.get("words", ()))}
            if not table.get("about-text") and "effect" not in value:
                given.setdefault("facts", _facts(name, value.get("enters", "")))
            try:
                actions[name] = Action(name=name, **given)
            except TypeError as error:
                raise ValueError(f"{name}: {error}") from None
    for action in actions.values():
        if action.inverse and action.inverse not in actions:
            raise ValueError(f"{action.name} has an unknown inverse: {action.inverse}")
    return Catalogue(actions, domains)


def _facts(name: str, enters: str) -> str:
    """What an action does beside the text, where nothing else is said: it is done, and leads to a pane; or leads to a mode."""
    led = re.fullmatch("(pane|mode) is ([a-z-]+)", enters)
    if led is None:
        return f"does {name}"
    return f"now mode {led[2]}" if led[1] == "mode" else f"does {name}; now pane {led[2]}"
