"""Forms of files: which there are, and what reads and writes each; an installed package may bring another one."""

import importlib
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

from ombix.core.errors import InputError
from ombix.core.plug_ins import FORMATS, PlugIn, plug_ins
from ombix.editors.description import Description
from ombix.editors.formats import FileFormat, FormFault, Heading, Statement
from ombix.editors.formats.trees import TreeFormat

_FOLDER = Path(__file__).parent / "formats"


def form_of_files(name: str) -> FileFormat:
    """What reads and writes files of a form: one of Ombix's own, or of an installed package: an object with the functions of
    `ombix.editors.formats.trees.nodes.TreeSyntax`, or of `ombix.editors.formats.FileFormat`. Raises InputError."""
    if name in forms_of_files():
        return _as_format(importlib.import_module(f"ombix.editors.formats.{name}"))
    brought = plug_ins(FORMATS)
    if name not in brought:
        known = ", ".join([*forms_of_files(), *brought])
        raise InputError(f"there is no form of files called {name}", f"Forms are {known}.")
    return _Brought(brought[name])


def _as_format(found: Any) -> FileFormat:
    return TreeFormat(found) if hasattr(found, "parse") else found


class _Brought(FileFormat):
    """A form of files of an installed package, which is told apart where it fails."""

    def __init__(self, plug_in: PlugIn) -> None:
        self._plug_in = plug_in
        found = plug_in.load()
        if not all(callable(getattr(found, name, None)) for name in ("read", "write")) and not hasattr(found, "parse"):
            raise InputError(
                f"the form of files {plug_in.name} of the package {plug_in.package} has no functions read and write",
                "See: docs/editors-packages.md",
            )
        self._form = _as_format(found)

    def read(self, text: str, file: str, description: Description) -> Iterator[Statement]:
        with self._plug_in.running():
            yield from self._form.read(text, file, description)

    def write(self, items: Iterable[Statement | Heading], description: Description) -> str:
        with self._plug_in.running():
            return self._form.write(items, description)

    def check(self, description: Description) -> Iterator[FormFault]:
        with self._plug_in.running():
            yield from self._form.check(description) if hasattr(self._form, "check") else ()


def forms_of_files() -> list[str]:
    """The forms of files that Ombix itself reads."""
    return sorted(path.stem for path in _FOLDER.glob("[a-z]*.py"))
