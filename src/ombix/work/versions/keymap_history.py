"""What changed by meaning between two versions: keys given, taken and moved, and the habits that break."""

import contextlib
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any, NamedTuple

from ombix.core.conditions import NEVER, Space, States
from ombix.core.errors import InputError, OmbixError, TangledError
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.comparing import compare
from ombix.core.keymap.outcomes import Nothing, Outcome
from ombix.core.keys.notation import write
from ombix.core.toml import Document
from ombix.data.platform_names import PLATFORMS
from ombix.files import toml_pieces
from ombix.files.disk import absolute
from ombix.files.merging.file_units import ABSENT, Unit, meaning, units
from ombix.work.versions.changes_answer import BrokenHabit, EntryChange, KeysChange, VersionChanges
from ombix.workspace.context import Opener
from ombix.workspace.git_versions import STAGED, Texts, repository_of
from ombix.workspace.resources import Resources
from ombix.workspace.what_if import WorkspaceWhatIf

_KEYS = ("bind", "only", "unbind")
"""Tables whose changes are told as changes of keys."""


class Between(NamedTuple):
    """Two versions: their names for people, and the texts of each; none for the files as they are on the disk."""

    before: str
    after: str
    old: Texts
    new: Texts


def between(revisions: str, staged: bool, opener: Opener, resources: Resources) -> Between:
    """The versions that are compared: `REV..REV`; or one, with the files as they are or as they are `staged`. Raises InputError."""
    repository = repository_of(opener)
    known = _needed(opener, resources)
    first, dots, second = revisions.partition("..")
    if dots and staged:
        raise InputError("two versions and what is staged are three", "Leave one out.")
    first, second = first or "HEAD", second or ("HEAD" if dots else "")
    if not repository.has_commits():
        raise InputError("the repository has no commit yet", "Make one first: git commit")
    old = repository.texts(first, known)
    if second or staged:
        return Between(first, second or "what is staged", old, repository.texts(second or STAGED, known))
    return Between(first, "the files as they are", old, {})


def _needed(opener: Opener, resources: Resources) -> list[str]:
    """The files that the workspace needs now, as far as it can be read."""
    with contextlib.suppress(OmbixError):  # a version may be right where this one is wrong
        opener.context(lenient=True)
    return list(resources.seen)


def changes(found: Between, opener: Opener, resources: Resources) -> VersionChanges:
    """What changed from one version to the other. Raises InputError where one cannot be read."""
    old, new = (_trial(texts, opener, resources) for texts in (found.old, found.new))
    _share_facts(old, new)
    platforms = new.platforms or (opener.platform().name,)
    is_other = any(old.keymap(platform).space is not new.keymap(platform).space for platform in platforms)
    remarks = ("habits were not compared: what the states of an editor are is said otherwise in both",) * is_other
    keys: dict[tuple[object, ...], KeysChange] = {}
    habits: dict[tuple[object, ...], BrokenHabit] = {}
    for platform in platforms:
        for one in _keys(old, new, platform):
            key = (one.does, one.did, one.was, one.now, one.was_when, one.when)
            keys[key] = one._replace(platforms=(*(keys[key].platforms if key in keys else ()), platform))
        for habit in _habits(old, new, platform):
            name = (habit.keys, habit.was, habit.now, habit.when, habit.editor)
            habits[name] = habit._replace(platforms=(*(habits[name].platforms if name in habits else ()), platform))
    everywhere = tuple(platforms)
    return VersionChanges(
        found.before, found.after,
        tuple(key._replace(platforms=() if key.platforms == everywhere else key.platforms) for key in keys.values()),
        tuple(habit._replace(platforms=() if habit.platforms == everywhere else habit.platforms) for habit in habits.values()),
        tuple(_entries(found, old, new)), remarks,
    )  # fmt: skip


def _share_facts(old: WorkspaceWhatIf, new: WorkspaceWhatIf) -> None:
    """Have both versions know the facts that either declares, so that their states can be compared."""
    for trial in (old, new):
        for layer in trial.opener.layers(lenient=True):
            with contextlib.suppress(ValueError):  # it is another fact in both, which is said
                trial.resources.shipped.facts().extended(layer.facts, [])
                trial.resources.shipped.add_facts(layer.facts)


def _trial(texts: Texts, opener: Opener, resources: Resources) -> WorkspaceWhatIf:
    trial = WorkspaceWhatIf(opener, resources, {Path(path): text for path, text in texts.items()}, proposes=False)
    trial.opener.needed_workspace()
    return trial


# --- keys


def _keys(old: WorkspaceWhatIf, new: WorkspaceWhatIf, platform: str) -> Iterator[KeysChange]:
    """What became of the keys of each outcome."""
    before, after = _bound(old, platform), _bound(new, platform)
    here = new.keymap(platform)
    for outcome in dict.fromkeys([*after, *before]):
        was, now = before.get(outcome, {}), after.get(outcome, {})
        title = here.title(_outcome_of(was, now))
        gone = {key: one for key, one in was.items() if key not in now}
        come = {key: one for key, one in now.items() if key not in was}
        for key, one in list(gone.items()):
            alike = next((other for other in come if other[0] == key[0]), None)
            if alike is not None:
                keys = (write(one.keys),)
                yield _change(outcome, title, "other states", keys, keys, one, come.pop(alike))
                del gone[key]
        moved = sorted(gone, key=lambda key: key[0]), sorted(come, key=lambda key: key[0])
        for one_key, other_key in zip(*moved, strict=False):
            binding, other = gone.pop(one_key), come.pop(other_key)
            yield _change(outcome, title, "moved", (write(binding.keys),), (write(other.keys),), binding, other)
        for binding in gone.values():
            yield _change(outcome, title, "taken", (write(binding.keys),), (), binding, None)
        for binding in come.values():
            yield _change(outcome, title, "given", (), (write(binding.keys),), None, binding)


_Bound = Mapping[tuple[str, str], Binding]


def _bound(trial: WorkspaceWhatIf, platform: str) -> dict[str, _Bound]:
    """Outcome to its own bindings in force, by keys and condition."""
    here = trial.keymap(platform)
    found: dict[str, dict[tuple[str, str], Binding]] = {}
    for binding in here.in_force.bindings:
        if binding.layer.kind != "defaults":
            states = _states(binding, here.space)
            found.setdefault(str(binding.outcome), {})[write(binding.keys), states] = binding
    return dict(found)


def _states(binding: Binding, space: Space) -> str:
    """The states of a binding's condition, as a text that two with the same states share."""
    if binding.where == "always":
        return ""
    return _when(space.both(space.states(binding.where, binding.scope), space.possible), space, binding.where)


def _when(states: States, space: Space, otherwise: str) -> str:
    if states == space.possible:
        return ""
    try:
        return space.describe(states)
    except TangledError:
        return otherwise


def _outcome_of(was: _Bound, now: _Bound) -> Outcome:
    return next(iter((now or was).values())).outcome


def _change(
    does: str, title: str, did: Any, was: tuple[str, ...], now: tuple[str, ...], one: Binding | None, other: Binding | None
) -> KeysChange:  # fmt: skip
    place = other.place if other is not None else None
    return KeysChange(does, title, did, was, now, _said(one), _said(other), (), place)


def _said(binding: Binding | None) -> str:
    return binding.where if binding is not None and binding.where != "always" else ""


# --- habits


def _habits(old: WorkspaceWhatIf, new: WorkspaceWhatIf, platform: str) -> Iterator[BrokenHabit]:
    """Keys that do something else now: in the keymap, and in each editor those of its defaults."""
    before, after = old.keymap(platform), new.keymap(platform)
    if before.space is not after.space:
        return
    space = after.space
    own: set[tuple[str, str]] = set()
    for one in compare(before.tables, after.tables, space, space.possible):
        if one.first is None or isinstance(one.first, Nothing):
            continue
        keys = write(one.trigger)
        own.add((keys, str(one.first)))
        yield BrokenHabit(keys, str(one.first), _name(one.second), _when(one.states, space, "in some states"), "", ())
    views = {view.name: view for view in old.subject(platform).editor_views()}
    for view in new.subject(platform).editor_views():
        known = views.get(view.name)
        if known is None or old.subject(platform).space is not new.subject(platform).space:
            continue
        space = new.subject(platform).space
        for one in compare(known.tables, view.tables, space, view.over_text):
            if one.first is None or isinstance(one.first, Nothing) or one.first == one.second:
                continue
            if (write(one.trigger), str(one.first)) not in own and one.states != NEVER:
                when = _when(one.states, space, "in some states") if one.states != view.over_text else ""
                yield BrokenHabit(write(one.trigger), str(one.first), _name(one.second), when, view.name, ())


def _name(outcome: Outcome | None) -> str | None:
    return None if outcome is None else str(outcome)


# --- other entries


def _entries(found: Between, old: WorkspaceWhatIf, new: WorkspaceWhatIf) -> Iterator[EntryChange]:
    """Changes of the files that are no changes of keys."""
    for path in _files(old, new):
        was, now = (_units(trial, path) for trial in (old, new))
        for unit in dict.fromkeys([*now, *was]):
            if unit[0] in _KEYS or meaning(unit, was.get(unit, ABSENT)) == meaning(unit, now.get(unit, ABSENT)):
                continue
            before, after = (_text(unit, side.get(unit, ABSENT)) for side in (was, now))
            if before == after:
                continue
            did: Any = "added" if unit not in was else "removed" if unit not in now else "changed"
            yield EntryChange(str(path), _called(unit), did, before, after)


def _files(old: WorkspaceWhatIf, new: WorkspaceWhatIf) -> list[Path]:
    """The workspace file and the files of its layers, in either version."""
    found: dict[str, None] = {}
    for trial in (new, old):
        workspace = trial.opener.needed_workspace()
        found[absolute(workspace.path)] = None
        for layer in trial.opener.layers(lenient=True):
            found |= dict.fromkeys(layer.files)
    return list(map(Path, found))


def _units(trial: WorkspaceWhatIf, path: Path) -> dict[Unit, Any]:
    try:
        return units(Document(trial.resources.files.read_text(path), str(path), recover=True).table)
    except OmbixError:
        return {}


def _text(unit: Unit, value: Any) -> str:
    """The text of an entry; of a macro or a snippet without its keys, which are told apart."""
    if value is ABSENT:
        return ""
    if unit[0] in ("macro", "snippet") and isinstance(value, dict):
        value = {key: one for key, one in value.items() if key not in ("press", "where", *PLATFORMS)}
    return toml_pieces.field_text(value)


def _called(unit: Unit) -> str:
    kind, *names = unit
    words = {"where": "condition", "accept": "accepted finding", "kept": "kept piece", "never": "what excludes what"}
    return " ".join([words.get(kind, kind), *(" ".join(name.split()) for name in names[:1])])
