"""Bindings changed where they stand in a lower layer: what the user's own file has to say so that they, and nothing else, change.

An entry of a higher keymap replaces all that lower keymaps say of its action, on every key, so one binding is changed by saying all
of them anew. What was adopted from an editor's file, and commands of one editor, are replaced key by key; there the keys are taken
away in just those states in which the binding wins, so that others on the same keys stay as they are.
"""

from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple

from ombix.core.conditions import NEVER, Space, States
from ombix.core.errors import InputError, NotationError, Place, TangledError
from ombix.core.keymap.bindings import Binding, Keymap
from ombix.core.keymap.changes import (
    Bind,
    BindCommand,
    KeymapChange,
    Move,
    Narrow,
    Remove,
    RemoveUnbind,
    TakeAway,
    Unbind,
)
from ombix.core.keymap.deciding import Policy, decide_all
from ombix.core.keymap.outcomes import Do, Nothing, Only
from ombix.core.keys.notation import Trigger, write
from ombix.data.shipped import Shipped
from ombix.workspace.keymap_file import KeymapFile, entry_name


class KeysAndCondition(NamedTuple):
    """What is to become of a binding: its keys and its condition. None in its place: it is taken away."""

    keys: Trigger
    where: str


Become = Callable[[Binding], KeysAndCondition | None]


class LayeredChanges:
    """Works out the changes of a keymap file. Raises InputError for what cannot be said in it."""

    def __init__(self, file: KeymapFile, shipped: Shipped) -> None:
        self._file = file
        self._shipped = shipped
        self._catalogue = shipped.catalogue()
        self._space: Space = Keymap(file.layers_with_own).space(shipped.facts())

    def changes_for(self, bindings: Sequence[Binding], become: Become) -> list[KeymapChange]:
        """The changes by which each of these bindings becomes what is wanted; all of one action."""
        own_id = self._file.own.name.id
        lower = [binding for binding in bindings if binding.layer.id != own_id]
        by_keys = [one for one in lower if one.layer.kind in ("adopted", "defaults") or isinstance(one.outcome, Only)]
        whole = [one for one in lower if one not in by_keys]
        own = [binding for binding in bindings if binding.layer.id == own_id]
        found: list[KeymapChange] = []
        if whole:
            found += self._said_anew(bindings, become, entry_name(whole[0]))
            by_keys = [key for key in by_keys if isinstance(key.outcome, Only)]
        else:
            found += dict.fromkeys(self._changed_here(own, become))
        for key in by_keys:
            # What another one of these decides now, this one would decide once that is changed.
            wins = self._space.union(self._wins(binding) for binding in bindings if binding.keys == key.keys)
            found += self._changed_by_key(key, become(key), wins)
        return found

    # --- in the file itself

    def _changed_here(self, bindings: Sequence[Binding], become: Become) -> Iterator[KeymapChange]:
        removed = []
        for binding in bindings:
            wanted = become(binding)
            if wanted is None:
                removed.append(binding)
            elif wanted.keys != binding.keys:
                yield Move(entry_name(binding), binding.keys, binding.where, wanted.keys)
            elif wanted.where != binding.where:
                yield Narrow(entry_name(binding), binding.keys, binding.where, wanted.where)
        if not removed:
            return
        name = entry_name(removed[0])
        left = [
            binding
            for binding in self._file.own.bindings
            if entry_name(binding) == name and binding not in removed and not binding.adds
        ]
        below = any(entry_name(one) == name for one in self._lower() if one.layer.kind != "defaults")
        if isinstance(removed[0].outcome, Do) and not left and below and not all(one.adds for one in removed):
            yield TakeAway(name)  # without an entry, what lower layers say of it would hold again
            return
        yield from (Remove(name, one.keys, one.where) for one in removed)

    # --- a whole entry anew

    def _said_anew(self, picked: Sequence[Binding], become: Become, name: str) -> Iterator[KeymapChange]:
        own = [binding for binding in self._file.own.bindings if entry_name(binding) == name]
        lower = [one for one in self._lower() if entry_name(one) == name and one.layer.kind != "defaults"]
        if not all(isinstance(one.outcome, Do) for one in lower):
            layer = next(one.layer for one in lower if not isinstance(one.outcome, Do))
            raise InputError(
                f"{name} stands in {layer.name} with its steps, and is changed there", f"Say --layer {layer.name}.",
                Place(layer.id),
            )  # fmt: skip
        rows: list[tuple[Binding, KeysAndCondition]] = []
        for one in (*lower, *own):
            wanted = become(one) if any(one is each for each in picked) else KeysAndCondition(one.keys, one.where)
            if wanted is not None:
                rows.append((one, wanted))
        if not rows:
            yield TakeAway(name)
            return
        yield from (Remove(name, one.keys, one.where) for one in own)
        is_first = True
        known, said = (
            {name for one in found for name in self._platforms(one) or self._shipped.platform_names()}
            for found in (lower, [one for one, _wanted in rows])
        )
        for one, wanted in sorted(rows, key=lambda row: bool(self._platforms(row[0]))):
            for platform in self._platforms(one) or ("",):
                assert isinstance(one.outcome, Do)
                where = self._in_own_words(one, wanted.where)
                without = tuple(sorted(known - said)) if is_first else ()
                yield Bind(name, wanted.keys, where, platform, not is_first, one.outcome.arguments, one.why, without)
                is_first = False

    def _platforms(self, binding: Binding) -> tuple[str, ...]:
        """The platforms on which a binding of a lower layer holds, in their order; none named: all."""
        names = self._shipped.platform_names()
        found = tuple(name for name in names if any(one is binding for one in self._lower_on(name)))
        if binding.layer.id == self._file.own.name.id:
            found = tuple(name for name in names if not binding.platforms or name in binding.platforms)
        return () if len(found) == len(names) else found

    def _lower(self) -> list[Binding]:
        """The bindings of lower layers that hold on some platform."""
        found = [one for name in self._shipped.platform_names() for one in self._lower_on(name)]
        return list({id(one): one for one in found}.values())

    def _lower_on(self, platform: str) -> list[Binding]:
        layers = self._file.layers_with_own[:-1]
        in_force = Keymap(layers).in_force(self._shipped.platform(platform)).bindings
        holds = {(one.layer.id, one.place, one.where) for one in in_force}
        return [
            binding for layer in layers for binding in layer.bindings
            if (binding.layer.id, binding.place, binding.where) in holds
            and (not binding.platforms or platform in binding.platforms)
        ]  # fmt: skip

    def _in_own_words(self, binding: Binding, where: str) -> str:
        """A condition of a lower layer as the file can say it: a name that means something else here has its meaning there."""
        if where in ("", "always"):
            return ""
        own = self._file.own.scope

        try:
            if self._space.states(where, own) == self._space.states(where, binding.scope):
                return where
        except (NotationError, ValueError):
            pass
        return binding.scope.spelt_out(where) if binding.scope is not None else where

    # --- key by key

    def _changed_by_key(self, one: Binding, wanted: KeysAndCondition | None, wins: States) -> Iterator[KeymapChange]:
        space = self._space
        stays = NEVER
        if wanted is not None and wanted.keys == one.keys:
            stays = space.states(wanted.where, one.scope if wanted.where == one.where else self._file.own.scope)
        taken = space.minus(wins, stays)
        if taken != NEVER:
            yield from self._taken(one.keys, taken)
        if wanted is not None and wanted.keys != one.keys:
            where = self._in_own_words(one, wanted.where)
            if isinstance(one.outcome, Only):
                yield BindCommand(one.outcome.editor, one.outcome.command, wanted.keys, where, "", True)
            else:
                arguments = one.outcome.arguments if isinstance(one.outcome, Do) else ()
                yield Bind(entry_name(one), wanted.keys, where, "", True, arguments, one.why)

    def _taken(self, keys: Trigger, states: States) -> Iterator[KeymapChange]:
        """Keys that do nothing in some states, beside those in which the file has them do nothing already."""
        space, own = self._space, self._file.own
        why = ""
        for binding in own.bindings:
            if isinstance(binding.outcome, Nothing) and binding.keys == keys:
                states, why = space.either(states, space.states(binding.where, binding.scope)), binding.why
                yield RemoveUnbind(keys)
        try:
            where = space.describe(states)
        except TangledError:
            raise InputError(
                f"the states in which {write(keys)} is to do nothing are too many for one condition",
                "Say a simpler condition, or change the file that it stands in.",
            ) from None
        yield Unbind(keys, "" if where == "always" else where, why)

    def _wins(self, one: Binding) -> States:
        """The states in which a binding decides what its keys do, on any platform."""
        found = NEVER
        for name in self._shipped.platform_names():
            platform = self._shipped.platform(name)
            trigger = platform.resolve(one.keys)
            bound = Keymap(self._file.layers_with_own).in_force(platform).bindings
            here = [each for each in bound if each.trigger == trigger]
            table = decide_all(here, self._space, self._catalogue, Policy()).get(trigger)
            for row in table.rows if table is not None else ():
                if (row.binding.layer.id, row.binding.place, row.binding.where) == (one.layer.id, one.place, one.where):
                    found = self._space.either(found, row.states)
        return found
