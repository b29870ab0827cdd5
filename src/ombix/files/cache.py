"""Keeps what was made from files in the cache folder until one of them changes, comes or goes.

It imports next to nothing: what is kept is written as Python writes its own compiled modules, for one version of it.
"""

import binascii
import contextlib
import marshal
import os
import sys
from collections.abc import Iterable, Mapping
from typing import Any

from ombix.data.seen import stamp
from ombix.files.private_folders import make_folder, why_not_private
from ombix.version import __version__

_FORMAT = 14


class Cache:
    """A folder of documents, for its owner alone. One that is damaged, cannot be written or is somebody else's only costs
    time."""

    def __init__(self, folder: str) -> None:
        self._folder = folder
        self._is_own = not why_not_private(folder)

    def load(self, name: str) -> Any:
        """What was saved under a name, or None where there is nothing that was written to its end."""
        if not self._is_own:
            return None
        try:
            with open(self._file(name), "rb") as stream:
                data = stream.read()
            return marshal.loads(data[8:]) if data[:8] == _checksum(data[8:]) else None
        except (OSError, ValueError, EOFError, TypeError):
            return None

    def save(self, name: str, value: Any) -> None:
        """Save a value of plain types under a name."""
        if not self._is_own:
            return
        data = marshal.dumps(value)
        with contextlib.suppress(OSError):
            make_folder(self._folder)
            file = self._file(name)
            temporary = f"{file}.{os.getpid()}.tmp"
            with open(os.open(temporary, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as stream:
                stream.write(_checksum(data) + data)
            os.replace(temporary, file)  # noqa: PTH105

    def _file(self, name: str) -> str:
        return f"{self._folder}/{name}.{sys.implementation.cache_tag}"

    # --- answers

    def recall(self, part: str, key: str) -> Any:
        """The answer that was kept under `key`, or None when there is none or one of its files is not what it was."""
        found = self.load(_name(part, key))
        if not isinstance(found, tuple) or len(found) != 4:
            return None
        kept_key, stamps, files, content = found
        return content if kept_key == key and stamps == _stamps(files) else None

    def keep(self, part: str, key: str, content: Any, seen: Mapping[str, str]) -> None:
        """Keep an answer that was made from files, whether they were there or not: `seen` has their stamps from before they
        were read."""
        stamps = [_version(), *seen.values()]
        self.save(_name(part, key), (key, stamps, list(seen), plain(content)))


def _name(part: str, key: str) -> str:
    return f"{part}-{binascii.crc32(key.encode('utf-8', 'surrogateescape')):08x}"


def plain(value: Any) -> Any:
    """Tuples with names, and all that is in them, as plain ones."""
    if isinstance(value, tuple | list):
        return tuple(map(plain, value))
    if isinstance(value, dict):
        return {key: plain(one) for key, one in value.items()}
    return value


def _checksum(data: bytes) -> bytes:
    return b"%08x" % binascii.crc32(data)


def _stamps(files: Iterable[str]) -> list[str]:
    return [_version(), *map(stamp, files)]


def _version() -> str:
    return f"{_FORMAT} {__version__}"
