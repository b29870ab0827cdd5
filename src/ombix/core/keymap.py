"""Bindings, layers and keymaps: what the neutral model holds between the editors at its edges."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Literal, NamedTuple

from ombix.core.actions import Catalogue
from ombix.core.conditions import ALWAYS, Fact, Facts, Space
from ombix.core.errors import InputError, Place
from ombix.core.keys import MOD, Trigger, expand, is_family, write
from ombix.core.platforms import Platform


@dataclass(frozen=True, slots=True)
class Do:
    """Run an action of the catalogue. Each action takes an argument `count`, for how many times in a row."""

    action: str
    arguments: tuple[tuple[str, str], ...] = ()

    @property
    def count(self) -> int:
        """How many times in a row the action is run."""
        return int(dict(self.arguments).get("count", "1"))

    @property
    def once(self) -> "Do":
        """The same without its count."""
        rest = tuple(pair for pair in self.arguments if pair[0] != "count")
        return self if rest == self.arguments else Do(self.action, rest)

    def __str__(self) -> str:
        inner = ", ".join(f"{name}={value}" for name, value in self.arguments)
        return f"{self.action}({inner})" if inner else self.action


@dataclass(frozen=True, slots=True)
class Type:
    """Put a text where the cursor is, as if it were typed, whatever the mode."""

    text: str

    def __str__(self) -> str:
        return f"type {self.text!r}"


@dataclass(frozen=True, slots=True)
class Press:
    """Press keys; what they do is decided when they are pressed."""

    keys: Trigger

    def __str__(self) -> str:
        return f"press {write(self.keys)}"


@dataclass(frozen=True, slots=True)
class Play:
    """Run a macro of the keymap."""

    macro: str

    def __str__(self) -> str:
        return f"macro {self.macro}"


@dataclass(frozen=True, slots=True)
class Only:
    """Run a command that only one editor has, kept as that editor writes it. Ombix never runs it itself."""

    editor: str
    command: str

    def __str__(self) -> str:
        return f"{self.command} ({self.editor} only)"


@dataclass(frozen=True, slots=True)
class Nothing:
    """Nothing happens: the keys were taken away on purpose."""

    def __str__(self) -> str:
        return "nothing"


MAX_COUNT = 1000
"""How many times in a row an action can be run at most."""

Outcome = Do | Play | Only | Nothing
Step = Do | Type | Press | Play | Only


@dataclass(frozen=True, slots=True)
class Macro:
    """A named list of steps."""

    name: str
    title: str
    steps: tuple[Step, ...]
    place: Place


class Binding(NamedTuple):
    """A trigger and its outcome, under a condition, on some platforms (none named: on all)."""

    trigger: Trigger
    outcome: Outcome
    place: Place
    layer: str = ""
    where: str = "always"
    platforms: frozenset[str] = frozenset()
    why: str = ""
    written: str = ""
    fixed: bool = False
    as_written: Trigger = ()
    """The trigger before what a layout has at a place was put in its place; empty where nothing was."""


@dataclass(frozen=True, slots=True)
class Removal:
    """An action that loses the triggers which lower layers give it."""

    action: str
    place: Place
    why: str = ""


@dataclass(frozen=True, slots=True)
class Accepted:
    """A finding that is known and meant: it stays quiet."""

    rule: str
    trigger: Trigger | None
    why: str
    place: Place


@dataclass(frozen=True, slots=True)
class Kept:
    """A piece of an editor's file that Ombix does not understand, carried along as it is."""

    editor: str
    text: str
    place: Place
    reason: str = ""


@dataclass(slots=True)
class Layer:
    """A named, ordered set of bindings and removals."""

    name: str
    kind: Literal["own", "base", "adopted", "defaults"] = "own"
    bindings: list[Binding] = field(default_factory=list)
    removals: list[Removal] = field(default_factory=list)
    macros: dict[str, Macro] = field(default_factory=dict)
    kept: list[Kept] = field(default_factory=list)
    conditions: dict[str, str] = field(default_factory=dict)
    files: list[str] = field(default_factory=list)
    """The files that the layer was read from."""
    facts: list[Fact] = field(default_factory=list)
    never: list[str] = field(default_factory=list)
    accepted: list[Accepted] = field(default_factory=list)
    problems: list[InputError] = field(default_factory=list)
    """What was wrong with entries that were left out, where the reader was told to go on."""
    space: Space | None = None
    """The space in which its conditions were read, to be used again where it is the right one."""


@dataclass(slots=True)
class Keymap:
    """A stack of layers, the lowest first."""

    layers: list[Layer]

    @property
    def macros(self) -> dict[str, Macro]:
        """All macros; those of higher layers win."""
        return {name: macro for layer in self.layers for name, macro in layer.macros.items()}

    def facts(self, base: Facts) -> Facts:
        """The base facts and those that the layers declare."""
        for layer in self.layers:
            if layer.facts or layer.never:
                base = base.extended(layer.facts, layer.never)
        return base

    def space(self, base: Facts) -> Space:
        """All states, over the base facts and what the layers declare, with the conditions that have names."""
        facts, conditions = self.facts(base), self.conditions
        known = self.layers[-1].space if self.layers else None
        return known if known is not None and known.is_over(facts, conditions) else Space(facts, conditions)

    @property
    def conditions(self) -> dict[str, str]:
        """All conditions with a name; those of higher layers win."""
        return {name: text for layer in self.layers for name, text in layer.conditions.items()}

    def in_force(self, platform: Platform) -> list[Binding]:
        """The bindings of all layers on a platform, the lowest layer first, without families and Mod.

        An entry for an action or a macro replaces what lower layers of the same keymap say of it; an editor's own
        defaults are replaced key by key only.
        """
        result: list[Binding] = []
        for index, layer in enumerate(self.layers):
            replaced: set[str] = set()
            macros = {name for higher in self.layers[index + 1 :] for name in higher.macros}
            if layer.kind != "defaults":
                for higher in self.layers[index + 1 :]:
                    replaced.update(removal.action for removal in higher.removals)
                    replaced.update(
                        binding.outcome.action
                        for binding in higher.bindings
                        if isinstance(binding.outcome, Do) and higher.kind != "adopted"
                    )
            else:
                for higher in self.layers[index + 1 :]:
                    replaced.update(removal.action for removal in higher.removals)
            for binding in layer.bindings:
                if binding.platforms and platform.name not in binding.platforms:
                    continue
                outcome = binding.outcome
                if isinstance(outcome, Do) and outcome.action in replaced:
                    continue
                if macros and isinstance(outcome, Play) and outcome.macro in macros:
                    continue
                result.extend(concrete(binding, platform))
        return result


def concrete(binding: Binding, platform: Platform) -> Iterable[Binding]:
    """The binding on a platform: Mod replaced, a family written out with its variables put into the arguments."""
    for modifiers, key in binding.trigger:
        if modifiers & MOD or (len(key) > 1 and (key == "Mod" or "{" in key)):
            break
    else:
        return (binding,)
    if not is_family(binding.trigger):
        return (binding._replace(trigger=platform.resolve(binding.trigger)),)
    members = []
    for member, values in expand(platform.resolve(binding.trigger)):
        outcome = binding.outcome
        if isinstance(outcome, Do):
            outcome = Do(outcome.action, tuple((name, _fill(text, values)) for name, text in outcome.arguments))
        members.append(binding._replace(trigger=member, outcome=outcome))
    return members


def wide_states(binding: Binding, space: Space, catalogue: Catalogue) -> int:
    """The states in which the binding applies, possible or not: its condition, and what its action needs where the
    condition says nothing about that."""
    node, needs = _condition_and_needs(binding, space, catalogue)
    return node if needs == ALWAYS else space.both(node, needs)


def applies_somewhere(binding: Binding, space: Space, catalogue: Catalogue) -> bool:
    """Whether there is a possible state in which the binding applies."""
    node, needs = _condition_and_needs(binding, space, catalogue)
    return space.fulfillable(node) if needs == ALWAYS else space.overlap(node, needs)


def _condition_and_needs(binding: Binding, space: Space, catalogue: Catalogue) -> tuple[int, int]:
    node = space.parse(binding.where)
    if isinstance(binding.outcome, Do):
        action = catalogue.actions.get(binding.outcome.action)
        if action is not None and action.needs != "always":
            needs = space.parse(action.needs)
            if not space.share_facts(node, needs):
                return node, needs
    return node, ALWAYS


def effective_states(binding: Binding, space: Space, catalogue: Catalogue) -> int:
    """The possible states in which the binding applies; see `wide_states`."""
    return space.both(wide_states(binding, space, catalogue), space.possible)


def by_trigger(bindings: Iterable[Binding]) -> dict[Trigger, list[Binding]]:
    """The bindings grouped by trigger, in their order."""
    groups: dict[Trigger, list[Binding]] = {}
    for binding in bindings:
        groups.setdefault(binding.trigger, []).append(binding)
    return groups


def _fill(text: str, values: dict[str, str]) -> str:
    for name, value in values.items():
        text = text.replace("{" + name + "}", value)
    return text
