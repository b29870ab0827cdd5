"""The workspace file: which keymap, which layers below it, which layout, and which editors it is for."""

import sys
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from ombix.core.actions import Catalogue
from ombix.core.conditions import Facts
from ombix.core.errors import InputError, Place, did_you_mean
from ombix.core.keymap import Keymap, Layer
from ombix.store import keymaps, shipped
from ombix.store.files import read_text
from ombix.store.toml import Document

FILE_NAME = "ombix.toml"
FORMAT = 1
_TOP = ("format", "keymap", "layers", "platform", "layout", "editor")
_EDITOR = ("dialect", "platform", "terminal", "file")


@dataclass(frozen=True, slots=True)
class Editor:
    """An editor of the workspace."""

    name: str
    dialect: str
    platform: str = ""
    terminal: str = ""
    file: str = ""


@dataclass(frozen=True, slots=True)
class Workspace:
    """A workspace that was read. Paths are relative to its folder until `keymap_path` and the like."""

    path: Path
    keymap: str
    layers: tuple[str, ...] = ()
    platform: str = ""
    layout: str = ""
    editors: dict[str, Editor] = field(default_factory=dict)

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
    for key in ("platform", "layout"):
        if not isinstance(table.get(key, ""), str):
            raise document.error(f"{key} takes a name", "", key)
    _check_platform(document, table.get("platform", ""), "platform")
    return Workspace(path, table["keymap"], tuple(layers), table.get("platform", ""), table.get("layout", ""), editors)


def _editor(document: Document, name: str, row: Any) -> Editor:
    if not isinstance(row, dict):
        raise document.error(f"the editor {name} is not a table", f"Write [editor.{name}].", "editor", name)
    _check_keys(document, row, _EDITOR, "editor", name)
    for key, value in row.items():
        if not isinstance(value, str):
            raise document.error(f"{key} takes a text", "", "editor", name, key)
    if "dialect" not in row:
        raise document.error("the dialect is missing", 'Write dialect = "nano".', "editor", name)
    _check_platform(document, row.get("platform", ""), "editor", name, "platform")
    return Editor(name, **row)


def _check_platform(document: Document, platform: str, *path: str) -> None:
    known = shipped.platform_names()
    if platform and platform not in known:
        raise document.error(
            f"unknown platform: {platform}", did_you_mean(platform, known) or f"Known are {', '.join(known)}.", *path
        )


def _check_keys(document: Document, table: dict[str, Any], allowed: tuple[str, ...], *path: str) -> None:
    for key in table:
        if key not in allowed:
            raise document.error(
                f"unknown key: {key}", did_you_mean(key, list(allowed)) or f"Known are {', '.join(allowed)}.",
                *path, key,
            )  # fmt: skip
