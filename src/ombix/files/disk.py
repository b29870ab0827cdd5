"""Files on disk: read within bounds, written whole or not at all."""

import contextlib
import os
import stat
from collections.abc import Mapping
from pathlib import Path
from typing import NamedTuple

from ombix.core.errors import InputError, OutsideError, Place
from ombix.data.seen import SeenFiles

MAX_FILE_SIZE = 32 * 1024 * 1024
"""Bytes. 100,000 bindings take about 10 MB; a larger file is not a keymap."""
MAX_EDITOR_FILE_SIZE = 8 * 1024 * 1024
"""Bytes of an editor's own file."""
MAX_LAYOUT_SIZE = 4 * 1024 * 1024
"""Bytes of a layout's file."""

UTF_8 = ("utf-8",)


class Files:
    """Reads files, and notes in `seen` which it was asked for.

    `texts` are texts by absolute path that stand for what is on the disk: those of files that were not saved yet, or of another
    version; None: there is no such file.
    """

    def __init__(self, texts: Mapping[str, str | None] | None = None, seen: SeenFiles | None = None) -> None:
        self.seen = SeenFiles() if seen is None else seen
        self._texts = dict(texts or {})

    @property
    def texts(self) -> Mapping[str, str | None]:
        """The texts that stand for files."""
        return self._texts

    def read_text(self, path: Path, encodings: tuple[str, ...] = UTF_8, most: int = MAX_FILE_SIZE) -> str:
        """The text of a file of at most `most` bytes, a byte-order mark taken off. Raises InputError or OutsideError with
        the reason.

        It is UTF-8; where another encoding comes after it, that is tried for what is not.
        """
        name = absolute(path)
        self.seen.note(name)
        if name in self._texts:
            text = self._texts[name]
            if text is None:
                raise InputError("there is no such file in this version", "Check the version.", Place(name))
            if len(text) > most:
                raise _too_large(len(text), most, Place(name))
            return text
        return decoded(read_bytes(path, most), name, encodings)

    def is_file(self, path: Path) -> bool:
        """Whether there is such a file."""
        name = absolute(path)
        self.seen.note(name)
        return self._texts[name] is not None if name in self._texts else path.is_file()


def absolute(path: Path | str) -> str:
    """The absolute path of a file, symbolic links left as they are."""
    return os.path.abspath(path)  # noqa: PTH100 (this one takes `..` out)


def read_bytes(path: Path, most: int = MAX_FILE_SIZE) -> bytes:
    """What a file of at most `most` bytes holds. Raises InputError or OutsideError with the reason."""
    place = Place(absolute(path))
    try:
        status = path.stat()
        if stat.S_ISDIR(status.st_mode):
            raise InputError("this is a folder, not a file", "Name the file in it.", place)
        if not stat.S_ISREG(status.st_mode):
            raise InputError("this is not an ordinary file", "Name a file.", place)
        with path.open("rb") as file:
            data = file.read(most + 1)  # what its size says need not be so
        if len(data) > most:
            raise _too_large(max(status.st_size, len(data)), most, place)
        return data
    except FileNotFoundError:
        raise InputError("there is no such file", "Check the name, or the folder you are in.", place) from None
    except PermissionError:
        raise OutsideError("the file cannot be read", "Check its permissions.", place) from None
    except OSError as error:
        raise OutsideError(f"the file cannot be read: {error.strerror}", place=place) from None


def _too_large(size: int, most: int, place: Place) -> InputError:
    return InputError(
        f"the file has {size / 1e6:.0f} MB; at most {most // 1024 // 1024} MB are read",
        "Check that this is the file you mean.", place,
    )  # fmt: skip


def decoded(data: bytes, file: str, encodings: tuple[str, ...] = UTF_8) -> str:
    """Bytes as text; see `Files.read_text`. Raises InputError with the place of the first fault."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        if len(encodings) > 1 and b"\0" not in data:
            return data.decode(encodings[1])
        line = data.count(b"\n", 0, error.start) + 1
        column = error.start - data.rfind(b"\n", 0, error.start)
        raise InputError("the file is not UTF-8 text", "Save it as UTF-8.", Place(file, line, column)) from None
    if "\0" in text:
        position = text.index("\0")
        line = text.count("\n", 0, position) + 1
        column = position - text.rfind("\n", 0, position)
        raise InputError(
            "the file has a NUL character in it, so it is not text", "Check that this is the file you mean.",
            Place(file, line, column),
        )  # fmt: skip
    return text


# --- writing


class FileBefore(NamedTuple):
    """A file as it was: its bytes, its permissions and its owner (user and group), or None where there was none."""

    path: Path
    data: bytes | None
    mode: int | None = None
    owner: tuple[int, int] | None = None


def file_before(path: Path) -> FileBefore:
    """A file as it is now. Raises OutsideError where it cannot be read."""
    try:
        status = path.stat()
        return FileBefore(path, path.read_bytes(), stat.S_IMODE(status.st_mode), (status.st_uid, status.st_gid))
    except (FileNotFoundError, NotADirectoryError):
        return FileBefore(path, None)
    except OSError as error:
        raise OutsideError(f"the file cannot be read: {error.strerror}", place=Place(absolute(path))) from None


def write_file(path: Path, data: bytes, temporary: Path, before: FileBefore) -> None:
    """Write a file: whole or not at all, into `temporary` beside it, which then takes its place, with the permissions and
    the owner that it had. Raises OSError.

    Where it has other names (hard links), or another owner that cannot be given to a new file, or where nothing can be
    put beside it, it is written in its place.
    """
    mode = before.mode if before.mode is not None else 0o666 & ~_umask()
    if before.data is not None and path.exists() and path.stat().st_nlink > 1:
        _write_in_place(path, data)
        return
    try:
        handle = os.open(temporary, os.O_WRONLY | os.O_CREAT | os.O_EXCL | getattr(os, "O_NOFOLLOW", 0), 0o600)
    except PermissionError:
        if before.data is None:
            raise
        _write_in_place(path, data)
        return
    try:
        with os.fdopen(handle, "wb") as new:
            new.write(data)
            new.flush()
            is_same = before.owner is None or _give_owner(new.fileno(), before.owner)
            if is_same:
                os.chmod(temporary, mode)  # noqa: PTH101
                os.fsync(new.fileno())
        if is_same:
            os.replace(temporary, path)  # noqa: PTH105
        else:
            _write_in_place(path, data)
    finally:
        with contextlib.suppress(OSError):
            os.unlink(temporary)  # noqa: PTH108
    sync_folder(path.parent)


def _give_owner(handle: int, owner: tuple[int, int]) -> bool:
    """Whether a new file has this owner now."""
    if not hasattr(os, "fchown"):
        return True
    status = os.fstat(handle)
    if (status.st_uid, status.st_gid) == owner:
        return True
    try:
        os.fchown(handle, *owner)
    except OSError:
        return False
    return True


def _write_in_place(path: Path, data: bytes) -> None:
    with path.open("r+b") as file:
        file.write(data)
        file.truncate()
        file.flush()
        os.fsync(file.fileno())


def is_torn(now: bytes | None, before: bytes | None, after: bytes) -> bool:
    """Whether a file that was written in its place was left in the middle: it begins with the new and ends with the old."""
    if now is None or before is None:
        return False
    length = 0
    limit = min(len(now), len(after))
    while length < limit and now[length] == after[length]:
        length += 1
    return now[length:] == before[length:]


def write_private(path: Path, data: bytes) -> None:
    """Write a file of Ombix's own, for its owner alone, whole or not at all. Raises OutsideError."""
    temporary = path.with_name(f"{path.name}.{os.getpid()}.tmp")
    try:
        handle = os.open(temporary, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
        with os.fdopen(handle, "wb") as new:
            new.write(data)
            new.flush()
            os.fsync(new.fileno())
        os.replace(temporary, path)  # noqa: PTH105
        sync_folder(path.parent)
    except OSError as error:
        with contextlib.suppress(OSError):
            os.unlink(temporary)  # noqa: PTH108
        raise OutsideError(f"the file cannot be written: {error.strerror}", "", Place(absolute(path))) from None


def sync_folder(folder: Path) -> None:
    """Have the names in a folder on the disk, where the system can be told so."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def _umask() -> int:
    """The permissions that new files do not get."""
    mask = os.umask(0o077)
    os.umask(mask)
    return mask
