"""Forms of files: which there are, and what reads and writes each; a plug-in may bring another one."""

import importlib
from functools import lru_cache
from importlib.metadata import entry_points
from pathlib import Path
from typing import Any

from ombix.core.errors import InputError

_FOLDER = Path(__file__).parent

PLUG_INS = "ombix.formats"
"""The group of entry points in which a package offers another form of files: an object with the functions of
`ombix.dialects.formats.tree.Syntax`, or with `read` and `write`."""


@lru_cache(maxsize=32)
def form_of_files(name: str) -> Any:
    """What reads and writes files of a form: one of Ombix's own, or a plug-in's. Raises InputError."""
    own = forms_of_files()
    if name in own:
        return importlib.import_module(f"ombix.dialects.formats.{name}")
    plug_ins = {one.name: one for one in entry_points(group=PLUG_INS)}
    if name not in plug_ins:
        raise InputError(f"there is no form of files called {name}", f"Forms are {', '.join([*own, *plug_ins])}.")
    try:
        return plug_ins[name].load()
    except Exception as error:
        raise InputError(
            f"the plug-in for files of the form {name} does not load: {error}", "Install it anew."
        ) from None


def forms_of_files() -> list[str]:
    """The forms of files that Ombix itself reads."""
    return sorted(path.stem for path in (_FOLDER / "formats").glob("[a-z]*.py") if path.stem != "tree")
