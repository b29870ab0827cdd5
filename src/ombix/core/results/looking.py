"""Answers to looking: what keys do, how something is done, what is bound."""

from typing import Literal, NamedTuple

from ombix.core.errors import Place

OutcomeKind = Literal["do", "play", "only", "nothing"]
"""An action, a macro, a command that only one editor has, or nothing on purpose."""


class LayoutPress(NamedTuple):
    """How keys are pressed on a layout, or why they cannot be. `plain`: just as they read."""

    layout: str
    title: str
    press: str | None
    why_not: str | None
    plain: bool


class BeatenBinding(NamedTuple):
    """A binding that loses where another one wins, and why: `order` says in words where it stands."""

    does: str
    place: Place
    layer: str
    order: str


class DecisionRow(NamedTuple):
    """In the states `when` these keys do this."""

    keys: str
    when: str
    does: str
    title: str
    kind: OutcomeKind
    place: Place
    layer: str
    why: str
    beats: tuple[BeatenBinding, ...] = ()


class NotApplying(NamedTuple):
    """A binding of these keys that does not apply in the states that were asked for, and its condition."""

    does: str
    place: Place
    layer: str
    where: str


class GoneBinding(NamedTuple):
    """What these keys would do, if a higher layer did not say otherwise: that it `replaces` the keys of the action, or that
    it takes them away."""

    keys: str
    does: str
    place: Place
    layer: str
    by_keys: str
    by_place: Place | None
    by_layer: str
    why: str


class Explanation(NamedTuple):
    """What happens when keys are pressed, and why; what may follow.

    `reading` says how the keys were read, where they were written otherwise than Ombix writes them. `before` are shorter
    keys that fire at once; `wait` says in words how long the keys wait, where more may follow; `typed`: not bound, the keys
    are typed. `hidden`: bound, but never in force.
    """

    asked: str
    keys: str
    shown: str
    platform: str
    platform_title: str
    state: str
    reading: str
    presses: tuple[LayoutPress, ...]
    decisions: tuple[DecisionRow, ...]
    follows: tuple[DecisionRow, ...]
    before: tuple[DecisionRow, ...]
    not_applying: tuple[NotApplying, ...]
    gone: tuple[GoneBinding, ...]
    wait: str
    typed: bool
    hidden: bool
    nearby: tuple[str, ...]
    about: str = ""
    """What was looked at, where that is no workspace."""


class ActionKeys(NamedTuple):
    """Keys of an action, and their condition."""

    keys: str
    where: str
    shown: str


class FoundAction(NamedTuple):
    """An action that words describe. `score` is from 0 to 100."""

    action: str
    title: str
    does: str
    score: float
    keys: tuple[ActionKeys, ...]


class FoundActions(NamedTuple):
    """The actions that words describe, the best first."""

    words: str
    platform: str
    actions: tuple[FoundAction, ...]
    about: str = ""


class ListedBinding(NamedTuple):
    """A binding in force. `group` is what it is listed under; `replaces` are bindings of lower layers that it stands for."""

    keys: str
    shown: str
    presses: tuple[LayoutPress, ...]
    does: str
    title: str
    kind: OutcomeKind
    when: str
    is_alone: bool
    """Whether nothing else is bound to these keys."""
    layer: str
    is_default: bool
    why: str
    place: Place
    group: str
    replaces: tuple[GoneBinding, ...] = ()


class Listing(NamedTuple):
    """The bindings in force, in the order in which they are shown."""

    platform: str
    order: str
    state: str
    editor: str
    bindings: tuple[ListedBinding, ...]
    gone: tuple[GoneBinding, ...]
    about: str = ""


class PlatformRow(NamedTuple):
    """The keys that one thing has on each platform."""

    does: str
    title: str
    when: str
    keys: dict[str, tuple[str, ...]]
    shown: dict[str, str]


class PlatformListing(NamedTuple):
    """What is bound on all platforms, side by side."""

    platforms: dict[str, str]
    """Name to title."""
    bindings: tuple[PlatformRow, ...]
    total: int
    """How many there are, whether they differ or not."""


class NamedAction(NamedTuple):
    """An action and its title."""

    action: str
    title: str


class UnboundActions(NamedTuple):
    """The actions that have no keys."""

    unbound: tuple[NamedAction, ...]
