"""What is bound: listed, on all platforms side by side, and what is not."""

from typing import NamedTuple

from ombix.core.errors import Place
from ombix.workspace.what_answer import GoneBinding, LayoutPress, NotInEditor, OutcomeKind


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
    not_here: tuple[NotInEditor, ...] = ()
    """The bindings of the keymap that the editor cannot have on their keys."""


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


class EditorRow(NamedTuple):
    """What the keymap binds, and the keys that do it in the keymap (under an empty name) and in each editor; `why_not` has by
    editor why it is not on its own keys there."""

    does: str
    title: str
    when: str
    shown: dict[str, tuple[str, ...]]
    why_not: dict[str, str]


class EditorListing(NamedTuple):
    """What the keymap binds, beside what each editor of the workspace would obey."""

    editors: tuple[str, ...]
    bindings: tuple[EditorRow, ...]


class NamedAction(NamedTuple):
    """An action and its title."""

    action: str
    title: str


class UnboundActions(NamedTuple):
    """The actions that have no keys."""

    unbound: tuple[NamedAction, ...]
