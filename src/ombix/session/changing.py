"""Changes to the keymap: bound, taken away, folded, taken back; each decided on what is there when it is written."""

import re
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any, NamedTuple

from msgspec.structs import replace

from ombix.core.actions import COUNT, Action
from ombix.core.changes import Bind, BindCommand, Change, Remove, TakeAway, Unbind, in_words
from ombix.core.conditions import NEVER
from ombix.core.errors import InputError, NotationError, OutsideError, Place, did_you_mean
from ombix.core.folding import fold_layers
from ombix.core.keymap import Binding, Keymap, Layer, concrete, effective_states
from ombix.core.keys import Trigger, is_family, variables, write
from ombix.core.outcomes import Do, Only, Play
from ombix.core.results.files import ChangeReport, EditReport, FoldedBinding, FoldReport, UndoReport
from ombix.core.search_index import search_index
from ombix.core.searching import search
from ombix.data.shipped import Shipped
from ombix.session.context import Opener
from ombix.session.explaining import read_keys
from ombix.session.resources import Resources
from ombix.store import editing, keymap_reading, keymap_writing
from ombix.store.files import Files, absolute
from ombix.store.workspace import this_platform
from ombix.store.writing import Contents, Writer


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
    """What is to be unbound: an action, or keys, perhaps under a condition; and why."""

    what: str
    where: str = ""
    why: str = ""


class Changed(NamedTuple):
    """The keymap of a file with changes, and what each of them did."""

    keymap: Keymap
    edits: tuple[editing.Edit, ...]


_CLEAR, _AHEAD, _FEW = 85.0, 3.0, 5
"""The score of words that describe an action clearly, how far ahead of the next it has to be, and how many are named."""


def bind(wanted: WantedBinding, opener: Opener, resources: Resources, writer: Writer, dry_run: bool) -> ChangeReport:
    """Give an action, or an editor's own command, keys in the workspace's keymap. Raises InputError."""
    trigger, reading = read_keys(wanted.keys)
    change = _binding(wanted, trigger, opener, resources)
    changed = change_keymap(in_words(change), lambda layer: [change], opener, resources, writer, dry_run)
    remarks = [reading] if reading else []
    own = next((one for one in changed.keymap.layers[-1].bindings if _is_of(one, change)), None)
    if own is not None:
        remarks += [*_wrong_arguments(own, resources), *_clashes(own, changed.keymap, resources)]
    return _report(opener, changed, remarks)


def _binding(wanted: WantedBinding, trigger: Trigger, opener: Opener, resources: Resources) -> Bind | BindCommand:
    if wanted.on:
        resources.shipped.platform(wanted.on)
    if wanted.editor:
        dialect = resources.dialect(opener.editor(wanted.editor))
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


def action_called(words: str, shipped: Shipped) -> Action:
    """The action of a name, or the one that words describe clearly. Raises InputError."""
    actions = shipped.catalogue().actions
    return actions[words if words in actions else _by_words(words, shipped)]


def _by_words(words: str, shipped: Shipped) -> str:
    """The action that words describe, where there is one clear match. Raises InputError, with the others, where not."""
    actions = shipped.catalogue().actions
    found = search(search_index(actions.values(), shipped.synonyms()), words.replace(".", " ")) if " " in words else []
    if found and found[0][0] >= _CLEAR and (len(found) < 2 or found[0][0] - found[1][0] >= _AHEAD):
        return found[0][1]
    several = ", ".join(f"{name} ({actions[name].title})" for _score, name in found[:_FEW])
    if several:
        raise InputError(f"several actions come near to “{words}”", f"Say which: {several}.")
    look = f"Look for it with: ombix how {words.replace('.', ' ')}"
    raise InputError(f"unknown action: {words}", did_you_mean(words, list(actions)) or look)


def _with_family(wanted: WantedBinding, trigger: Trigger, action: Action) -> tuple[tuple[str, str], ...]:
    """The arguments; the variable of a family is what the action has to be told, where nothing else was said."""
    if wanted.arguments or not is_family(trigger):
        return wanted.arguments
    names = sorted(variables(trigger))
    if len(action.arguments) != 1 or len(names) != 1:
        return ()
    return ((next(iter(action.arguments)), "{" + names[0] + "}"),)


def _is_of(binding: Binding, change: Bind | BindCommand) -> bool:
    outcome = binding.outcome
    name = outcome.action if isinstance(outcome, Do) else outcome.command if isinstance(outcome, Only) else ""
    wanted = change.action if isinstance(change, Bind) else change.command
    return name == wanted and binding.trigger == change.keys and binding.where == (change.where or "always")


def _wrong_arguments(own: Binding, resources: Resources) -> Iterator[str]:
    """What the action still has to be told, or cannot take."""
    shipped = resources.shipped
    (one, *_others) = concrete(own, shipped.platform(this_platform()))
    if isinstance(one.outcome, Do):
        for fault in shipped.catalogue().actions[one.outcome.action].faults(dict(one.outcome.arguments)):
            yield f"{fault}. Say it with: --with NAME=VALUE"


def _clashes(own: Binding, keymap: Keymap, resources: Resources) -> Iterator[str]:
    """What else is bound to the same keys in the same file, and applies in some of the same states."""
    catalogue = resources.shipped.catalogue()
    space = keymap.space(resources.shipped.facts())
    mine = effective_states(own, space, catalogue)
    for other in keymap.layers[-1].bindings:
        if other is own or other.trigger != own.trigger or other.outcome == own.outcome:
            continue
        if own.platforms and other.platforms and not own.platforms & other.platforms:
            continue
        both = space.both(mine, effective_states(other, space, catalogue))
        if both == NEVER:
            continue
        when = "" if both == space.possible else f" when {space.describe(both)}"
        yield f"{write(own.keys)} is bound to {other.outcome} as well{when}. See: ombix audit"


def unbind(unwanted: Unwanted, opener: Opener, resources: Resources, writer: Writer, dry_run: bool) -> ChangeReport:
    """Take all keys of an action away; or have keys do nothing, and take what this keymap binds to them out of it.

    Raises InputError.
    """
    what, where, why = unwanted
    actions = resources.shipped.catalogue().actions
    if what in actions:
        if where:
            raise InputError("--where goes with keys", f"All keys of {what} are taken away, in every state.")
        taken = TakeAway(what, why)
        changed = change_keymap(in_words(taken), lambda layer: [taken], opener, resources, writer, dry_run)
        return _report(opener, changed, [])
    try:
        trigger, reading = read_keys(what)
    except NotationError:
        if re.fullmatch(r"[a-z-]+\.[a-z-]+", what):
            raise InputError(f"unknown action: {what}", did_you_mean(what, list(actions))) from None
        raise

    def changes(layer: Layer) -> list[Change]:
        own = [] if where else [one for one in layer.bindings if one.keys == trigger]
        removals: list[Change] = [Remove(name, one.keys, one.where) for one in own if (name := _entry_name(one))]
        return [*removals, Unbind(trigger, where, why)]

    command = in_words(Unbind(trigger, where, why))
    changed = change_keymap(command, changes, opener, resources, writer, dry_run)
    return _report(opener, changed, [reading] if reading else [])


def _entry_name(binding: Binding) -> str:
    """The name of the entry that a binding stands in; empty for what stands under its keys."""
    outcome = binding.outcome
    if isinstance(outcome, Do):
        return outcome.action
    return outcome.macro if isinstance(outcome, Play) else ""


def change_keymap(
    command: str, changes: Callable[[Layer], Sequence[Change]], opener: Opener, resources: Resources, writer: Writer,
    dry_run: bool,
) -> Changed:  # fmt: skip
    """Apply the changes to the workspace's keymap file that its own layer, as it is there, calls for. Raises InputError."""
    path = opener.needed_workspace().keymap_path
    found: list[Changed] = []

    def decide() -> Contents:
        text = resources.files.read_text(path)
        before = _keymap(path, text, resources)
        wanted = changes(before.layers[-1])
        edited = editing.apply(text, wanted)
        after = _keymap(path, edited.text, resources)
        check_only_changed(before.layers[-1], after.layers[-1], wanted)
        found.append(Changed(after, edited.edits))
        return {path: edited.text.encode("utf-8")}

    writer.change(command, decide, dry_run)
    return found[0]


def check_only_changed(before: Layer, after: Layer, changes: Sequence[Change]) -> None:
    """Raise OutsideError where a layer differs in more than its changes name: then nothing is written."""
    names, triggers = set[str](), set[Trigger]()
    for change in changes:
        names |= {str(value) for field in ("action", "name", "command") if (value := getattr(change, field, ""))}
        triggers |= {
            keys for field in ("keys", "to") if isinstance(keys := getattr(change, field, None), tuple) and keys
        }
    one, other = _facts_of(before, names, triggers), _facts_of(after, names, triggers)
    if one != other:
        raise OutsideError(
            "the change would alter more of the file than was asked for", "Nothing was written. This is a fault in Ombix.",
            Place(after.files[0]) if after.files else None,
        )  # fmt: skip


def _facts_of(layer: Layer, names: set[str], triggers: set[Trigger]) -> tuple[Any, ...]:
    """What a layer says apart from what is named."""
    bindings = Counter(
        (str(one.outcome), one.keys, one.where, one.platforms, one.why, one.adds)
        for one in layer.bindings
        if one.keys not in triggers and not names & {_entry_name(one), _command_name(one)}
    )
    removals = Counter((one.action, one.platforms, one.why) for one in layer.removals if one.action not in names)
    macros = {name: one.steps for name, one in layer.macros.items()}
    return bindings, removals, macros, layer.scope.own, layer.facts, layer.never, [one.text for one in layer.kept]


def _command_name(binding: Binding) -> str:
    return binding.outcome.command if isinstance(binding.outcome, Only) else ""


def _keymap(path: Path, text: str, resources: Resources) -> Keymap:
    shipped = resources.shipped
    files = Files({absolute(path): text})
    return Keymap(keymap_reading.load(path, shipped.catalogue(), shipped.facts(), files))


def _report(opener: Opener, changed: Changed, remarks: Sequence[str]) -> ChangeReport:
    path = opener.needed_workspace().keymap_path
    edits = tuple(EditReport(in_words(one.change), one.after, one.before) for one in changed.edits)
    return ChangeReport(Place(absolute(path)), edits, tuple(remarks))


# --- whole files


def fold(files: Mapping[str, Path], output: Path, resources: Resources, writer: Writer, dry_run: bool) -> FoldReport:
    """Put the keymaps of several platforms, by its name, into one file. Raises InputError."""
    if len(files) < 2:
        raise InputError(
            "there is nothing to fold", "Name the keymaps of two or three platforms: --linux FILE --mac FILE."
        )
    name = output.name.removesuffix(keymap_reading.SUFFIX).removesuffix(".toml")
    layer = _folded(files, name, resources)
    text = keymap_writing.dump(layer)
    writer.change(f"fold {output.name}", lambda: {output: text}, dry_run)
    limited = {(one.outcome, one.where, one.why) for one in layer.bindings if 0 < len(one.platforms) < len(files)}
    return FoldReport(
        Place(absolute(output)), len({(one.outcome, one.where, one.why) for one in layer.bindings}), len(limited),
        tuple(
            FoldedBinding(
                str(one.outcome), write(one.trigger), one.where,
                tuple(sorted(one.platforms)) if len(one.platforms) < len(files) else (),
            )
            for one in layer.bindings
        ),
    )  # fmt: skip


def _folded(files: Mapping[str, Path], name: str, resources: Resources) -> Layer:
    shipped = resources.shipped
    layers: dict[str, Layer] = {}
    for platform, file in files.items():
        found = keymap_reading.load(file, shipped.catalogue(), shipped.facts(), resources.files)
        if len(found) > 1:
            raise InputError(f"{file.name} extends other keymaps", "Fold those first, and extend the result.")
        layers[platform] = found[0]
    try:
        layer = fold_layers(layers, [shipped.platform(one) for one in files], name)
    except ValueError as error:
        raise InputError(f"the keymaps cannot be folded: {error}", "Make the files alike there.") from None
    if len(files) < len(shipped.platform_names()):
        layer.bindings = [one if one.platforms else replace(one, platforms=frozenset(files)) for one in layer.bindings]
    return layer


def undo(writer: Writer, dry_run: bool, force: bool, skip: bool) -> UndoReport | None:
    """Take the newest change back, or forget it; None where there is none. Raises InputError when a file was changed since,
    and neither was asked for."""
    taken = writer.undo(dry_run, force, skip)
    if taken is None:
        return None
    return UndoReport(taken.command, tuple(Place(absolute(path)) for path in taken.files), taken.was_skipped)
