"""Ombix: define, audit and port keyboard bindings across editors, with evidence.

import ombix

workspace = ombix.open("ombix.toml")
print(workspace.what("F8"))

What scripts ask most are methods of the workspace. All else are functions that take it, by kind of work: `ombix.look`,
`ombix.audit`, `ombix.change`, `ombix.mend`, `ombix.carry`, `ombix.versions`, `ombix.tryout`, `ombix.usage`, `ombix.learn`,
`ombix.draw`, `ombix.describe`.
"""

import importlib
from typing import TYPE_CHECKING, Any

from ombix.version import __version__

if TYPE_CHECKING:
    from collections.abc import Mapping
    from os import PathLike

    from ombix.core.errors import InputError, OmbixError, OutsideError
    from ombix.library import Workspace
    from ombix.work.audit import audit_questions as audit
    from ombix.work.carry import carry_questions as carry
    from ombix.work.change import change_questions as change
    from ombix.work.describe import describe_questions as describe
    from ombix.work.draw import draw_questions as draw
    from ombix.work.learn import learn_questions as learn
    from ombix.work.look import look_questions as look
    from ombix.work.mend import mend_questions as mend
    from ombix.work.tryout import tryout_questions as tryout
    from ombix.work.usage import usage_questions as usage
    from ombix.work.versions import versions_questions as versions

ROOMS = ("look", "audit", "change", "mend", "carry", "versions", "tryout", "usage", "learn", "draw", "describe")
"""The kinds of work, each with its questions; a room uses only those named before it."""
_ELSEWHERE = {
    "Workspace": "library", "OmbixError": "core.errors", "InputError": "core.errors", "OutsideError": "core.errors",
}  # fmt: skip

__all__ = [
    "ROOMS", "InputError", "OmbixError", "OutsideError", "Workspace", "__version__", "audit", "carry", "change", "describe",
    "draw", "learn", "look", "mend", "open", "tryout", "usage", "versions",
]  # fmt: skip


def open(  # noqa: A001 (`ombix.open` reads as what it is)
    path: "str | PathLike[str] | None" = None, texts: "Mapping[str, str] | None" = None
) -> "Workspace":
    """Open a workspace, a keymap file, or an editor's own file; without a path, the nearest workspace.

    `texts` are texts by path that stand for what is on the disk, like those of files that were not saved yet. Nothing is
    read before the first question. Raises nothing; the questions raise `ombix.OmbixError`.
    """
    from ombix.library import Workspace

    return Workspace(path, texts=texts)


def __getattr__(name: str) -> Any:
    """What is imported when it is asked for first: a program that only looks a key up needs little of it."""
    if name in ROOMS:
        return importlib.import_module(f"ombix.work.{name}.{name}_questions")
    if name in _ELSEWHERE:
        return getattr(importlib.import_module(f"ombix.{_ELSEWHERE[name]}"), name)
    raise AttributeError(f"module 'ombix' has no attribute {name!r}")
