"""Bindings given, taken away, moved and narrowed, as a user says it, on the right layer."""

import re
from collections.abc import Collection, Sequence
from typing import NamedTuple

from ombix.core.catalogue.actions import COUNT, Action
from ombix.core.conditions import NEVER
from ombix.core.errors import InputError, NotationError, did_you_mean
from ombix.core.keymap.bindings import Binding, Keymap, Layer
from ombix.core.keymap.changes import (
    Bind,
    BindCommand,
    BindNamed,
    Change,
    KeymapChange,
    NamedKind,
    Remove,
    TakeAway,
    Unbind,
    in_words,
)
from ombix.core.keymap.outcomes import Nothing
from ombix.core.keys.notation import Trigger, is_family, variables, write
from ombix.data.platform_names import this_platform
from ombix.data.shipped import Shipped
from ombix.work.look.what import read_keys
from ombix.workspace.change_answer import ChangeReport
from ombix.workspace.consequences import AskedEdit
from ombix.workspace.edit_options import PLAIN_EDIT, EditOptions
from ombix.workspace.keymap_editing import KeymapEditing
from ombix.workspace.keymap_file import KeymapFile, entry_name
from ombix.workspace.lower_layers import KeysAndCondition, LayeredChanges
from ombix.workspace.named_action import action_called
from ombix.workspace.resources import Resources


class WantedBinding(NamedTuple):
    """What is to be bound, as a user says it: an action, or with `editor` that editor's own command; the keys; and how."""

    name: str
    keys: str
    where: str = ""
    on: str = ""
    also: bool = False
    arguments: tuple[tuple[str, str], ...] = ()
    editor: str = ""
    why: str = ""


class Unwanted(NamedTuple):
    """What is to be unbound: an action, keys, or an action and one of its keys; perhaps under a condition; and why."""

    what: Sequence[str]
    where: str = ""
    why: str = ""


def bind(wanted: WantedBinding, editing: KeymapEditing, options: EditOptions = PLAIN_EDIT) -> ChangeReport:
    """Give an action, or an editor's own command, keys. Raises InputError."""
    trigger, reading = read_keys(wanted.keys)
    change = _binding(wanted, trigger, editing)
    return editing.change(in_words(change), lambda file: [change], options, [reading] if reading else [])


def _binding(wanted: WantedBinding, trigger: Trigger, editing: KeymapEditing) -> Bind | BindCommand | BindNamed:
    resources = editing.resources
    if wanted.on:
        resources.shipped.platform(wanted.on)
    kind, name = _named(wanted, editing)
    if kind:
        return BindNamed(kind, name, trigger, wanted.where, wanted.on, wanted.also)
    if wanted.editor:
        dialect = resources.dialect(editing.opener.editor(wanted.editor))
        if wanted.name not in dialect.vocabulary.commands:
            raise InputError(f"{wanted.editor} has no command {wanted.name}", dialect.vocabulary.advice(wanted.name))
        return BindCommand(wanted.editor, wanted.name, trigger, wanted.where, wanted.on, wanted.also)
    action = action_called(wanted.name, resources.shipped)
    name, arguments = action.name, _with_family(wanted, trigger, action)
    if not any("{" in value for _name, value in arguments):  # of a family each value is looked at when it is written
        fault = next(action.faults(dict(arguments)), "")
        if fault and set(dict(arguments)) <= {*action.arguments, COUNT}:
            raise InputError(fault, "Say it with: --with NAME=VALUE")
    return Bind(name, trigger, wanted.where, wanted.on, wanted.also, arguments, wanted.why)


def _named(wanted: WantedBinding, editing: KeymapEditing) -> tuple[NamedKind | None, str]:
    """The macro or snippet of the keymap that a name means, with or without its kind before it; None where it is no such."""
    kind, _, rest = wanted.name.partition(" ")
    keymap = Keymap(list(editing.opener.layers(lenient=True)))
    named: dict[NamedKind, Collection[str]] = {"macro": keymap.macros, "snippet": keymap.snippets}
    if wanted.editor or wanted.name in editing.resources.shipped.catalogue().actions:
        return None, ""
    for one, names in named.items():
        if wanted.name in names or (kind == one and rest in names):
            return one, rest if kind == one and rest in names else wanted.name
    return None, ""


def _with_family(wanted: WantedBinding, trigger: Trigger, action: Action) -> tuple[tuple[str, str], ...]:
    """The arguments; the variable of a family is what the action has to be told, where nothing else was said."""
    if wanted.arguments or not is_family(trigger):
        return wanted.arguments
    names = sorted(variables(trigger))
    if len(action.arguments) != 1 or len(names) != 1:
        return ()
    return ((next(iter(action.arguments)), "{" + names[0] + "}"),)


# --- taken away, moved, narrowed


class Picked(NamedTuple):
    """Bindings that a user means: of which action (empty: of any), on which keys (none: on all), and in which layers."""

    action: str
    keys: Trigger
    reading: str
    found: tuple[Binding, ...]


def pick(words: Sequence[str], layers: Sequence[Layer], resources: Resources) -> Picked:
    """The bindings of the layers that `ACTION`, `KEYS` or `ACTION KEYS` mean. Raises InputError for what is none of these."""
    if not " ".join(words).strip():
        raise InputError("what is meant?", "Name an action, like line.copy-down, or keys, like F3, or both.")
    actions = resources.shipped.catalogue().actions
    action = words[0] if words[0] in actions else ""
    rest = " ".join(words[1:] if action else words)
    keys: Trigger = ()
    reading = ""
    if rest:
        try:
            keys, reading = read_keys(rest)
        except NotationError:
            if re.fullmatch(r"[a-z-]+\.[a-z-]+", words[0]) and not action:
                raise InputError(f"unknown action: {words[0]}", did_you_mean(words[0], list(actions))) from None
            raise
    resolve = resources.shipped.platform(this_platform()).resolve
    found = [
        binding for layer in layers for binding in layer.bindings
        if (not action or entry_name(binding) == action) and (not keys or resolve(binding.keys) == resolve(keys))
    ]  # fmt: skip
    return Picked(action, keys, reading, tuple(found))


def unbind(unwanted: Unwanted, editing: KeymapEditing, options: EditOptions = PLAIN_EDIT) -> ChangeReport:
    """Take all keys of an action away, or one of them; or have keys do nothing, and take what this keymap binds to them out of it.

    Raises InputError.
    """
    words, where, why = unwanted
    picked = pick(words, (), editing.resources)
    if picked.action and not picked.keys:
        if where:
            raise InputError("--where goes with keys", f"All keys of {picked.action} are taken away, in every state.")
        taken = TakeAway(picked.action, why)
        return editing.change(in_words(taken), lambda file: _all_taken(taken, file), options)
    remarks = [picked.reading] if picked.reading else []
    if picked.action:
        command = f"take {picked.action} off {write(picked.keys)}"
        return editing.change(
            command,
            lambda file: _one_less(words, where, file, editing.resources),
            options,
            remarks,
            lambda file: _asked(words, file, editing.resources),
        )

    def changes(file: KeymapFile) -> list[Change]:
        own = [] if where else [binding for binding in file.own.bindings if binding.keys == picked.keys]
        removals: list[Change] = [Remove(name, one.keys, one.where) for one in own if (name := entry_name(one))]
        return [*removals, Unbind(picked.keys, where, why)]

    return editing.change(in_words(Unbind(picked.keys, where, why)), changes, options, remarks)


def _all_taken(taken: TakeAway, file: KeymapFile) -> list[Change]:
    """The changes that take all keys of an action away: where no layer below binds it, its entries go; else it is said."""
    own = [one for one in file.own.bindings if entry_name(one) == taken.action]
    below = [one for layer in file.layers_with_own[:-1] for one in layer.bindings if entry_name(one) == taken.action]
    if below or not own or taken.why:
        return [taken]
    return [Remove(taken.action, one.keys, one.where) for one in own]


def _one_less(words: Sequence[str], where: str, file: KeymapFile, resources: Resources) -> list[KeymapChange]:
    """The changes that take one of an action's keys away, and leave it the others."""
    found = [one for one in _picked(words, file, resources) if not where or one.where == where]
    return LayeredChanges(file, resources.shipped).changes_for(found, lambda one: None)


def taken_out_of(one: Binding, file: KeymapFile, shipped: Shipped) -> list[KeymapChange]:
    """The changes of a file that take a binding away, be it the file's own or a lower layer's."""
    return LayeredChanges(file, shipped).changes_for([one], lambda each: None)


def move(words: Sequence[str], to: str, editing: KeymapEditing, options: EditOptions = PLAIN_EDIT) -> ChangeReport:
    """Put a binding on other keys. Raises InputError."""
    trigger, reading = read_keys(to)
    command = f"move {' '.join(words)} to {write(trigger)}"
    resources = editing.resources

    def changes(file: KeymapFile) -> list[KeymapChange]:
        found = _picked(words, file, resources)
        _check_free_of_nothing(trigger, found, file, resources.shipped)
        return LayeredChanges(file, resources.shipped).changes_for(
            found, lambda one: KeysAndCondition(trigger, one.where)
        )

    remarks = [reading] if reading else []
    return editing.change(command, changes, options, remarks, lambda file: _asked(words, file, resources, (trigger,)))


def _check_free_of_nothing(to: Trigger, found: Sequence[Binding], file: KeymapFile, shipped: Shipped) -> None:
    """Raise InputError where the file has keys do nothing in states in which something is to be moved there: it would win."""
    space = Keymap(file.layers_with_own).space(shipped.facts())
    for nothing in file.own.bindings:
        if not isinstance(nothing.outcome, Nothing) or nothing.keys != to:
            continue
        states = space.states(nothing.where, nothing.scope)
        if any(space.both(states, space.states(one.where, one.scope)) != NEVER for one in found):
            when = "" if nothing.where == "always" else f" when {nothing.where}"
            raise InputError(
                f"{write(to)} is to do nothing{when}, by an entry of {file.path.name}",
                "Take that entry out first, or name other keys.", nothing.place,
            )  # fmt: skip


def moved_in(one: Binding, to: Trigger, file: KeymapFile, shipped: Shipped) -> list[KeymapChange]:
    """The changes of a file that put a binding on other keys, be it the file's own or a lower layer's."""
    return LayeredChanges(file, shipped).changes_for([one], lambda each: KeysAndCondition(to, each.where))


def narrow(words: Sequence[str], where: str, editing: KeymapEditing, options: EditOptions = PLAIN_EDIT) -> ChangeReport:
    """Have a binding hold only in those of its states in which a condition is true. Raises InputError."""
    command = f"have {' '.join(words)} hold only when {where}"
    shipped = editing.resources.shipped

    def changes(file: KeymapFile) -> list[KeymapChange]:
        space = file.keymap.space(shipped.facts())

        def narrower(one: Binding) -> KeysAndCondition:
            is_whole = one.where in ("", "always") or where == "always"  # which takes the condition away again
            return KeysAndCondition(one.keys, where if is_whole else f"{_grouped(one.where)} and {_grouped(where)}")

        found = _picked(words, file, editing.resources)
        for one in found:
            states = space.both(space.states(one.where, one.scope), space.states(where, file.keymap.scope))
            if states == NEVER:
                raise InputError(
                    f"{one.outcome} would never apply: it holds when {one.where}", "Say another condition."
                )
        return LayeredChanges(file, shipped).changes_for(found, narrower)

    def asked(file: KeymapFile) -> AskedEdit:
        found = _picked(words, file, editing.resources) if where == "always" else ()  # which is wider than before
        return _asked(words, file, editing.resources, [one.keys for one in found])

    return editing.change(command, changes, options, (), asked)


def narrowed_in(one: Binding, where: str, file: KeymapFile, shipped: Shipped) -> list[KeymapChange]:
    """The changes of a file that give a binding another condition, be it the file's own or a lower layer's."""
    return LayeredChanges(file, shipped).changes_for([one], lambda each: KeysAndCondition(each.keys, where))


def _grouped(condition: str) -> str:
    return f"({condition})" if " or " in condition else condition


def _picked(words: Sequence[str], file: KeymapFile, resources: Resources) -> list[Binding]:
    """The bindings in force that are meant: of keys alone those of the file itself, or where it has none, of the layer below that
    has. Raises InputError where there is none, or where several things are on the keys."""
    picked = pick(words, file.layers_with_own, resources)
    named = [one for one in picked.found if entry_name(one)]
    if not named:
        said = " ".join(words)
        raise InputError(
            f"the keymap binds nothing to {said}" if not picked.action else f"{said} is not bound in the keymap",
            "See: ombix show",
        )  # fmt: skip
    highest = [one for one in named if one.layer.id == named[-1].layer.id]
    actions = list(dict.fromkeys(map(entry_name, highest)))
    if len(actions) > 1:
        raise InputError(
            f"several things are bound to {' '.join(words)}: {', '.join(actions)}",
            f"Say which, like {actions[0]} {write(picked.keys)}.",
        )
    return _in_force([one for one in named if entry_name(one) == actions[0]], file, resources.shipped)


def _asked(words: Sequence[str], file: KeymapFile, resources: Resources, to: Sequence[Trigger] = ()) -> AskedEdit:
    """What a change of these bindings is about."""
    keys = pick(words, (), resources).keys
    names = frozenset(map(entry_name, _picked(words, file, resources)))
    return AskedEdit(names, (keys,) if keys else (), tuple(to))


def _in_force(found: Sequence[Binding], file: KeymapFile, shipped: Shipped) -> list[Binding]:
    """Those of some bindings that hold on a platform."""
    holds = {
        (binding.layer.id, binding.place, binding.where)
        for name in shipped.platform_names()
        for binding in Keymap(file.layers_with_own).in_force(shipped.platform(name)).bindings
    }
    return [one for one in found if (one.layer.id, one.place, one.where) in holds]
