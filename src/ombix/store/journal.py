"""What was written in a workspace, so that it can be taken back: what each file was before each change, to the byte."""

import base64
import contextlib
import json
import stat
import time
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any, NamedTuple

from ombix.core.errors import InputError, Place
from ombix.store.files import absolute, write_bytes

MOST_RECORDS = 50
"""Changes that can be taken back."""


class FileBefore(NamedTuple):
    """A file as it was before a change: its bytes and its permissions, or None where there was none."""

    path: Path
    data: bytes | None
    mode: int | None


class Record(NamedTuple):
    """One change: the command that made it, the files as they were, and a digest of what it wrote into each."""

    command: str
    before: tuple[FileBefore, ...]
    after: tuple[str, ...]


class Journal:
    """The changes of one workspace, the newest last. `home` is the folder that they belong to."""

    def __init__(self, state_folder: Path, home: Path) -> None:
        self._folder = state_folder / "changes" / _digest(absolute(home).encode("utf-8", "surrogateescape"))

    def begin(self, command: str, contents: Mapping[Path, bytes]) -> Path:
        """Note what is about to be written; the record, to be dropped where nothing came of it."""
        before = [_before(path) for path in contents]
        record = Record(command, tuple(before), tuple(map(_digest, contents.values())))
        file = self._folder / f"{time.time_ns()}.json"
        write_bytes(file, json.dumps(_document(record)).encode(), 0o600)
        return file

    def drop(self, record: Path) -> None:
        """Forget a record."""
        record.unlink(missing_ok=True)

    def forget_old(self) -> None:
        """Forget all but the newest records."""
        for file in self._files()[:-MOST_RECORDS]:
            file.unlink(missing_ok=True)

    def newest(self) -> tuple[Path, Record] | None:
        """The newest record, and its file; None where there is none."""
        files = self._files()
        return (files[-1], _record(json.loads(files[-1].read_bytes()))) if files else None

    def _files(self) -> list[Path]:
        return sorted(self._folder.glob("*.json")) if self._folder.is_dir() else []


def check_unchanged(record: Record) -> None:
    """Raise InputError when a file of a change was changed since by something else."""
    for before, after in zip(record.before, record.after, strict=True):
        if not before.path.exists() or _digest(before.path.read_bytes()) != after:
            raise InputError(
                f"the file was changed after “{record.command}”", "Undo that change by hand first.",
                Place(absolute(before.path)),
            )  # fmt: skip


def restore(before: Sequence[FileBefore]) -> None:
    """Make files what they were. Raises OutsideError."""
    for one in before:
        if one.data is None:
            with contextlib.suppress(FileNotFoundError, NotADirectoryError):
                one.path.unlink()
        else:
            write_bytes(one.path, one.data, one.mode)


def _before(path: Path) -> FileBefore:
    target = path.resolve()
    if not target.exists():
        return FileBefore(target, None, None)
    return FileBefore(target, target.read_bytes(), stat.S_IMODE(target.stat().st_mode))


def _digest(data: bytes) -> str:
    import hashlib

    return hashlib.blake2b(data, digest_size=16).hexdigest()


def _document(record: Record) -> dict[str, Any]:
    files = [
        {
            "path": str(one.path), "mode": one.mode, "after": after,
            "bytes": None if one.data is None else base64.b64encode(one.data).decode("ascii"),
        }
        for one, after in zip(record.before, record.after, strict=True)
    ]  # fmt: skip
    return {"command": record.command, "files": files}


def _record(document: dict[str, Any]) -> Record:
    before = tuple(
        FileBefore(Path(one["path"]), None if one["bytes"] is None else base64.b64decode(one["bytes"]), one["mode"])
        for one in document["files"]
    )
    return Record(document["command"], before, tuple(one["after"] for one in document["files"]))
