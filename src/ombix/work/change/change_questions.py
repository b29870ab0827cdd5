"""Changes that a user names: each a function of an opened workspace."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from ombix.workspace.edit_options import PLAIN_EDIT, EditOptions

if TYPE_CHECKING:
    from ombix.work.change.edits import WantedBinding
    from ombix.work.change.fold_answer import FoldReport
    from ombix.work.change.undo_answer import History, UndoReport
    from ombix.workspace.change_answer import ChangeReport
    from ombix.workspace.open_workspace import OpenWorkspace


def bind(workspace: OpenWorkspace, wanted: WantedBinding, options: EditOptions = PLAIN_EDIT) -> ChangeReport:
    """Give an action keys in the workspace's keymap, or in another layer."""
    from ombix.work.change import edits

    return edits.bind(wanted, workspace.editing(), options)


def unbind(
    workspace: OpenWorkspace, *what: str, where: str = "", why: str = "", options: EditOptions = PLAIN_EDIT
) -> ChangeReport:
    """Take the keys of an action away, or one of them; or have keys do nothing."""
    from ombix.work.change import edits

    return edits.unbind(edits.Unwanted(what, where, why), workspace.editing(), options)


def move(workspace: OpenWorkspace, *what: str, to: str, options: EditOptions = PLAIN_EDIT) -> ChangeReport:
    """Put what is bound on other keys: an action, keys, or an action and one of its keys."""
    from ombix.work.change import edits

    return edits.move(what, to, workspace.editing(), options)


def narrow(workspace: OpenWorkspace, *what: str, where: str, options: EditOptions = PLAIN_EDIT) -> ChangeReport:
    """Have what is bound hold only when a condition is true."""
    from ombix.work.change import edits

    return edits.narrow(what, where, workspace.editing(), options)


def fold(workspace: OpenWorkspace, files: Mapping[str, str], output: str, dry_run: bool = False) -> FoldReport:
    """Put the keymaps of several platforms, by the platform's name, into one file."""
    from ombix.work.change import fold
    from ombix.workspace.resources import user_path

    paths = {name: user_path(file, workspace.opener.folder) for name, file in files.items()}
    goal = user_path(output, workspace.opener.folder)
    return fold.fold(paths, goal, workspace.resources, workspace.writer(goal), dry_run)


def undo(
    workspace: OpenWorkspace, change: str = "", *, dry_run: bool = False, force: bool = False, skip: bool = False
) -> UndoReport | None:
    """Take a change back, the newest or that of a name of the history; `force` also where the same lines were changed since,
    or with `skip` forget it; None where there is none."""
    from ombix.work.change import undo

    return undo.undo(workspace.writer(), change, dry_run, force, skip)


def history(workspace: OpenWorkspace, most: int = 20) -> History:
    """The changes that can be taken back, the newest first."""
    from ombix.work.change import undo

    return undo.history(workspace.writer(), most)
