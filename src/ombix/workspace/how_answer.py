"""How something is done: actions that words describe, with their keys."""

from typing import NamedTuple


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
    lacking: tuple[str, ...] = ()
    """The editors at hand that have no command for it."""


class KindOfWork(NamedTuple):
    """A domain of actions, and its title."""

    domain: str
    title: str


class FoundActions(NamedTuple):
    """The actions that words describe, the best first, and the kinds of work that they are of; where there are none, those
    that come nearest."""

    words: str
    platform: str
    actions: tuple[FoundAction, ...]
    about: str = ""
    kinds: tuple[KindOfWork, ...] = ()
    editor: str = ""
    """The editor whose keys these are, with the keymap in its file; empty: they are the keymap's."""
    editors: tuple[str, ...] = ()
    """The editors at hand."""
    has_keymap: bool = True
    """Whether keys were looked for: without a workspace and an editor there are none."""
