"""The layouts, keyboards, terminals, desktops and platforms that Ombix knows."""

from pathlib import Path

from ombix.core.pressing.layouts import Layout
from ombix.files.layout_files import layout_file
from ombix.work.look.layouts_answer import KnownHardware, LayoutKeys, LayoutName
from ombix.workspace.resources import Resources


def hardware(resources: Resources) -> KnownHardware:
    """The layouts, keyboards, terminals, desktops and platforms."""
    shipped = resources.shipped
    layouts = [shipped.layout(name) for name in shipped.layout_names()]
    return KnownHardware(
        tuple(LayoutName(one.name, one.title, one.shape, one.has_altgr) for one in layouts),
        tuple(shipped.keyboard_names()), tuple(shipped.terminal_names()), tuple(shipped.desktop_names()),
        tuple(shipped.platform_names()),
    )  # fmt: skip


def layout(name: str, folder: Path, resources: Resources) -> LayoutKeys:
    """What is on the keys of a layout, by its name or that of its file. Raises InputError."""
    path = folder / name
    shipped = resources.shipped
    is_file = name not in shipped.layout_names() and ("/" in name or "." in name or resources.files.is_file(path))
    found: Layout = layout_file(path, resources.files, shipped) if is_file else shipped.layout(name)
    return LayoutKeys(found.name, found.title, found.shape, found.has_altgr, found.source, dict(found.keys))
