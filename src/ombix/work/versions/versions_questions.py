"""Version control: the questions, each a function of an opened workspace."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ombix.work.versions.blame_answer import BlameReport
    from ombix.work.versions.changes_answer import VersionChanges
    from ombix.work.versions.git_setup import GitSetUp
    from ombix.work.versions.merge import Merging
    from ombix.workspace.open_workspace import OpenWorkspace


def merge(workspace: OpenWorkspace, base: str, ours: str, theirs: str, *, path: str = "") -> Merging:
    """Merge two versions of a keymap, a workspace or an editor's own file with a common ancestor; it belongs at `path`, where
    `ours` is a copy of it."""
    from ombix.work.versions import merge, merge_editor_files
    from ombix.workspace.resources import user_path

    here = workspace.opener.folder
    paths = [user_path(name, here) for name in (base, ours, theirs)]
    texts = [workspace.resources.files.read_text(path) for path in paths]
    names = (str(paths[0]), str(paths[1]), str(paths[2]))
    found = merge.Versions(user_path(path or ours, here), texts[0], texts[1], texts[2], names)
    opener = workspace.opener
    if workspace.path_given is None:  # the workspace_file is that of the file, wherever the call is made
        from ombix.workspace.context import Opener, Source

        opener = Opener(found.path.parent, Source(None), workspace.resources)
    merged = merge_editor_files.merge(found, opener, workspace.resources)
    return merged if merged is not None else merge.merge(found, opener, workspace.resources)


def changes(workspace: OpenWorkspace, revisions: str = "", *, staged: bool = False) -> VersionChanges:
    """What changed by meaning between two versions in git: `REV..REV`; or since one (none: the last commit), to the files as
    they are, or as they are `staged`."""
    from ombix.work.versions import keymap_history

    found = keymap_history.between(revisions, staged, workspace.opener, workspace.resources)
    return keymap_history.changes(found, workspace.opener, workspace.resources)


def blame(workspace: OpenWorkspace, keys: str, *, editor: str = "", on: str = "") -> BlameReport:
    """Which commit gave keys the meaning that they have."""
    from ombix.work.versions import blame

    return blame.blame(blame.BlamedKeys(keys, editor, on), workspace.opener, workspace.resources)


def git_setup(workspace: OpenWorkspace, program: str, user: bool = False) -> GitSetUp:
    """What sets Ombix up in the repository of the folder of the call, or for a `user`; `program` is how it is called there."""
    from ombix.work.versions.git_setup import GitSetUp, SetUpOptions, editor_files
    from ombix.workspace.git_versions import Repository

    options = SetUpOptions(user, program, editor_files(workspace.opener))
    return GitSetUp(Repository(workspace.opener.folder), options, lambda paths: workspace.writer(*paths))
