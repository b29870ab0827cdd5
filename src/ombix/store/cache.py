"""Keeps what was made from files in the cache folder until one of them changes, comes or goes; imports next to nothing."""

import binascii
import contextlib
import json
import os
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
                raw = json.loads(stream.read())
            return raw["content"] if raw["key"] == key and raw["stamp"] == _stamp(raw["files"]) else None
        except (OSError, ValueError, KeyError, TypeError):
            return None

    def keep(self, part: str, key: str, content: Any, files: Iterable[str]) -> None:
        """Keep what was made from `files`. A cache that cannot be written only costs time."""
        with contextlib.suppress(OSError):
            names = list(files)
            document = {"key": key, "stamp": _stamp(names), "files": names, "content": content}
            os.makedirs(self._folder, exist_ok=True)  # noqa: PTH103
            file = self._file(part, key)
            temporary = f"{file}.{os.getpid()}.tmp"
            with open(temporary, "w", encoding="utf-8") as stream:
                stream.write(json.dumps(document, separators=(",", ":")))
            os.replace(temporary, file)  # noqa: PTH105

    def _file(self, part: str, key: str) -> str:
        return f"{self._folder}/{part}-{binascii.crc32(key.encode('utf-8', 'surrogateescape')):08x}.json"


def _stamp(files: list[str]) -> str:
    parts = [f"{_FORMAT} {__version__}"]
    for name in files:
        try:
            status = os.stat(name)  # noqa: PTH116
            parts.append(f"{status.st_size}.{status.st_mtime_ns}.{status.st_ctime_ns}.{status.st_ino}")
        except OSError:
            parts.append("-")
    return " ".join(parts)
