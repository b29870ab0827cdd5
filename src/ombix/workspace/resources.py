"""What a session loads, and keeps: Ombix's own data, descriptions of editors, and the files that it was pointed to."""

import stat
from collections.abc import Mapping
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from ombix.core.errors import InputError
from ombix.core.keymap.bindings import LayerName
from ombix.data.seen import SeenFiles
from ombix.data.shipped import Shipped
from ombix.files.cache import Cache
from ombix.files.disk import MAX_EDITOR_FILE_SIZE, Files, absolute
from ombix.files.kept_tables import Tables
from ombix.files.workspace_file import WorkspaceEditor

if TYPE_CHECKING:
    from ombix.core.conditions import Facts, Space
    from ombix.core.keys.platforms import Platform
    from ombix.core.pressing.layouts import KeyboardSetup, Layout
    from ombix.editors.description_loading import Dialects
    from ombix.editors.dialect import Dialect
    from ombix.editors.file_reading import FileReading


class Resources:
    """Ombix's data, descriptions and files, each read once. `texts` stand for files that were not saved yet; with a cache,
    what seldom changes is read out of that."""

    def __init__(self, texts: Mapping[str, str | None] | None = None, cache: Cache | None = None) -> None:
        self.seen = SeenFiles()
        """Every file that an answer may depend on, whether it was there or not."""
        self.files = Files({absolute(path): text for path, text in (texts or {}).items()}, self.seen)
        self.tables = Tables(cache)
        self.shipped = Shipped(self.tables.read, self.seen)
        self._setups: dict[tuple[int, str, str], KeyboardSetup] = {}
        self._spaces: list[Space] = []

    def with_texts(self, texts: Mapping[Path, str | None]) -> "Resources":
        """The same, with texts in place of files. What ships with Ombix, and descriptions, are shared."""
        other = Resources({**self.files.texts, **{str(path): text for path, text in texts.items()}})
        other.tables, other.shipped = self.tables, self.shipped
        other.dialects = self.dialects
        other._setups = self._setups
        other._spaces = self._spaces
        return other

    def space(self, facts: "Facts", known: "Space | None" = None) -> "Space":
        """The states over some facts: the same ones again for the same facts, so that they can be compared; `known` where there
        are none yet."""
        from ombix.core.conditions import Space

        for space in self._spaces:
            if space.is_over(facts):
                return space
        self._spaces.append(known if known is not None and known.is_over(facts) else Space(facts))
        return self._spaces[-1]

    def setup(self, layout: "Layout", keyboard: str, platform: "Platform") -> "KeyboardSetup":
        """A layout on a keyboard; the same one again for the same layout, for it keeps how chords are pressed."""
        from ombix.core.pressing.layouts import KeyboardSetup

        key = (id(layout), keyboard, platform.name)
        if key not in self._setups:
            self._setups[key] = KeyboardSetup(layout, self.shipped.keyboard(keyboard, layout.shape), platform)
        return self._setups[key]

    @cached_property
    def dialects(self) -> "Dialects":
        """The editors that have a description."""
        from ombix.editors.description_loading import Dialects

        return Dialects(self.shipped, self.files.texts)

    def dialect(self, editor: WorkspaceEditor) -> "Dialect":
        """How an editor writes keymaps, with the commands that the workspace explains. Raises InputError."""
        return self.dialects.load(editor.dialect, editor.actions)

    def read_editor_file(self, dialect: "Dialect", path: Path, layer: LayerName) -> "FileReading":
        """An editor's own file, with the files that it reads. Raises InputError or OutsideError."""
        from ombix.editors.file_reading import read_file

        def read(path: Path) -> str:
            return self.files.read_text(path, dialect.description.file.encodings, MAX_EDITOR_FILE_SIZE)

        def opened(named: str, by: str) -> tuple[str, str]:
            inner = Path(by).parent / Path(named).expanduser()
            if not _may_be_read_for(inner, path):
                raise InputError("it lies outside of this file's folder")
            return absolute(inner), read(inner)

        name = dialect.description.file.beside
        beside = path.parent / name if name else None
        settings = (absolute(beside), read(beside)) if beside is not None and self.files.is_file(beside) else None
        return read_file(dialect, read(path), absolute(path), layer, opened, settings)


_OF_THE_SYSTEM = ("/usr", "/etc", "/opt")
"""Folders in which programs have their files (Filesystem Hierarchy Standard)."""


def _may_be_read_for(inner: Path, file: Path) -> bool:
    """Whether a file that an editor's file names is read with it: one below the same folder, or one of the system that anybody may
    read. A stranger's key file can name any file of its reader's, and lines that are not understood are kept in the layer."""
    real = inner.resolve()
    try:
        is_for_all = bool(real.stat().st_mode & stat.S_IROTH)
    except OSError:
        return True  # that it is not there is said where it is read
    is_systems = is_for_all and any(real.is_relative_to(one) for one in _OF_THE_SYSTEM)
    return is_systems or real.is_relative_to(file.resolve().parent)


def user_path(path: str | Path, folder: Path) -> Path:
    """A path that a user gave, from the folder that they are in. Raises InputError for a home that is not known."""
    try:
        return folder / Path(path).expanduser()
    except RuntimeError:
        raise InputError(f"there is no home folder for {path}", "Write the whole path.") from None
