"""What was written in a workspace, so that it can be taken back: what each file was before each change, to the byte.

A record is on the disk before the first file is touched. While its files are written it is `begun`, then `done`, and while
it is taken back `undoing`: whatever ends a run, the next one knows what is left to do.
"""

import base64
import binascii
import contextlib
import json
import time
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any, Literal, NamedTuple

from ombix.core.errors import InputError, Place
from ombix.files.change_folder import digest, folder_of
from ombix.files.disk import FileBefore, absolute, file_before, sync_folder, write_private
from ombix.files.private_folders import make_private

MOST_RECORDS = 50
"""Changes that can be taken back."""

State = Literal["begun", "done", "undoing"]
_STATES: tuple[State, ...] = ("begun", "done", "undoing")


class ChangedFile(NamedTuple):
    """A file of a change: what it was before, what was written (None: it went), and where that stood until it took its place."""

    before: FileBefore
    after: bytes | None
    temporary: Path

    @property
    def path(self) -> Path:
        """The file."""
        return self.before.path


class Record(NamedTuple):
    """One change: the command that made it, its files, and the folders that were made for them, the outermost first."""

    command: str
    files: tuple[ChangedFile, ...]
    folders: tuple[Path, ...]


class NotedRecord(NamedTuple):
    """A record as it stands in the journal."""

    file: Path
    state: State
    record: Record

    @property
    def name(self) -> str:
        """A short name that it keeps."""
        return digest(self.file.stem.encode())[:6]

    @property
    def seconds(self) -> float:
        """When it was made, in seconds since 1970."""
        return int(self.file.stem) / 1e9 if self.file.stem.isdigit() else 0.0


class Journal:
    """The changes of one workspace, the newest last. `home` is the folder that they belong to.

    Raises OutsideError where its own folder is somebody else's.
    """

    def __init__(self, state_folder: Path, home: Path) -> None:
        self._folder = folder_of(state_folder, home)
        for folder in (state_folder, self._folder.parent, self._folder):
            make_private(absolute(folder))

    def begin(self, command: str, contents: Mapping[Path, bytes | None]) -> NotedRecord:
        """Note what is about to be written."""
        # Records are in the order in which they were made, also where the clock was set back in between.
        last = max((int(one.stem) for one in self._folder.glob("*.*") if one.stem.isdigit()), default=0)
        number = max(time.time_ns(), last + 1)
        files = tuple(
            ChangedFile(file_before(path), data, path.parent / f".ombix-{number}-{index}.tmp")
            for index, (path, data) in enumerate(contents.items())
        )
        record = Record(command, files, tuple(_missing_folders(contents)))
        file = self._folder / f"{number:020d}.begun"
        write_private(file, json.dumps(_document(record)).encode())
        return NotedRecord(file, "begun", record)

    def mark(self, noted: NotedRecord, state: State) -> NotedRecord:
        """Say how far a change has come."""
        file = noted.file.with_suffix(f".{state}")
        noted.file.rename(file)
        sync_folder(self._folder)
        return NotedRecord(file, state, noted.record)

    def drop(self, noted: NotedRecord) -> None:
        """Forget a record."""
        noted.file.unlink(missing_ok=True)
        sync_folder(self._folder)

    def forget_old(self) -> None:
        """Forget all but the newest records."""
        for file in self._files("done")[:-MOST_RECORDS]:
            file.unlink(missing_ok=True)

    def newest(self) -> NotedRecord | None:
        """The newest change that was made to its end; None where there is none. Raises InputError where it is damaged."""
        files = self._files("done")
        return _read(files[-1]) if files else None

    def all(self) -> list[NotedRecord]:
        """The changes that were made to their end, the newest first; those whose notes are damaged are left out."""
        found = []
        for file in reversed(self._files("done")):
            with contextlib.suppress(InputError):
                found.append(_read(file))
        return found

    def unfinished(self) -> list[NotedRecord]:
        """The changes that a run left in the middle, the newest first. What is left of its own files goes."""
        for stray in self._folder.glob("*.tmp"):
            stray.unlink(missing_ok=True)
        found = []
        for file in reversed([*self._files("begun"), *self._files("undoing")]):
            try:
                found.append(_read(file))
            except InputError:
                file.unlink(missing_ok=True)  # it was not written to its end, so no file was touched
        return found

    def _files(self, state: State) -> list[Path]:
        return sorted(self._folder.glob(f"*.{state}"))


def _missing_folders(paths: Mapping[Path, bytes | None]) -> list[Path]:
    """The folders that are not there yet, the outermost first."""
    found: dict[Path, None] = {}
    for path in paths:
        missing: list[Path] = []
        folder = path.parent
        while not folder.exists() and folder != folder.parent:
            missing.append(folder)
            folder = folder.parent
        found |= dict.fromkeys(reversed(missing))
    return list(found)


def _document(record: Record) -> dict[str, Any]:
    return {
        "command": record.command,
        "folders": [str(folder) for folder in record.folders],
        "files": [
            {
                "path": str(file.path), "mode": file.before.mode, "owner": file.before.owner,
                "before": None if file.before.data is None else base64.b64encode(file.before.data).decode("ascii"),
                "after": None if file.after is None else base64.b64encode(file.after).decode("ascii"),
                "temporary": str(file.temporary),
            }
            for file in record.files
        ],
    }  # fmt: skip


def _read(file: Path) -> NotedRecord:
    try:
        document = json.loads(file.read_bytes())
        files = tuple(
            ChangedFile(
                FileBefore(
                    Path(one["path"]), None if one["before"] is None else base64.b64decode(one["before"], validate=True),
                    one["mode"], tuple(one["owner"]) if one["owner"] else None,
                ),
                None if one["after"] is None else base64.b64decode(one["after"], validate=True), Path(one["temporary"]),
            )
            for one in document["files"]
        )  # fmt: skip
        record = Record(str(document["command"]), files, tuple(Path(folder) for folder in document["folders"]))
    except (ValueError, KeyError, TypeError, binascii.Error, OSError):
        raise InputError(
            "what was noted of the last change is damaged", "Skip it with: ombix undo --skip", Place(absolute(file))
        ) from None
    state = file.suffix.removeprefix(".")
    assert state in _STATES
    return NotedRecord(file, state, record)


def differing(files: Sequence[ChangedFile]) -> list[Path]:
    """The files that are not what a change had made of them."""
    return [file.path for file in files if file_before(file.path).data != file.after]
