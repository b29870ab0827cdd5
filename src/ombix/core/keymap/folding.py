"""Folding: the keys that an action has on several platforms, as one portable definition with as few exceptions as can be.

The inverse of writing a portable keymap out for each platform: a definition is found only where writing it out again
gives exactly the same keys.
"""

from collections.abc import Iterator, Mapping, Sequence
from itertools import combinations
from typing import TypeVar

from msgspec import Struct
from msgspec.structs import replace

from ombix.core.conditions import Scope
from ombix.core.errors import Place
from ombix.core.keymap.bindings import Binding, Layer, LayerName, concrete
from ombix.core.keymap.outcomes import Macro, Outcome
from ombix.core.keys.notation import MOD, Chord, Trigger
from ombix.core.keys.platforms import Platform

_Named = TypeVar("_Named")


class Definition(Struct, frozen=True):
    """Keys for all platforms, and for those named in `exceptions` other ones in their place, or none."""

    press: tuple[Trigger, ...]
    exceptions: dict[str, tuple[Trigger, ...]] = {}

    def on(self, platform: Platform) -> list[Trigger]:
        """The keys on a platform, Mod replaced."""
        keys = self.exceptions.get(platform.name, self.press)
        return [platform.resolve(trigger) for trigger in keys]


def fold(keys: Mapping[str, Sequence[Trigger]], platforms: Sequence[Platform]) -> Definition:
    """The definition for the keys that an action has on each of `platforms`, in their order.

    The most platforms that agree on one portable form are its rule, and the others exceptions; of several such groups the
    one with the earlier platforms. Where a key can be written with Mod and without, it is written with Mod.
    """
    sets = {platform.name: list(dict.fromkeys(keys.get(platform.name, ()))) for platform in platforms}
    for size in range(len(platforms), 0, -1):
        for group in combinations(platforms, size):
            press = _common([(platform, sets[platform.name]) for platform in group])
            if press is not None and (press or size == len(platforms)):
                named = {one.name for one in group}
                return Definition(
                    press,
                    {platform.name: tuple(sets[platform.name]) for platform in platforms if platform.name not in named},
                )
    return Definition(())


def _common(sides: Sequence[tuple[Platform, list[Trigger]]]) -> tuple[Trigger, ...] | None:
    """The portable triggers that give exactly these keys on each platform, or None where there are none."""
    first, triggers = sides[0]
    found: list[Trigger] = []
    covered: list[set[Trigger]] = [set() for _ in sides]
    for trigger in triggers:
        for candidate in _portable(trigger, first):
            written = [platform.resolve(candidate) for platform, _keys in sides]
            if all(one in keys for one, (_platform, keys) in zip(written, sides, strict=True)):
                found.append(candidate)
                for seen, one in zip(covered, written, strict=True):
                    seen.add(one)
                break
    exact = all(seen == set(keys) for seen, (_platform, keys) in zip(covered, sides, strict=True))
    return tuple(found) if exact else None


def _portable(trigger: Trigger, platform: Platform) -> Iterator[Trigger]:
    """The portable triggers that are this one on a platform: with Mod where that can be, then as it is."""
    main = platform.main_modifier
    with_mod = tuple(
        Chord(chord.modifiers & ~main | MOD, chord.key) if chord.modifiers & main else chord for chord in trigger
    )
    if with_mod != trigger:
        yield with_mod
    yield trigger


def fold_layers(layers: Mapping[str, Layer], platforms: Sequence[Platform], name: str) -> Layer:
    """One layer from one for each platform: each outcome with its condition and reason becomes one definition.

    The bindings of the layers are concrete or portable; what is not for the layer's platform is left out. Macros and
    conditions with a name are put together. Raises ValueError where the layers contradict each other.
    """
    result = Layer(LayerName(name, name))
    conditions: dict[str, str] = {}
    groups: dict[tuple[Outcome, str, str], dict[str, list[Trigger]]] = {}
    for platform in platforms:
        layer = layers[platform.name]
        _put_together(result.macros, {key: _unplaced(macro) for key, macro in layer.macros.items()}, "macro")
        _put_together(conditions, layer.scope.own, "condition")
        for binding in layer.bindings:
            if binding.platforms and platform.name not in binding.platforms:
                continue
            for one in concrete(binding, platform):
                found = groups.setdefault((one.outcome, one.where, one.why), {}).setdefault(platform.name, [])
                if one.trigger not in found:
                    found.append(one.trigger)
    removed = [frozenset(removal.action for removal in layers[platform.name].removals) for platform in platforms]
    if different := frozenset().union(*removed) - removed[0].intersection(*removed):
        raise ValueError(f"{min(different)} is taken away on some platforms only")
    result.removals = list(layers[platforms[0].name].removals)
    result.scope = Scope(conditions)
    everywhere = frozenset(platform.name for platform in platforms)
    for (outcome, where, why), keys in groups.items():
        definition = fold(keys, platforms)
        plain = Binding((), outcome, Place(name), result.name, where, result.scope, frozenset(), why)
        limited = everywhere.difference(definition.exceptions) if definition.exceptions else frozenset()
        result.bindings += [replace(plain, trigger=trigger, platforms=limited) for trigger in definition.press]
        for platform_name, triggers in definition.exceptions.items():
            result.bindings += [
                replace(plain, trigger=trigger, platforms=frozenset({platform_name})) for trigger in triggers
            ]
    return result


def _put_together(into: dict[str, _Named], more: Mapping[str, _Named], kind: str) -> None:
    for name, value in more.items():
        if into.setdefault(name, value) != value:
            raise ValueError(f"the {kind} {name} is not the same on all platforms")


def _unplaced(macro: Macro) -> Macro:
    return replace(macro, place=Place(macro.name))
