"""Files on disk: read within bounds, written whole or not at all, locked against a second run, and taken back."""

import contextlib
import hashlib
import json
import os
import stat
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from ombix.core.errors import InputError, OutsideError, Place

MAX_FILE_SIZE = 32 * 1024 * 1024
"""Bytes. 100,000 bindings take about 10 MB; a larger file is not a keymap."""


def read_text(path: Path, encodings: tuple[str, ...] = ("utf-8",)) -> str:
    """The text of a file, a byte-order mark taken off. Raises InputError or OutsideError with the reason.

    It is UTF-8; where another encoding comes after it, that is tried for what is not.
    """
    place = Place(str(path))
    try:
        status = path.stat()
        if stat.S_ISDIR(status.st_mode):
            raise InputError("this is a folder, not a file", "Name the file in it.", place)
        if not stat.S_ISREG(status.st_mode):
            raise InputError("this is not an ordinary file", "Name a file.", place)
        if status.st_size > MAX_FILE_SIZE:
            raise InputError(
                f"the file has {status.st_size / 1e6:.0f} MB; at most {MAX_FILE_SIZE // 1024 // 1024} MB are read",
                "Check that this is the file you mean.", place,
            )  # fmt: skip
        data = path.read_bytes()
    except FileNotFoundError:
        raise InputError("there is no such file", "Check the name, or the folder you are in.", place) from None
    except PermissionError:
        raise OutsideError("the file cannot be read", "Check its permissions.", place) from None
    except OSError as error:
        raise OutsideError(f"the file cannot be read: {error.strerror}", place=place) from None
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        if len(encodings) > 1 and b"\0" not in data:
            return data.decode(encodings[1])
        line = data.count(b"\n", 0, error.start) + 1
        column = error.start - data.rfind(b"\n", 0, error.start)
        raise InputError("the file is not UTF-8 text", "Save it as UTF-8.", Place(str(path), line, column)) from None
    if "\0" in text:
        position = text.index("\0")
        line = text.count("\n", 0, position) + 1
        raise InputError(
            "the file has a NUL character in it, so it is not text", "Check that this is the file you mean.",
            Place(str(path), line, position - text.rfind("\n", 0, position)),
        )  # fmt: skip
    return text


def write_text(path: Path, text: str) -> None:
    """Write a file whole or not at all: into a new file beside it, which then takes its place.

    A symbolic link stays one, permissions and line endings stay as they were. Raises OutsideError.
    """
    target = path.resolve()
    try:
        mode = 0o644
        with contextlib.suppress(FileNotFoundError):
            mode = stat.S_IMODE(target.stat().st_mode)
            with target.open("rb") as old:
                if b"\r\n" in old.read(65536) and "\r\n" not in text:
                    text = text.replace("\n", "\r\n")
        target.parent.mkdir(parents=True, exist_ok=True)
        handle, temporary = tempfile.mkstemp(dir=target.parent, prefix=f".{target.name}.")
        try:
            with os.fdopen(handle, "wb") as new:
                new.write(text.encode("utf-8"))
                new.flush()
                os.fsync(new.fileno())
            os.chmod(temporary, mode)  # noqa: PTH101
            os.replace(temporary, target)  # noqa: PTH105
        except BaseException:
            with contextlib.suppress(FileNotFoundError):
                os.unlink(temporary)  # noqa: PTH108
            raise
    except OSError as error:
        raise OutsideError(f"the file cannot be written: {error.strerror}", "", Place(str(path))) from None


@contextlib.contextmanager
def locked(path: Path, state_folder: Path, seconds: float = 20) -> Iterator[None]:
    """Hold a lock on `path` against other runs of Ombix; waits up to `seconds`. Raises OutsideError."""
    from filelock import FileLock, Timeout

    name = hashlib.blake2b(str(path.resolve()).encode(), digest_size=12).hexdigest()
    folder = state_folder / "locks"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        lock = FileLock(folder / f"{name}.lock", timeout=seconds)
        lock.acquire()
    except Timeout:
        raise OutsideError(
            "another run of Ombix is changing this file", "Wait until it has ended.", Place(str(path))
        ) from None
    except OSError as error:
        raise OutsideError(f"a lock cannot be taken: {error.strerror}", place=Place(str(folder))) from None
    try:
        yield
    finally:
        lock.release()


class Journal:
    """What was written, so that it can be taken back: the texts before each change, the newest last."""

    MOST_ENTRIES = 50

    def __init__(self, state_folder: Path) -> None:
        self._folder = state_folder / "changes"

    def write_all(self, command: str, texts: dict[Path, str]) -> None:
        """Write several files as one change that can be taken back as one. Raises OutsideError."""
        before: list[dict[str, str | None]] = []
        for path in texts:
            old = path.read_bytes().decode("utf-8", "surrogateescape") if path.exists() else None
            before.append({"path": str(path.resolve()), "text": old})
        after = {str(path.resolve()): hashlib.blake2b(text.encode()).hexdigest() for path, text in texts.items()}
        entry = {"command": command, "before": before, "after": after}
        self._folder.mkdir(parents=True, exist_ok=True)
        record = self._folder / f"{time.time_ns()}.json"
        write_text(record, json.dumps(entry))
        written: list[Path] = []
        try:
            for path, text in texts.items():
                write_text(path, text)
                written.append(path)
        except BaseException:
            self._restore([row for row in before if Path(str(row["path"])) in {one.resolve() for one in written}])
            record.unlink(missing_ok=True)
            raise
        for old_record in sorted(self._folder.glob("*.json"))[: -self.MOST_ENTRIES]:
            old_record.unlink(missing_ok=True)

    def take_back(self, dry_run: bool = False) -> tuple[str, list[str]] | None:
        """Restore the files of the newest change; the command that made it and the files, or None if there is none.

        Raises InputError when a file was changed since by something else.
        """
        records = sorted(self._folder.glob("*.json")) if self._folder.is_dir() else []
        if not records:
            return None
        entry = json.loads(records[-1].read_text("utf-8"))
        for row in entry["before"]:
            path = Path(row["path"])
            now = path.read_bytes().replace(b"\r\n", b"\n") if path.exists() else b""
            if hashlib.blake2b(now).hexdigest() != entry["after"].get(row["path"]):
                raise InputError(
                    f"the file was changed after “{entry['command']}”", "Undo that change by hand first.",
                    Place(row["path"]),
                )  # fmt: skip
        if not dry_run:
            self._restore(entry["before"])
            records[-1].unlink()
        return entry["command"], [row["path"] for row in entry["before"]]

    @staticmethod
    def _restore(rows: list[dict[str, str | None]]) -> None:
        for row in rows:
            path = Path(str(row["path"]))
            if row["text"] is None:
                path.unlink(missing_ok=True)
            else:
                write_text(path, row["text"])
