"""Bindings, layers and keymaps: what the neutral model holds between the editors at its edges."""

from collections.abc import Iterable, Sequence
from typing import Literal, NamedTuple

from msgspec import Struct, field
from msgspec.structs import replace

from ombix.core.catalogue.actions import Catalogue
from ombix.core.conditions import ALWAYS, Fact, Facts, Scope, Space, States
from ombix.core.errors import InputError, Place
from ombix.core.keymap.outcomes import Do, Insert, Macro, Outcome, Play
from ombix.core.keys.notation import MOD, Trigger, expand, is_family
from ombix.core.keys.platforms import Platform
from ombix.core.snippets.model import Snippet

LayerKind = Literal["defaults", "shared", "adopted", "own"]


class LayerName(Struct, frozen=True):
    """Which layer it is: `id` is its own alone (the path of its file, or the editor whose defaults it has), `name` is what
    people call it, and several may be called alike.

    `kind`: an editor's `defaults`; a `shared` keymap that another one extends; one `adopted` from an editor's own file; or
    the user's `own`. `editor` is the one that it holds in, where it holds in one only.
    """

    id: str
    name: str
    kind: LayerKind = "own"
    editor: str = ""


class Binding(Struct, frozen=True):
    """A trigger and its outcome, under a condition, on some platforms (none named: on all).

    `scope` has the conditions with a name that `where` may use. `written` is how it stands in its file; `fixed`: the
    editor's file cannot bind these keys otherwise; `adds`: it comes beside the keys that lower layers give the action.
    """

    trigger: Trigger
    outcome: Outcome
    place: Place
    layer: LayerName
    where: str = "always"
    scope: Scope | None = None
    platforms: frozenset[str] = frozenset()
    why: str = ""
    written: str = ""
    fixed: bool = False
    adds: bool = False
    as_written: Trigger = ()
    """The trigger before Mod was replaced, and what a layout has at a place was put in its place; empty where nothing was."""
    command: str = ""
    """The command that it was adopted from, as the editor of its layer writes it."""
    instead_of: Outcome | None = None
    """What a command of one editor is written in place of."""

    @property
    def keys(self) -> Trigger:
        """The trigger as its user wrote it."""
        return self.as_written or self.trigger


class Removal(Struct, frozen=True):
    """An action that loses the triggers which lower layers give it, on some platforms (none named: on all)."""

    action: str
    place: Place
    why: str = ""
    platforms: frozenset[str] = frozenset()


class Accepted(Struct, frozen=True):
    """A finding that is known and meant: it stays quiet."""

    rule: str
    trigger: Trigger | None
    why: str
    place: Place


class Unsettled(Struct, frozen=True):
    """What two sides changed, each otherwise, or gave the same keys to, and nobody has settled yet.

    `at` is the path of an entry (`bind.line.delete`), or `keys` are those that both use. `base`, `ours` and `theirs` are
    texts of what stood there, as values of TOML; empty: nothing.
    """

    place: Place
    at: tuple[str, ...] = ()
    keys: Trigger = ()
    why: str = ""
    base: str = ""
    ours: str = ""
    theirs: str = ""


class Kept(Struct, frozen=True):
    """A piece of an editor's file that Ombix does not understand, carried along as it is."""

    editor: str
    text: str
    place: Place
    reason: str = ""
    is_beside: bool = False
    """Whether it stands in a file beside the key file."""


class Layer(Struct):
    """An ordered set of bindings and removals. `replaces` has for an action or a macro the platforms on which this layer
    says all that there is to say of it, so that what lower layers say of it no longer holds (none named: on all)."""

    name: LayerName
    bindings: list[Binding] = []
    removals: list[Removal] = []
    replaces: dict[str, frozenset[str]] = {}
    macros: dict[str, Macro] = {}
    snippets: dict[str, Snippet] = {}
    kept: list[Kept] = []
    unsettled: list[Unsettled] = []
    scope: Scope = field(default_factory=lambda: Scope({}))
    files: list[str] = []
    """The files that the layer was read from."""
    facts: list[Fact] = []
    never: list[str] = []
    accepted: list[Accepted] = []
    problems: list[InputError] = []
    """What was wrong with entries that were left out, where the reader was told to go on."""
    order: tuple[str, ...] = ()
    """Facts that its conditions are best asked for first; see `Facts.order`."""
    space: Space | None = None
    """The space in which its conditions were read, to be used again where it is the right one."""


class Replaced(NamedTuple):
    """A binding of a lower layer that no longer holds, and what a higher one says in its place."""

    binding: Binding
    by: Binding | Removal | None
    """None where a higher layer has a macro of the same name without keys."""
    layer: LayerName
    """The higher layer."""


class InForce(NamedTuple):
    """The bindings of a keymap that hold on a platform, the lowest layer first, and those that were replaced."""

    bindings: list[Binding]
    replaced: list[Replaced]


class Keymap(Struct):
    """A stack of layers, the lowest first."""

    layers: list[Layer]

    @property
    def macros(self) -> dict[str, Macro]:
        """All macros; those of higher layers win."""
        return {name: macro for layer in self.layers for name, macro in layer.macros.items()}

    @property
    def snippets(self) -> dict[str, Snippet]:
        """All snippets; those of higher layers win."""
        return {name: snippet for layer in self.layers for name, snippet in layer.snippets.items()}

    @property
    def scope(self) -> Scope:
        """The conditions with a name that the highest layer can use."""
        own = [layer.scope for layer in self.layers if layer.name.kind != "defaults"]
        return own[-1] if own else Scope({})

    def facts(self, base: Facts) -> Facts:
        """The base facts and those that the layers declare."""
        for layer in self.layers:
            if layer.facts or layer.never:
                base = base.extended(layer.facts, layer.never)
            if layer.order:
                base = base.ordered(layer.order)
        return base

    def space(self, base: Facts) -> Space:
        """All states, over the base facts and what the layers declare."""
        facts = self.facts(base)
        known = self.layers[-1].space if self.layers else None
        return known if known is not None and known.is_over(facts) else Space(facts)

    def in_force(self, platform: Platform) -> InForce:
        """The bindings of all layers on a platform, without families and Mod.

        An entry for an action or a macro replaces what lower layers say of it, on the platforms that it speaks of; an
        editor's own defaults, and what was adopted from its file, are replaced key by key only.
        """
        bindings: list[Binding] = []
        replaced: list[Replaced] = []
        for index, layer in enumerate(self.layers):
            replacing = _replacing(self.layers[index + 1 :], layer.name.kind, platform.name)
            for binding in layer.bindings:
                if binding.platforms and platform.name not in binding.platforms:
                    continue
                name = _replaceable(binding.outcome) if replacing else ""
                if name in replacing:
                    by, higher = replacing[name]
                    replaced.extend(Replaced(one, by, higher) for one in concrete(binding, platform))
                else:
                    bindings.extend(concrete(binding, platform))
        return InForce(bindings, replaced)


def _replaceable(outcome: Outcome) -> str:
    """What a higher layer would name to replace a binding; empty for what is replaced key by key only."""
    if isinstance(outcome, Do):
        return outcome.action
    return outcome.key if isinstance(outcome, Play | Insert) else ""


def _replacing(
    above: Sequence[Layer], kind: LayerKind, platform: str
) -> dict[str, tuple[Binding | Removal | None, LayerName]]:
    """What higher layers replace on a platform, each with what stands in its place, by the names of `_replaceable`."""
    found: dict[str, tuple[Binding | Removal | None, LayerName]] = {}
    for layer in above:
        for removal in layer.removals:
            if not removal.platforms or platform in removal.platforms:
                found[removal.action] = removal, layer.name
        if kind == "defaults" or layer.name.kind == "adopted":
            continue
        names = {name for name, platforms in layer.replaces.items() if not platforms or platform in platforms}
        if names:
            found.update(dict.fromkeys(names, (None, layer.name)))
            for binding in layer.bindings:
                name = _replaceable(binding.outcome)
                if name in names and not binding.adds and found[name][0] is None:
                    found[name] = binding, layer.name
        said = [*(Play(macro).key for macro in layer.macros), *(Insert(snippet).key for snippet in layer.snippets)]
        found.update({name: (None, layer.name) for name in said if name not in names})
    return found


def concrete(binding: Binding, platform: Platform) -> Iterable[Binding]:
    """The binding on a platform: Mod replaced, a family written out with its variables put into the arguments."""
    for modifiers, key in binding.trigger:
        if modifiers & MOD or (len(key) > 1 and (key == "Mod" or "{" in key)):
            break
    else:
        return (binding,)
    if not is_family(binding.trigger):
        return (replace(binding, trigger=platform.resolve(binding.trigger), as_written=binding.keys),)
    members = []
    for member, values in expand(platform.resolve(binding.trigger)):
        outcome = binding.outcome
        if isinstance(outcome, Do):
            outcome = Do(outcome.action, tuple((name, _fill(text, values)) for name, text in outcome.arguments))
        members.append(replace(binding, trigger=member, outcome=outcome))
    return members


def wide_states(binding: Binding, space: Space, catalogue: Catalogue) -> States:
    """The states in which the binding applies, possible or not: its condition, and what its action needs where the
    condition says nothing about that."""
    node, needs = _condition_and_needs(binding, space, catalogue)
    return node if needs == ALWAYS else space.both(node, needs)


def applies_somewhere(binding: Binding, space: Space, catalogue: Catalogue) -> bool:
    """Whether there is a possible state in which the binding applies."""
    node, needs = _condition_and_needs(binding, space, catalogue)
    return space.fulfillable(node) if needs == ALWAYS else space.overlap(node, needs)


def _condition_and_needs(binding: Binding, space: Space, catalogue: Catalogue) -> tuple[States, States]:
    node = space.parse(binding.where, binding.scope)
    if isinstance(binding.outcome, Do):
        action = catalogue.actions.get(binding.outcome.action)
        if action is not None and action.needs != "always":
            needs = space.parse(action.needs)
            if not space.share_facts(node, needs):
                return node, needs
    return node, ALWAYS


def effective_states(binding: Binding, space: Space, catalogue: Catalogue) -> States:
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
