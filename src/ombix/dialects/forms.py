"""Forms of files: which there are, and what reads and writes each; a plug-in may bring another one."""

import importlib
from pathlib import Path
from typing import Any

from ombix.core.errors import InputError
from ombix.dialects.formats import FileFormat
from ombix.dialects.formats.trees import TreeFormat

_FOLDER = Path(__file__).parent / "formats"

PLUG_INS = "ombix.formats"
"""The group of entry points in which a package offers another form of files: an object with the functions of
`ombix.dialects.formats.trees.nodes.TreeSyntax`, or of `ombix.dialects.formats.FileFormat`."""


def form_of_files(name: str) -> FileFormat:
    """What reads and writes files of a form: one of Ombix's own, or a plug-in's. Raises InputError."""
    if name in forms_of_files():
        return _as_format(importlib.import_module(f"ombix.dialects.formats.{name}"))
    from importlib.metadata import entry_points

    plug_ins = {one.name: one for one in entry_points(group=PLUG_INS)}
    if name not in plug_ins:
        known = ", ".join([*forms_of_files(), *plug_ins])
        raise InputError(f"there is no form of files called {name}", f"Forms are {known}.")
    try:
        return _as_format(plug_ins[name].load())
    except Exception as error:
        raise InputError(
            f"the plug-in for files of the form {name} does not load: {error}", "Install it anew."
        ) from None


def _as_format(found: Any) -> FileFormat:
    return TreeFormat(found) if hasattr(found, "parse") else found


def forms_of_files() -> list[str]:
    """The forms of files that Ombix itself reads."""
    return sorted(path.stem for path in _FOLDER.glob("[a-z]*.py"))
