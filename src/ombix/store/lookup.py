"""The workspace made ready for quick look-ups: its decisions and its actions, kept in the cache folder until one of the
files that they come from changes.

What is kept is what `what` and `how` print, as plain lists, so that a look-up imports next to nothing.
"""

import binascii
import contextlib
import json
import os
from pathlib import Path
from typing import Any

from ombix import __version__

_FORMAT = 6


def recall(part: str, key: str, cache: Path) -> dict[str, Any] | None:
    """What was kept under `key`, or None when there is nothing or one of its files has changed."""
    try:
        with open(_file(part, key, cache), "rb") as stream:
            raw = json.loads(stream.read())
        return raw["content"] if raw["key"] == key and raw["stamp"] == _stamp(raw["files"]) else None
    except (OSError, ValueError, KeyError, TypeError):
        return None


def keep(part: str, key: str, content: dict[str, Any], files: list[str], cache: Path) -> None:
    """Keep what was made from `files`. A cache that cannot be written only costs time."""
    with contextlib.suppress(OSError):
        document = {"key": key, "stamp": _stamp(files), "files": files, "content": content}
        cache.mkdir(parents=True, exist_ok=True)
        file = _file(part, key, cache)
        temporary = f"{file}.{os.getpid()}.tmp"
        with open(temporary, "w", encoding="utf-8") as stream:
            stream.write(json.dumps(document, separators=(",", ":")))
        os.replace(temporary, file)  # noqa: PTH105


def _file(part: str, key: str, cache: Path) -> str:
    return f"{cache}/{part}-{binascii.crc32(key.encode('utf-8', 'surrogateescape')):08x}.json"


def _stamp(files: list[str]) -> str:
    parts = [f"{_FORMAT} {__version__}"]
    for name in files:
        status = os.stat(name)  # noqa: PTH116
        parts.append(f"{status.st_size}.{status.st_mtime_ns}.{status.st_ctime_ns}.{status.st_ino}")
    return " ".join(parts)
