"""Files on disk: read within bounds, written whole or not at all."""

import contextlib
import os
import stat
from collections.abc import Mapping
from pathlib import Path

from ombix.core.errors import InputError, OutsideError, Place

MAX_FILE_SIZE = 32 * 1024 * 1024
"""Bytes. 100,000 bindings take about 10 MB; a larger file is not a keymap."""

UTF_8 = ("utf-8",)


class Files:
    """Reads files, and notes which it was asked for: `seen` has the absolute path of each, in that order.

    `texts` are texts by absolute path that stand for what is on the disk: those of files that were not saved yet.
    """

    def __init__(self, texts: Mapping[str, str] | None = None) -> None:
        self.seen: dict[str, None] = {}
        self._texts = dict(texts or {})

    def read_text(self, path: Path, encodings: tuple[str, ...] = UTF_8) -> str:
        """The text of a file, a byte-order mark taken off. Raises InputError or OutsideError with the reason.

        It is UTF-8; where another encoding comes after it, that is tried for what is not.
        """
        name = absolute(path)
        self.seen[name] = None
        if name in self._texts:
            return self._texts[name]
        return decoded(read_bytes(path), name, encodings)

    def is_file(self, path: Path) -> bool:
        """Whether there is such a file."""
        name = absolute(path)
        self.seen[name] = None
        return name in self._texts or path.is_file()


def absolute(path: Path | str) -> str:
    """The absolute path of a file, symbolic links left as they are."""
    return os.path.abspath(path)  # noqa: PTH100 (this one takes `..` out)


def read_bytes(path: Path) -> bytes:
    """What a file holds. Raises InputError or OutsideError with the reason."""
    place = Place(absolute(path))
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
        return path.read_bytes()
    except FileNotFoundError:
        raise InputError("there is no such file", "Check the name, or the folder you are in.", place) from None
    except PermissionError:
        raise OutsideError("the file cannot be read", "Check its permissions.", place) from None
    except OSError as error:
        raise OutsideError(f"the file cannot be read: {error.strerror}", place=place) from None


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


def write_bytes(path: Path, data: bytes, mode: int | None = None) -> None:
    """Write a file whole or not at all: into a new file beside it, which then takes its place.

    A symbolic link stays one; permissions are those of `mode`, or stay as they were. Raises OutsideError.
    """
    import tempfile

    target = path.resolve()
    try:
        if mode is None:
            mode = stat.S_IMODE(target.stat().st_mode) if target.exists() else 0o666 & ~_umask()
        target.parent.mkdir(parents=True, exist_ok=True)
        handle, temporary = tempfile.mkstemp(dir=target.parent, prefix=f".{target.name}.")
        try:
            with os.fdopen(handle, "wb") as new:
                new.write(data)
                new.flush()
                os.fsync(new.fileno())
            os.chmod(temporary, mode)  # noqa: PTH101
            os.replace(temporary, target)  # noqa: PTH105
        except BaseException:
            with contextlib.suppress(FileNotFoundError):
                os.unlink(temporary)  # noqa: PTH108
            raise
    except OSError as error:
        raise OutsideError(f"the file cannot be written: {error.strerror}", "", Place(absolute(path))) from None


def _umask() -> int:
    """The permissions that new files do not get."""
    mask = os.umask(0o077)
    os.umask(mask)
    return mask
