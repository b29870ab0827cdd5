"""What was written into editors' own files, kept so that it is known what somebody else has changed since."""

import base64
import binascii
from datetime import datetime
from pathlib import Path

import msgspec

from ombix.core.errors import InputError, Place
from ombix.files.change_folder import digest
from ombix.files.disk import absolute


class AppliedFile(msgspec.Struct, frozen=True):
    """A file of an editor as it was left: its whole content (base64), how the keymap stands in it (`block` or `whole`), and the
    description it was written by, with the default keys that the editor had by that (keys, section, command)."""

    editor: str
    path: str
    way: str
    content: str
    dialect: str
    version: str
    defaults: tuple[tuple[str, str, str], ...]
    made: str

    @property
    def data(self) -> bytes:
        """The content."""
        return base64.b64decode(self.content)


def encoded(data: bytes) -> str:
    """Content as it is kept."""
    return base64.b64encode(data).decode("ascii")


def record_path(state_folder: Path, home: Path, editor: str) -> Path:
    """Where what was written for an editor of a workspace is kept."""
    folder = digest(absolute(home).encode("utf-8", "surrogateescape"))
    return state_folder / "applied" / folder / f"{digest(editor.encode())}.json"


def read_record(path: Path) -> AppliedFile | None:
    """What was written last; None where nothing was. Raises InputError where the note is damaged."""
    try:
        data = path.read_bytes()
    except (FileNotFoundError, NotADirectoryError):
        return None
    try:
        record = msgspec.json.decode(data, type=AppliedFile)
        base64.b64decode(record.content, validate=True)
        datetime.fromisoformat(record.made)
    except (msgspec.DecodeError, binascii.Error, ValueError):
        raise InputError(
            "what was noted of the file that was applied is damaged",
            "Take the note away, and apply anew.",
            Place(str(path)),
        ) from None
    return record


def records_of(state_folder: Path, home: Path) -> list[AppliedFile]:
    """What was written for all editors that a workspace has, or had. Raises InputError where a note is damaged."""
    folder = record_path(state_folder, home, "").parent
    found = [read_record(one) for one in sorted(folder.glob("*.json"))]
    return [one for one in found if one is not None and one.way != "removed"]


def record_bytes(record: AppliedFile) -> bytes:
    """A note as it is written."""
    return msgspec.json.format(msgspec.json.encode(record), indent=1) + b"\n"
