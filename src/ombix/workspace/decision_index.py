"""The decisions and the actions of a keymap as plain values: what `what` and `how` answer from, fresh or out of the cache.

It imports next to nothing: a look-up that the cache can answer reads one file and no keymap.
"""

from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from ombix.core.errors import Place
from ombix.workspace.what_answer import (
    BeatenBinding,
    DecisionLine,
    GoneBinding,
    LayoutPress,
    NearestAction,
    NotInEditor,
)

Rows = Sequence[Sequence[Any]]
"""Results as sequences of their fields: named tuples, or the lists that the cache has of them."""


class DecisionIndex(NamedTuple):
    """All decisions of a keymap on a platform.

    `platform` is the table of its data file; `prefix`, `wait_ms` and `types` tell how the editor decides; `layouts` are the
    titles of those at hand; by keys in the portable notation, `triggers` has the rows of the decision (`DecisionLine`
    without the keys), `presses` how they are pressed (`LayoutPress`), where that is not plain from the keys, and `gone`
    what was replaced there (`GoneBinding`). `hidden` are keys that are bound and never come into force. `editor` is whose
    decisions these are (empty: the keymap's own), and `not_here` has by keys what that cannot have on them (`NotInEditor`).
    """

    platform: dict[str, Any]
    prefix: str
    wait_ms: int
    types: bool
    layouts: Sequence[str]
    triggers: Mapping[str, Rows]
    presses: Mapping[str, Rows]
    gone: Mapping[str, Rows]
    hidden: Sequence[str]
    about: str
    editor: str = ""
    not_here: Mapping[str, Rows] = {}


class ActionIndex(NamedTuple):
    """All actions with their keys, by name: title, sentence, keys (`ActionKeys`), and the editors that have no command for it; the
    titles of the domains; and what questions are answered from (`SearchIndex`). `editor` is whose keys these are (empty: the
    keymap's own), and `editors` are those at hand."""

    platform: dict[str, Any]
    actions: Mapping[str, Any]
    about: str
    domains: Mapping[str, str]
    searched: Sequence[Any]
    editor: str = ""
    editors: Sequence[str] = ()
    own: Rows = ()
    """The macros and snippets of the keymap: name, title, sentence, and keys (`ActionKeys`)."""


def decision_rows(index: DecisionIndex, keys: str) -> tuple[DecisionLine, ...]:
    """What keys do, by states."""
    return tuple(
        DecisionLine(
            keys, when, does, title, kind, Place(*place), layer, why,
            tuple(BeatenBinding(other, Place(*where), below, order) for other, where, below, order in beats), how,
        )
        for when, does, title, kind, place, layer, why, beats, how in index.triggers.get(keys, ())
    )  # fmt: skip


def presses(index: DecisionIndex, keys: str) -> tuple[LayoutPress, ...]:
    """How keys are pressed on the layouts at hand, where that is not plain from them."""
    return tuple(LayoutPress(*one) for one in index.presses.get(keys, ()))


def not_here(index: DecisionIndex, keys: str) -> tuple[NotInEditor, ...]:
    """The bindings of these keys that the editor cannot have."""
    return tuple(
        NotInEditor(
            written, shown, does, title, where, Place(*place), layer, why, tuple(moved),
            NearestAction(near[0], near[1], tuple(near[2])) if near else None,
        )
        for written, shown, does, title, where, place, layer, why, moved, near in index.not_here.get(keys, ())
    )  # fmt: skip


def gone_bindings(index: DecisionIndex, keys: str) -> tuple[GoneBinding, ...]:
    """What was replaced or taken away on these keys, or is on them in place of others."""
    return tuple(
        GoneBinding(was, does, Place(*place), layer, by, Place(*by_place) if by_place else None, by_layer, why)
        for was, does, place, layer, by, by_place, by_layer, why in index.gone.get(keys, ())
    )
