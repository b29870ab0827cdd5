"""The text that keys and macros are tried on, from the options of a call."""

from pathlib import Path

from ombix.core.errors import InputError
from ombix.work.tryout.stage_session import TEXT
from ombix.workspace.open_workspace import OpenWorkspace


def text_asked(session: OpenWorkspace, text: str | None, file: Path | None) -> str:
    """The text that something is tried on: as it was typed, that of a file, or the sample. Raises InputError for both."""
    if text is not None and file is not None:
        raise InputError("there are two texts", "Give --text or --text-file.")
    if file is not None:
        return session.read(str(file)).replace("\r\n", "\n")  # a line ends with one sign where it is edited
    return TEXT if text is None else text.replace("\\n", "\n")
