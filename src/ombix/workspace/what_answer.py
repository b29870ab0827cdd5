"""What keys do, and why."""

from typing import Literal, NamedTuple

from ombix.core.errors import Place

OutcomeKind = Literal["do", "play", "insert", "only", "nothing"]
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


class DecisionLine(NamedTuple):
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
    how: str = ""
    """How an editor's command does it otherwise than the keymap asks; empty where it does just that."""


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


class NearestAction(NamedTuple):
    """An action that an editor has in place of one that it has not, and its keys there."""

    action: str
    title: str
    keys: tuple[str, ...]


class NotInEditor(NamedTuple):
    """A binding of the keymap that an editor cannot have on its keys, and why; `moved` are the keys that it has there instead,
    and `nearest` is what comes nearest, where the editor has nothing that does it."""

    keys: str
    shown: str
    does: str
    title: str
    where: str
    place: Place
    layer: str
    why: str
    moved: tuple[str, ...] = ()
    nearest: NearestAction | None = None


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
    decisions: tuple[DecisionLine, ...]
    follows: tuple[DecisionLine, ...]
    before: tuple[DecisionLine, ...]
    not_applying: tuple[NotApplying, ...]
    gone: tuple[GoneBinding, ...]
    wait: str
    typed: bool
    hidden: bool
    nearby: tuple[str, ...]
    about: str = ""
    """What was looked at, where that is no workspace."""
    editor: str = ""
    """The editor that would do this with the keymap in its file; empty: it is what the keymap says, whatever an editor makes of
    that."""
    not_here: tuple[NotInEditor, ...] = ()
    """The bindings of these keys that the editor cannot have."""
    becomes: str = ""
    """What becomes of keys that are not bound in the editor, where that is not nothing: they come `apart` into others, are `typed`,
    or the `text` does something with them by itself."""
