"""From the options of a call to a session."""

from collections.abc import Sequence
from pathlib import Path

from ombix.cli.environment import Environment
from ombix.core.errors import InputError
from ombix.session.session import Session
from ombix.store.journal import has_unfinished


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
    if kind != "file":
        _finish_interrupted(environment, workspace)
    return session


def _finish_interrupted(environment: Environment, workspace: Path | None) -> None:
    """Bring to an end what an earlier run left in the middle, before anything is read: a workspace of which one file is as it was
    and another as it was to be may not be readable at all, and then no command that writes would come to mend it."""
    here, state = environment.folders.here, environment.folders.state
    start = here / workspace if workspace is not None else here
    folders = (start, *start.parents) if workspace is None or start.is_dir() else (start.parent,)
    home = next((one for one in folders if (one / "ombix.toml").is_file()), here)
    if has_unfinished(state, home):
        from ombix.store.writing import Writer

        Writer(state, home, say=environment.say).recover()


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
