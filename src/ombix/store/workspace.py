"""The workspace file: which keymap, which layers below it, which layout, and which editors it is for."""

import sys
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, NamedTuple

from ombix.core.actions import Catalogue
from ombix.core.conditions import Facts
from ombix.core.errors import InputError, NotationError, Place, did_you_mean
from ombix.core.keymap import Keymap, Layer
from ombix.core.keys import Trigger, parse
from ombix.core.toml import Document
from ombix.data import shipped
from ombix.store import keymaps, layouts
from ombix.store.files import read_text

FILE_NAME = "ombix.toml"
FORMAT = 1
_TOP = ("format", "keymap", "layers", "platform", "layout", "keyboard", "desktop", "reserved", "editor")
_EDITOR = ("dialect", "platform", "terminal", "file", "actions")


@dataclass(frozen=True, slots=True)
class Editor:
    """An editor of the workspace."""

    name: str
    dialect: str
    platform: str = ""
    terminal: str = ""
    file: str = ""
    actions: tuple[tuple[str, str], ...] = ()
    """Commands that Ombix does not know, or knows as something else, each with the action that it stands for."""


class Own(NamedTuple):
    """A chord that something of the user's own takes: what it does, and on which platform (none named: on all)."""

    trigger: Trigger
    does: str
    platform: str


@dataclass(frozen=True, slots=True)
class Workspace:
    """A workspace that was read. Paths are relative to its folder until `keymap_path` and the like."""

    path: Path
    keymap: str
    layers: tuple[str, ...] = ()
    platform: str = ""
    layouts: dict[str, tuple[str, ...]] = field(default_factory=dict)
    """Platform to the layouts that are used there, the one at hand first; under "" those for all platforms."""
    keyboards: dict[str, str] = field(default_factory=dict)
    """Platform to the keyboard; under "" that for all platforms."""
    desktop: str = ""
    reserved: tuple[Own, ...] = ()
    editors: dict[str, Editor] = field(default_factory=dict)

    def layouts_on(self, platform: str) -> tuple[str, ...]:
        """The layouts that are used on a platform, the one at hand first."""
        return self.layouts.get(platform, self.layouts.get("", ()))

    def keyboard_on(self, platform: str) -> str:
        """The keyboard that is used on a platform; an empty text where none is named."""
        return self.keyboards.get(platform, self.keyboards.get("", ""))

    @property
    def folder(self) -> Path:
        """The folder that the workspace file stands in."""
        return self.path.parent

    @property
    def keymap_path(self) -> Path:
        """The keymap file."""
        return self.folder / self.keymap

    def load_keymap(self, catalogue: Catalogue, facts: Facts, lenient: bool = False) -> Keymap:
        """The layers of the workspace, the lowest first. Raises InputError."""
        layers: list[Layer] = []
        for name in self.layers:
            layers.extend(keymaps.load(self.folder / name, catalogue, facts, "adopted", lenient))
        layers.extend(keymaps.load(self.keymap_path, catalogue, facts, lenient=lenient))
        return Keymap(layers)


def this_platform() -> str:
    """The platform that Ombix runs on."""
    return {"darwin": "mac", "win32": "windows"}.get(sys.platform, "linux")


def find(start: Path, given: Path | None) -> Path:
    """The workspace file: the given one, or the nearest above `start`. Raises InputError when there is none."""
    if given is not None:
        return given / FILE_NAME if given.is_dir() else given
    for folder in (start, *start.parents):
        if (folder / FILE_NAME).is_file():
            return folder / FILE_NAME
    raise InputError(
        f"there is no {FILE_NAME} here or in a folder above", "Start a workspace with: ombix init", Place(str(start))
    )


def load(path: Path) -> Workspace:
    """Read a workspace file. Raises InputError with the place of the first fault."""
    document = Document(read_text(path), str(path))
    table = document.table
    _check_keys(document, table, _TOP)
    if table.get("format") != FORMAT:
        raise document.error(
            "the format is missing or not known", f"Begin the file with format = {FORMAT}.",
            *(("format",) if "format" in table else ()),
        )  # fmt: skip
    if not isinstance(table.get("keymap"), str):
        raise document.error("the keymap is missing", 'Write keymap = "crew.keys.toml".', "keymap")
    layers = table.get("layers", [])
    if not isinstance(layers, list) or not all(isinstance(name, str) for name in layers):
        raise document.error("layers takes a list of file names", "", "layers")
    editors: dict[str, Editor] = {}
    rows = table.get("editor", {})
    if not isinstance(rows, dict):
        raise document.error("editor is not a table", "Write [editor.pier].", "editor")
    for name, row in rows.items():
        editors[name] = _editor(document, name, row)
    for key in ("platform", "desktop"):
        if not isinstance(table.get(key, ""), str):
            raise document.error(f"{key} takes a name", "", key)
    _check_platform(document, table.get("platform", ""), "platform")
    _check_name(document, "desktop", table.get("desktop", ""), shipped.desktop_names(), "desktop")
    return Workspace(
        path, table["keymap"], tuple(layers), table.get("platform", ""), _layouts(document, path.parent),
        _keyboards(document), table.get("desktop", ""), _reserved(document), editors,
    )  # fmt: skip


def _by_platform(document: Document, key: str) -> dict[str, Any]:
    """A value for all platforms (under an empty name), or a table of values by platform."""
    value = document.table.get(key)
    if value is None:
        return {}
    if not isinstance(value, dict):
        return {"": value}
    for name in value:
        _check_platform(document, name, key, name)
    return value


def _layouts(document: Document, folder: Path) -> dict[str, tuple[str, ...]]:
    found: dict[str, tuple[str, ...]] = {}
    for platform, value in _by_platform(document, "layout").items():
        path = ("layout", platform) if platform else ("layout",)
        names = [value] if isinstance(value, str) else value
        if not isinstance(names, list) or not names or not all(isinstance(name, str) for name in names):
            raise document.error("layout takes a name, or a list of names", 'Write layout = ["de", "us"].', *path)
        for name in names:
            if "." not in name and "/" not in name and not (folder / name).is_file():
                _check_name(document, "layout", name, layouts.layout_names(), *path)
        found[platform] = tuple(names)
    return found


def _keyboards(document: Document) -> dict[str, str]:
    found: dict[str, str] = {}
    for platform, name in _by_platform(document, "keyboard").items():
        path = ("keyboard", platform) if platform else ("keyboard",)
        if not isinstance(name, str):
            raise document.error("keyboard takes a name", 'Write keyboard = "laptop".', *path)
        _check_name(document, "keyboard", name, layouts.keyboard_names(), *path)
        found[platform] = name
    return found


def _reserved(document: Document) -> tuple[Own, ...]:
    rows = document.table.get("reserved", {})
    if not isinstance(rows, dict):
        raise document.error("reserved is not a table", "Write [reserved].", "reserved")
    found = []
    for keys, value in rows.items():
        path = ("reserved", keys)
        row = {"does": value} if isinstance(value, str) else value
        if not isinstance(row, dict) or not isinstance(row.get("does"), str) or not isinstance(row.get("on", ""), str):
            raise document.error(
                "a reserved chord takes what it does", 'Write "Ctrl+Alt+J" = "start the clock".', *path
            )
        _check_keys(document, row, ("does", "on"), *path)
        _check_platform(document, row.get("on", ""), *path)
        try:
            trigger = parse(keys)
        except NotationError as error:
            raise document.error_in_text(error.what, error.advice, keys, error.start, error.end, *path) from None
        if len(trigger) > 1:
            raise document.error("a reserved chord is one chord", "Write each on a line of its own.", *path)
        found.append(Own(trigger, row["does"], row.get("on", "")))
    return tuple(found)


def _editor(document: Document, name: str, row: Any) -> Editor:
    if not isinstance(row, dict):
        raise document.error(f"the editor {name} is not a table", f"Write [editor.{name}].", "editor", name)
    _check_keys(document, row, _EDITOR, "editor", name)
    actions = row.get("actions", {})
    if not isinstance(actions, dict):
        raise document.error(
            "actions is not a table", 'Write actions = { "command" = "line.copy-down" }.', "editor", name
        )
    known = list(shipped.catalogue().actions) if actions else []
    for command, action in actions.items():
        if action not in known:
            advice = did_you_mean(str(action), known)
            raise document.error(f"unknown action: {action}", advice, "editor", name, "actions", command)
    row = {key: value for key, value in row.items() if key != "actions"}
    for key, value in row.items():
        if not isinstance(value, str):
            raise document.error(f"{key} takes a text", "", "editor", name, key)
    if "dialect" not in row:
        raise document.error("the dialect is missing", 'Write dialect = "nano".', "editor", name)
    _check_platform(document, row.get("platform", ""), "editor", name, "platform")
    return Editor(name, actions=tuple(actions.items()), **row)


def _check_platform(document: Document, platform: str, *path: str) -> None:
    _check_name(document, "platform", platform, shipped.platform_names(), *path)


def _check_name(document: Document, kind: str, name: str, known: list[str], *path: str) -> None:
    if name and name not in known:
        raise document.error(
            f"unknown {kind}: {name}", did_you_mean(name, known) or f"Known are {', '.join(known)}.", *path
        )


def _check_keys(document: Document, table: dict[str, Any], allowed: tuple[str, ...], *path: str) -> None:
    for key in table:
        if key not in allowed:
            raise document.error(
                f"unknown key: {key}", did_you_mean(key, list(allowed)) or f"Known are {', '.join(allowed)}.",
                *path, key,
            )  # fmt: skip
