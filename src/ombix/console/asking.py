"""From the options of a call to a session."""

from collections.abc import Sequence
from pathlib import Path

from ombix.console.environment import Environment
from ombix.core.errors import InputError
from ombix.workspace.open_workspace import OpenWorkspace


def open_session(
    environment: Environment, workspace: Path | None = None, file: Path | None = None, editor: str = ""
) -> OpenWorkspace:
    """A session on the workspace, or on one file as it is, which is that of `editor`. Raises InputError for both."""
    folders = environment.folders
    if workspace is not None and file is not None:
        raise InputError("--workspace and --file are two things to look at", "Name one of them.")
    path, kind = (file, "file") if file is not None else (workspace, "workspace" if workspace is not None else "")
    session = OpenWorkspace(
        path, kind=kind, editor=editor if file is not None else "", folder=str(folders.here),  # type: ignore[arg-type]
        cache=str(folders.cache), state=str(folders.state),
    )  # fmt: skip
    session.say = environment.say
    session.finishes = True
    return session


def machines_asked(session: OpenWorkspace, names: Sequence[str] | None) -> list[OpenWorkspace]:
    """A session for each machine that is asked about; the one that there is where none is. Raises InputError."""
    return [session.on_machine(name) for name in session.machines(*names)] if names else [session]


def editor_asked(file: Path | None, editor: str) -> str:
    """The editor that a question is about; beside `--file` it is the one whose file that is, and known to the session."""
    return "" if file is not None else editor
