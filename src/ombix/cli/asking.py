"""From the options of a call to a session."""

from collections.abc import Sequence
from pathlib import Path

from ombix.cli.environment import Environment
from ombix.core.errors import InputError
from ombix.session.session import Session


def open_session(
    environment: Environment, workspace: Path | None = None, file: Path | None = None, editor: str = ""
) -> Session:
    """A session on the workspace, or on one file as it is, which is that of `editor`. Raises InputError for both."""
    folders = environment.folders
    if workspace is not None and file is not None:
        raise InputError("--workspace and --file are two things to look at", "Name one of them.")
    path, kind = (file, "file") if file is not None else (workspace, "workspace" if workspace is not None else "")
    session = Session(
        path, kind=kind, editor=editor if file is not None else "", folder=str(folders.here),  # type: ignore[arg-type]
        cache=str(folders.cache), state=str(folders.state),
    )  # fmt: skip
    session.say = environment.say
    session.finishes = True
    return session


def machines_asked(session: Session, names: Sequence[str] | None) -> list[Session]:
    """A session for each machine that is asked about; the one that there is where none is. Raises InputError."""
    return [session.on_machine(name) for name in session.machines(*names)] if names else [session]


def text_asked(session: Session, text: str | None, file: Path | None) -> str:
    """The text that something is tried on: as it was typed, that of a file, or the sample. Raises InputError for both."""
    from ombix.session.pressing import TEXT

    if text is not None and file is not None:
        raise InputError("there are two texts", "Give --text or --text-file.")
    if file is not None:
        return session.read(str(file)).replace("\r\n", "\n")  # a line ends with one sign where it is edited
    return TEXT if text is None else text.replace("\\n", "\n")


def editor_asked(file: Path | None, editor: str) -> str:
    """The editor that a question is about; beside `--file` it is the one whose file that is, and known to the session."""
    return "" if file is not None else editor
