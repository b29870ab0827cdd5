"""Sheets and practice, of an opened workspace."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ombix.files.practice_progress import Progress
    from ombix.work.learn.practice import Practice, PracticeOptions
    from ombix.work.learn.sheet import SheetOptions
    from ombix.work.learn.sheet_answer import Sheet
    from ombix.workspace.open_workspace import OpenWorkspace


def sheet(
    workspace: OpenWorkspace, options: SheetOptions | None = None, *, editors: Sequence[str] = (), on: Sequence[str] = (),
    layouts: Sequence[str] = (), machines: Sequence[str] = (), since: str = "", against: OpenWorkspace | None = None,
) -> Sheet:  # fmt: skip
    """What is bound, to be printed: each machine, editor, platform and layout in a column; only what changed `since` a version
    in git, or `against` what another session is on."""
    from ombix.work.learn.sheet import SheetOptions, sheet
    from ombix.workspace.git_versions import texts_at

    if since:
        workspace.context()  # so that all files are known
        against = workspace.with_texts(texts_at(workspace.opener, workspace.files(), since))
    before = against.keymap if against is not None else None
    keymaps = [(name, workspace.on_machine(name).keymap) for name in workspace.machines(*machines)] if machines else []
    return sheet(keymaps or [("", workspace.keymap)], options or SheetOptions(), editors, on, layouts, before)


def practice(
    workspace: OpenWorkspace, options: PracticeOptions | None = None, *, editor: str = "", on: str = ""
) -> Practice:
    """The things of the keymap to be practised, with what is remembered of them."""
    from ombix.work.learn.practice import Practice, PracticeOptions

    return Practice(
        workspace.keymap(editor, on), progress(workspace), options or PracticeOptions(), workspace.resources
    )


def progress(workspace: OpenWorkspace) -> Progress:
    """What is remembered of what was practised here."""
    from ombix.files.practice_progress import Progress

    workspace_file = None if workspace.opener.is_file() else workspace.opener.workspace()
    return Progress(
        workspace.state_folder(), workspace_file.path if workspace_file is not None else workspace.opener.folder
    )
