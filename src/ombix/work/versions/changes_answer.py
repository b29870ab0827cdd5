"""What changed between two versions of a workspace."""

from typing import Literal, NamedTuple

from ombix.core.errors import Place


class KeysChange(NamedTuple):
    """What became of an action's, a macro's or a command's keys. `when` and `was_when` are conditions (empty: always); `platforms`
    those that it is so on (none named: all of the workspace)."""

    does: str
    title: str
    did: Literal["given", "taken", "moved", "other states"]
    was: tuple[str, ...]
    now: tuple[str, ...]
    was_when: str
    when: str
    platforms: tuple[str, ...]
    place: Place | None


class BrokenHabit(NamedTuple):
    """Keys that did something and now do something else, or nothing (None), in these states; in the keymap, or with an editor's
    default keys below it."""

    keys: str
    was: str
    now: str | None
    when: str
    editor: str
    platforms: tuple[str, ...]


class EntryChange(NamedTuple):
    """Another change of a file: a named condition, a macro's steps, a layer, a setting of the workspace."""

    file: str
    what: str
    did: Literal["added", "changed", "removed"]
    was: str
    now: str


class VersionChanges(NamedTuple):
    """What changed by meaning from one version to another (`before` and `after` say which)."""

    before: str
    after: str
    keys: tuple[KeysChange, ...]
    habits: tuple[BrokenHabit, ...]
    entries: tuple[EntryChange, ...]
    remarks: tuple[str, ...] = ()
