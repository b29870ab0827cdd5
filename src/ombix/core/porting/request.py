"""What a port is asked for."""

from collections.abc import Callable, Collection, Mapping

from msgspec import Struct

from ombix.core.conditions import Space, States
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.deciding import DecisionTable, Policy
from ombix.core.keymap.outcomes import Macro
from ombix.core.keys.notation import Trigger
from ombix.core.porting.verdicts import Judgement, TargetEditor
from ombix.core.snippets.model import Snippet


def _never(trigger: Trigger) -> bool:
    return False


def _all_alike(binding: Binding) -> int:
    return 0


def _not_judged(binding: Binding, macro: Macro | None, section: str, written: str) -> None:
    return None


def _not_searched(binding: Binding, macro: Macro | None, section: str) -> str:
    return ""


def _no_home(binding: Binding) -> str:
    return ""


def _nothing(binding: Binding) -> Mapping[Trigger, DecisionTable]:
    return {}


def _itself(trigger: Trigger) -> Trigger:
    return trigger


class PortSource(Struct, frozen=True):
    """Where a port comes from: the decisions of a keymap by trigger, its macros and snippets.

    `editor_of` tells which editor decides the keys that a binding presses (none: the target); `policy`: how the editor that it
    comes from decides (None: it is of no editor); and `within`: the states that it can be in (None: all). `canonical` gives
    the trigger that stands for all those which the source cannot tell apart; with those of `by_itself` its text does something
    where nothing is bound to them. `beneath` tells what the editor which decides the keys that a binding presses does with keys
    by default.
    """

    tables: Mapping[Trigger, DecisionTable]
    macros: Mapping[str, Macro] = {}
    snippets: Mapping[str, Snippet] = {}
    editor_of: Callable[[Binding], str] = _no_home
    policy: Policy | None = None
    within: States | None = None
    canonical: Callable[[Trigger], Trigger] = _itself
    by_itself: Collection[Trigger] = ()
    beneath: Callable[[Binding], Mapping[Trigger, DecisionTable]] = _nothing


class PortRequest(Struct, frozen=True):
    """A keymap's decisions that are to be carried over to another editor.

    `defaults` are the target's decisions without any file, by canonical trigger; `canonical` gives the trigger that stands
    for all those which the target cannot tell apart. `avoid` tells which chords are not to be chosen as free ones, `rank`
    how strong the target's policy takes a binding to be. With `rehome` each default that lost its only keys gets free ones.
    `judge` compares what a binding does, with the macro that it plays, with a command of the target in a section; None where
    that is not about a text. `search` finds commands in a row that do the same, as they are written (empty: none). What can
    lose text, or mostly does something else, is carried over only with `writes_careful`. `usual` are the states that an editor
    usually is in (None: all).
    """

    source: PortSource
    target: TargetEditor
    defaults: Mapping[Trigger, DecisionTable]
    canonical: Callable[[Trigger], Trigger]
    space: Space
    rehome: bool = False
    avoid: Callable[[Trigger], bool] = _never
    rank: Callable[[Binding], int] = _all_alike
    judge: Callable[[Binding, Macro | None, str, str], Judgement | None] = _not_judged
    writes_careful: bool = False
    search: Callable[[Binding, Macro | None, str], str] = _not_searched
    usual: States | None = None
