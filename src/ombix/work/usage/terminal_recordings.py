"""Recordings of terminals in the open asciicast format, versions 2 and 3: what was pressed in them is counted, and nothing else
is kept.

The format: a header as a JSON object, then lines `[time, kind, data]`, where `i` is input. Times are seconds since the beginning
in version 2, and since the line before in version 3. https://docs.asciinema.org/manual/asciicast/
"""

import json
from collections import Counter
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from ombix.core.errors import InputError, Place
from ombix.core.usage.counts import UseCounts
from ombix.files.disk import absolute
from ombix.files.usage_logs import LogAccount
from ombix.work.usage.watch import WatchedKeys

VERSIONS = (2, 3)
LONGEST_LINE = 1 << 20
_LONG_AGO = 1e11


def read_recording(path: Path, watched: WatchedKeys) -> tuple[UseCounts, LogAccount]:
    """The counts of a recording, and the account of its lines. Raises InputError for what is none."""
    lines, events, back = 1, 0, 0
    left_out: Counter[str] = Counter()
    with path.open("rb") as file:
        start, version = _header(file.readline(LONGEST_LINE), path)
        last = 0.0
        while line := file.readline(LONGEST_LINE):
            if not line.strip():
                continue
            lines += 1
            event = _event(line)
            while not line.endswith(b"\n") and len(line) == LONGEST_LINE:
                line = file.readline(LONGEST_LINE)
            if isinstance(event, str):
                left_out[event] += 1
                continue
            time, kind, data = event
            time = last + time if version == 3 else time
            back += time < last
            if kind == "i":
                idle = max(0.0, time - last)
                if idle > 0.05:
                    watched.pause(int(idle * 1000), start + timedelta(seconds=time))
                watched.note(data.encode("utf-8", "surrogatepass"), start + timedelta(seconds=time))
                events += 1
            else:
                left_out["what the terminal showed" if kind == "o" else "no input"] += 1
            last = time if kind == "i" or version == 3 else last
    watched.pause(60_000, start + timedelta(seconds=last))
    left_out["the header"] += 1
    return watched.taken(), LogAccount(lines, events, left_out, back)


def _header(line: bytes, path: Path) -> tuple[datetime, int]:
    """When a recording began, and its version; where it does not say when, as its file was written last."""
    try:
        header: Any = json.loads(line)
        version = header["version"]
    except (ValueError, TypeError, KeyError):
        version = header = None
    if version not in VERSIONS:
        raise InputError(
            "this is no recording of a terminal that can be read", "It is to be an asciicast, version 2 or 3.",
            Place(absolute(path), 1),
        )  # fmt: skip
    began = header.get("timestamp")
    is_time = isinstance(began, int | float) and not isinstance(began, bool) and 0 <= began < _LONG_AGO
    return datetime.fromtimestamp(began if is_time else path.stat().st_mtime, UTC), version


def _event(line: bytes) -> tuple[float, str, str] | str:
    """The time, kind and data of a line; or why it is none."""
    try:
        event: Any = json.loads(line)
    except (ValueError, RecursionError):
        return "not JSON"
    if not isinstance(event, list) or len(event) != 3:
        return "not an event"
    time, kind, data = event
    is_time = isinstance(time, int | float) and not isinstance(time, bool) and 0 <= time < _LONG_AGO
    if not is_time or not isinstance(kind, str) or not isinstance(data, str):
        return "not an event"
    return float(time), kind, data
