"""Ombix: define, audit and port keyboard bindings across editors, with evidence.

import ombix

work = ombix.open("ombix.toml")
print(work.what("F8"))
"""

from typing import TYPE_CHECKING

from ombix.version import __version__

if TYPE_CHECKING:
    from collections.abc import Mapping
    from os import PathLike

    from ombix.session.session import Session

__all__ = ["__version__", "open"]


def open(  # noqa: A001 (`ombix.open` reads as what it is)
    path: "str | PathLike[str] | None" = None, texts: "Mapping[str, str] | None" = None
) -> "Session":
    """Open a workspace, a keymap file, or an editor's own file; without a path, the nearest workspace.

    `texts` are texts by path that stand for what is on the disk, like those of files that were not saved yet. Nothing is
    read before the first question. Raises nothing; the questions raise `ombix.core.errors.OmbixError`.
    """
    from ombix.session.session import Session

    return Session(path, texts=texts)
