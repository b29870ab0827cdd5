"""What look-ups answer from: the decisions, the actions, and keys on the layout at hand, kept in the cache or made anew.

It imports next to nothing: a look-up that the cache can answer reads one file and no keymap.
"""

import os
from collections.abc import Callable, Mapping
from functools import cached_property
from typing import TYPE_CHECKING, Any, NamedTuple

from ombix.core.keys.notation import Trigger, parse, write
from ombix.files.cache import Cache
from ombix.workspace.decision_index import ActionIndex, DecisionIndex
from ombix.workspace.what_answer import LayoutPress

if TYPE_CHECKING:
    from ombix.workspace.effective_keymap import EffectiveKeymap

_MOST_SETTLED = 500
"""Keys that are not bound and were asked for, of which the cache keeps how they are on the layout at hand."""


class Settled(NamedTuple):
    """Keys as the layout at hand has them, and how they are pressed there; `arrives` is what they are for the editor, in a terminal
    that cannot tell them from others; `assumed` is the title of the layout, where none is known and the usual one was taken."""

    trigger: Trigger
    presses: tuple[LayoutPress, ...]
    arrives: Trigger
    assumed: str = ""
    becomes: str = ""
    """What becomes of them in the editor where nothing is bound to them: see `TargetEditor.unbound`."""


class LookUps:
    """The answers on one keymap with some options. `key` is all that they depend on beside `files`, the files that were
    read so far, with their stamps; `keymap` makes the keymap, where it is needed."""

    def __init__(
        self,
        cache: Cache | None,
        key: str,
        keymap: "Callable[[], EffectiveKeymap]",
        files: Callable[[], Mapping[str, str]],
    ) -> None:
        self._cache = cache
        self._key = key
        self._keymap = keymap
        self._files = files

    @cached_property
    def decisions(self) -> DecisionIndex:
        """All decisions."""
        found = self._recall("decisions")
        if found is not None:
            return DecisionIndex(*found)
        from ombix.core.gc_pause import no_garbage_collection
        from ombix.workspace.build_decision_index import decision_index

        with no_garbage_collection():
            made = decision_index(self._keymap())
        self._keep("decisions", made)
        return made

    @cached_property
    def actions(self) -> ActionIndex:
        """All actions with their keys."""
        found, words = self._recall("actions"), self._known_words()
        if found and words:
            return ActionIndex(*found)._replace(searched=words)
        from ombix.core.gc_pause import no_garbage_collection
        from ombix.workspace.build_decision_index import action_index

        with no_garbage_collection():
            here = self._keymap()
            made = action_index(here, searched=words or self._words(here))
        self._keep("actions", made._replace(searched=()))
        return made

    def settle(self, trigger: Trigger) -> Settled:
        """How keys that are not bound are on the layout at hand."""
        name = write(trigger)
        known = self._recall("settled") or {}
        if name in known:
            keys, presses, arrives, *more = known[name]
            return Settled(parse(keys), tuple(LayoutPress(*press) for press in presses), parse(arrives), *more)
        here = self._keymap()
        settled, assumed = here.typed(trigger)
        presses = tuple(press for press in here.presses(settled) if not press.plain)
        found = Settled(settled, presses, here.arriving(settled), assumed, here.unbound(settled))
        if len(known) < _MOST_SETTLED:
            self._keep(
                "settled",
                {**known, name: (write(settled), found.presses, write(found.arrives), assumed, found.becomes)},
            )
        return found

    def _known_words(self) -> Any:
        """What actions are found by, kept apart: it does not change with a keymap."""
        return self._cache.recall("words", "") if self._cache is not None else None

    def _words(self, here: "EffectiveKeymap") -> Any:
        """What actions are found by, made anew."""
        from ombix.data.seen import stamp
        from ombix.workspace.build_decision_index import words_of

        seen = {name: stamp(name) for name in here.shipped.found_in()}
        found = words_of(here)
        if self._cache is not None:
            self._cache.keep("words", "", found, seen)
        return found

    def _recall(self, part: str) -> Any:
        return self._cache.recall(part, self._key) if self._cache is not None else None

    def _keep(self, part: str, content: Any) -> None:
        if self._cache is not None and not self._keymap().faults:  # which are told each time
            self._cache.keep(part, self._key, content, self._files())


def system_key() -> str:
    """What the system says that answers depend on."""
    names = ("XKB_DEFAULT_LAYOUT", "XKB_DEFAULT_VARIANT", "XDG_CURRENT_DESKTOP")
    return "\0".join(os.environ.get(name, "") for name in names)
