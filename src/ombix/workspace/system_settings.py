"""What the system tells of the keyboard and the desktop, without running anything: files and the environment."""

import re
from collections.abc import Mapping
from pathlib import Path
from typing import NamedTuple

from ombix.core.errors import OmbixError
from ombix.core.keys.platforms import Platform
from ombix.core.pressing.layouts import Layout
from ombix.data.shipped import Shipped
from ombix.files.disk import Files
from ombix.files.layout_files import SYSTEM_SYMBOLS, layout_file

LAYOUT_FILES = (
    Path("/etc/default/keyboard"),
    Path("/etc/X11/xorg.conf.d/00-keyboard.conf"),
    Path("/etc/vconsole.conf"),
)
"""Where systems write which layout they use (keyboard(5), localectl(1))."""

_SETTING = re.compile(
    r"""^\s*(?:Option\s+)?"?(Xkb|XKB_?)(Layout|Variant|LAYOUT|VARIANT)"?[\s=]+"?([^"\n]*)"?\s*$""", re.M
)


class SystemLayout(NamedTuple):
    """A layout by its XKB names, and where that is known from."""

    name: str
    variant: str
    source: str


def system_layout(files: Files, environment: Mapping[str, str]) -> SystemLayout | None:
    """The layout that the system uses first, where that can be read.

    The environment goes before the files: xkbcommon's XKB_DEFAULT_LAYOUT and XKB_DEFAULT_VARIANT.
    """
    if environment.get("XKB_DEFAULT_LAYOUT"):
        names, variants = environment["XKB_DEFAULT_LAYOUT"], environment.get("XKB_DEFAULT_VARIANT", "")
        return SystemLayout(_first(names), _first(variants), "XKB_DEFAULT_LAYOUT")
    for path in LAYOUT_FILES:
        try:
            text = files.read_text(path) if files.is_file(path) else ""
        except OmbixError:
            continue
        found = {match[2].lower(): match[3].strip() for match in _SETTING.finditer(text)}
        if found.get("layout"):
            return SystemLayout(_first(found["layout"]), _first(found.get("variant", "")), str(path))
    return None


def load_system_layout(found: SystemLayout, platform: Platform, files: Files, shipped: Shipped) -> Layout | None:
    """The layout itself: one that ships, or that of the system's own symbols files; None where neither has it."""
    name = f"{found.name}-{found.variant}" if found.variant else found.name
    if name in shipped.layout_names():
        return shipped.layout_on(name, platform)
    path = SYSTEM_SYMBOLS / found.name
    try:
        return layout_file(path, files, shipped, found.variant) if files.is_file(path) else None
    except OmbixError:
        return None


def system_desktop(environment: Mapping[str, str], shipped: Shipped) -> str:
    """The desktop that is running, where Ombix knows it (XDG_CURRENT_DESKTOP: names with colons between them)."""
    names = {name.lower() for name in environment.get("XDG_CURRENT_DESKTOP", "").split(":")}
    return next((name for name in shipped.desktop_names() if name in names), "")


def _first(names: str) -> str:
    return names.split(",")[0].strip()
