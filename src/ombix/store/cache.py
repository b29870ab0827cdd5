"""Keeps what was made from files in the cache folder until one of them changes, comes or goes.

It imports next to nothing: what is kept is written as Python writes its own compiled modules, for one version of it.
"""

import binascii
import contextlib
import marshal
import os
import sys
from collections.abc import Iterable
from typing import Any

from ombix.version import __version__

_FORMAT = 7


class Cache:
    """A folder of documents, each with the files that it was made from, whether they were there or not."""

    def __init__(self, folder: str) -> None:
        self._folder = folder

    def recall(self, part: str, key: str) -> Any:
        """What was kept under `key`, or None when there is nothing or one of its files is not what it was."""
        try:
            with open(self._file(part, key), "rb") as stream:
                data = stream.read()
            if data[:8] != _checksum(data[8:]):
                return None  # it was not written to its end
            kept_key, stamp, files, content = marshal.loads(data[8:])
            return content if kept_key == key and stamp == _stamp(files) else None
        except (OSError, ValueError, EOFError, TypeError):
            return None

    def keep(self, part: str, key: str, content: Any, files: Iterable[str]) -> None:
        """Keep what was made from `files`. A cache that cannot be written only costs time."""
        with contextlib.suppress(OSError):
            names = list(files)
            data = marshal.dumps((key, _stamp(names), names, plain(content)))
            os.makedirs(self._folder, exist_ok=True)  # noqa: PTH103
            file = self._file(part, key)
            temporary = f"{file}.{os.getpid()}.tmp"
            with open(temporary, "wb") as stream:
                stream.write(_checksum(data) + data)
            os.replace(temporary, file)  # noqa: PTH105

    def _file(self, part: str, key: str) -> str:
        return f"{self._folder}/{part}-{binascii.crc32(key.encode('utf-8', 'surrogateescape')):08x}.{sys.implementation.cache_tag}"


def plain(value: Any) -> Any:
    """Tuples with names, and all that is in them, as plain ones."""
    if isinstance(value, tuple | list):
        return tuple(map(plain, value))
    if isinstance(value, dict):
        return {key: plain(one) for key, one in value.items()}
    return value


def _checksum(data: bytes) -> bytes:
    return b"%08x" % binascii.crc32(data)


def _stamp(files: list[str]) -> str:
    parts = [f"{_FORMAT} {__version__}"]
    for name in files:
        try:
            status = os.stat(name)  # noqa: PTH116
            parts.append(f"{status.st_size}.{status.st_mtime_ns}.{status.st_ctime_ns}.{status.st_ino}")
        except OSError:
            parts.append("-")
    return " ".join(parts)
