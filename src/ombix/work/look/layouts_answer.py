"""The layouts that are known, and what is on the keys of one."""

from typing import NamedTuple


class LayoutKeys(NamedTuple):
    """A keyboard layout with what is on each place of the keyboard, by level."""

    name: str
    title: str
    shape: str
    altgr: bool
    source: str
    keys: dict[str, tuple[str, ...]]


class LayoutName(NamedTuple):
    """A layout that Ombix knows."""

    name: str
    title: str
    shape: str
    altgr: bool


class KnownHardware(NamedTuple):
    """The layouts, keyboards, terminals, desktops and platforms that Ombix knows."""

    layouts: tuple[LayoutName, ...]
    keyboards: tuple[str, ...]
    terminals: tuple[str, ...]
    desktops: tuple[str, ...]
    platforms: tuple[str, ...]
