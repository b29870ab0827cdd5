"""Logs of use: JSON Lines of Ombix's own, and tables with columns that the workspace names. Texts in them are dropped on reading.

A log is read in blocks, so that its size does not matter. Each line is accounted for: it is an event, or it is left out for a
reason that is counted.
"""

import csv
import io
import re
from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import ProcessPoolExecutor
from contextlib import suppress
from datetime import UTC, datetime
from functools import lru_cache
from itertools import pairwise
from os import cpu_count
from pathlib import Path
from typing import Any, BinaryIO, NamedTuple

import msgspec
from msgspec import Struct

from ombix.core.errors import InputError, OutsideError, Place
from ombix.core.usage.counts import BYS, COLUMNS, Gathering, Moment, UseCounts, Used
from ombix.files.disk import absolute

BLOCK = 4 * 1024 * 1024
"""Bytes that are read at once."""
LONGEST_LINE = 64 * 1024
"""Bytes of a line; an event takes some hundred."""
MOST_COLUMNS = 1000
_MOST_TIMES = 1_000_000
MOST_IN_ORDER = 256 * 1024 * 1024
"""Bytes at the end of a file that are read one after the other for runs and slips; what is before them is only counted."""
_PART = 64 * 1024 * 1024
"""Bytes of a file from which on its parts are read by several processes."""


class LoggedUse(Struct, frozen=True):
    """A line of a log.

    `time`: in ISO 8601, or seconds since 1970. `editor`, `platform`: their names. `action`, or the editor's `command`, or `keys`:
    at least one of them. `by`: `keys`, `menu`, `mouse` or `command line`. `mode`: of the editor. `count`: how often. `waited`:
    the keys waited for more that did not come. `typed`: characters that were typed, and nothing else.
    """

    time: str | float = ""
    editor: str = ""
    platform: str = ""
    action: str = ""
    command: str = ""
    keys: str = ""
    by: str = "keys"
    mode: str = ""
    count: int = 1
    waited: bool = False
    typed: int = 0


class LogAccount(NamedTuple):
    """What became of the lines of a log: how many there were, how many of them are events, and the others by the reason why they
    were left out. `back`: how often the clock went back, which changes nothing but the order. `counted`: how many lines at the
    beginning were only counted, with no regard to what came after what."""

    lines: int
    events: int
    left_out: Counter[str]
    back: int
    counted: int = 0

    def plus(self, other: "LogAccount") -> "LogAccount":
        """Both together."""
        return LogAccount(
            self.lines + other.lines, self.events + other.events, self.left_out + other.left_out, self.back + other.back
        )


NO_LINES = LogAccount(0, 0, Counter(), 0)
_ALIKE = re.compile(rb'^\{"time": ?"(\d{4}-\d\d-\d\d)[^"\\\n]*"(.*)$', re.MULTILINE)
"""A line that begins with its time: the day, and what stands behind the time."""
MOST_ALIKE = 100_000
"""Kinds of lines that are kept in memory."""
_DECODER = msgspec.json.Decoder(LoggedUse)


def read_log(path: Path, columns: Mapping[str, str], in_order: bool) -> tuple[UseCounts, LogAccount]:
    """The counts of a log, and the account of its lines. `columns`: what a column is, to its name in the head of a table.
    `in_order`: runs and slips are counted, too. Raises InputError for what is no log, OutsideError where it cannot be read."""
    try:
        if path.suffix == ".csv":
            return _read_table(path, columns)
        size = path.stat().st_size
        if not in_order:
            return _counted(path, size)
        last = max(0, size - MOST_IN_ORDER)
        counts, account = _counted(path, last) if last else (UseCounts(), NO_LINES)
        found, told = _read_part(path, last, size, True)
        counts.add(found)
        return counts, account.plus(told)._replace(counted=account.lines)
    except OSError as error:
        raise OutsideError(f"the log cannot be read: {error.strerror}", "", Place(absolute(path))) from None


# --- JSON Lines


def _counted(path: Path, size: int) -> tuple[UseCounts, LogAccount]:
    """The beginning of a file without regard to the order, a large one by several processes."""
    if size < 2 * _PART:
        return _read_part(path, 0, size, False)
    workers = min(cpu_count() or 1, max(1, size // _PART))
    bounds = [size * part // workers for part in range(workers + 1)]
    counts, account = UseCounts(), NO_LINES
    with ProcessPoolExecutor(workers) as pool:
        for part in [pool.submit(_read_part, path, *pair, False) for pair in pairwise(bounds)]:
            found, told = part.result()
            counts.add(found)
            account = account.plus(told)
    return counts, account


def _read_part(path: Path, start: int, end: int, in_order: bool) -> tuple[UseCounts, LogAccount]:
    """The lines that begin in a part of a file."""
    counting = _Counting(in_order)
    with path.open("rb") as file:
        for block in _blocks(file, start, end, counting.leave_out):
            counting.count(block)
    return counting.done()


def _blocks(file: BinaryIO, start: int, end: int, leave_out: Callable[[str], None]) -> Iterator[bytes]:
    """Blocks of whole lines: those that begin between two places. Lines that are too long are left out."""
    file.seek(max(0, start - 1))
    if start and file.read(1) != b"\n":
        while (rest := file.readline(BLOCK)) and not rest.endswith(b"\n"):
            pass
    at = file.tell()
    left = b""
    while at < end:
        data = file.read(min(BLOCK, end - at))
        if not data:
            break
        at += len(data)
        if at >= end and not data.endswith(b"\n"):
            data += file.readline(LONGEST_LINE + 1)
        head, newline, left_now = (left + data).rpartition(b"\n")
        if newline:
            yield head + newline
        left = left_now
        if len(left) > LONGEST_LINE:
            leave_out("longer than 64 KiB")
            left = b""
            while (rest := file.readline(BLOCK)) and not rest.endswith(b"\n"):
                pass
            at = file.tell()
    if left:
        yield left


class _Counting:
    """Counts the lines of blocks."""

    def __init__(self, in_order: bool) -> None:
        self._gathering = Gathering()
        self._in_order = in_order
        self._left_out: Counter[str] = Counter()
        self._lines = self._events = self._back = 0
        self._last = ""
        self._alike: Counter[tuple[bytes, bytes]] = Counter()

    def leave_out(self, why: str) -> None:
        """Account for a line that is none."""
        self._lines += 1
        self._left_out[why] += 1

    def count(self, block: bytes) -> None:
        """Count whole lines. Lines that are the same but for the time of day are read once."""
        if not self._in_order:
            found = _ALIKE.findall(block)
            if len(found) == block.count(b"\n") + (not block.endswith(b"\n")):
                self._alike.update(found)
                if len(self._alike) > MOST_ALIKE:
                    self._count_alike()
                return
        events, faults = _decoded(block)
        for event in events:
            self._lines += 1
            self._in_turn(event)
        for why in faults:
            self.leave_out(why)

    def _count_alike(self) -> None:
        for (day, rest), times in self._alike.items():
            events, faults = _decoded(b'{"time":"%s"%s\n' % (day, rest))
            for event in events:
                self._in_turn(event, times)
            for why in faults:
                self._left_out[why] += times
            self._lines += times
        self._alike.clear()

    def _in_turn(self, one: LoggedUse, alike: int = 1) -> None:
        moment = moment_of(one)
        if isinstance(moment, str):
            self._left_out[moment] += alike
            return
        self._events += alike
        if isinstance(one.time, str) and one.time:
            self._back += one.time < self._last
            self._last = one.time
        if self._in_order:
            self._gathering.note(moment)
        else:
            self._gathering.tally(moment, alike)

    def done(self) -> tuple[UseCounts, LogAccount]:
        """The counts, and the account of all lines."""
        self._count_alike()
        return self._gathering.counts, LogAccount(self._lines, self._events, self._left_out, self._back)


def _decoded(block: bytes) -> tuple[list[LoggedUse], list[str]]:
    """The events of lines, and why others are none."""
    with suppress(msgspec.DecodeError, UnicodeDecodeError):
        return _DECODER.decode_lines(block), []
    events, faults = [], []
    for line in filter(bytes.strip, block.split(b"\n")):
        try:
            events.append(_DECODER.decode(line))
        except (msgspec.ValidationError, UnicodeDecodeError):
            faults.append("not an event")
        except msgspec.DecodeError:
            faults.append("not JSON")
    return events, faults


_BYS = frozenset(BYS)


def moment_of(one: LoggedUse) -> Moment | str:
    """What an event says; or why it says nothing."""
    day = _day(one.time)
    if not day:
        return "no time" if one.time in ("", None) else "a time that is none"
    if not 0 < one.count <= _MOST_TIMES or not 0 <= one.typed <= _MOST_TIMES:
        return "a count that is none"
    if one.by not in _BYS:
        return "a way that is none"
    used = Used(day, one.editor, one.platform, one.action, one.command, one.keys, one.by, one.mode)
    if one.typed:
        return Moment(used, _seconds(one.time), one.typed, "typed")
    if not used.what:
        return "no action"
    return Moment(used, _seconds(one.time), one.count, "wait" if one.waited else "use")


def _day(time: str | float) -> str:
    """The day of a time as it is written; of seconds, that in UTC. Empty where it is none."""
    if isinstance(time, str):
        return time[:10] if _is_day(time[:10]) else ""
    return _day_number(int(time // 86400)) if 0 <= time < 1e11 else ""


@lru_cache(4096)
def _is_day(text: str) -> bool:
    try:
        datetime.strptime(text, "%Y-%m-%d")
    except ValueError:
        return False
    return True


@lru_cache(4096)
def _day_number(days: int) -> str:
    return datetime.fromtimestamp(days * 86400, UTC).date().isoformat()


def _seconds(time: str | float) -> float:
    if not isinstance(time, str):
        return float(time)
    try:
        found = datetime.fromisoformat(time)
    except ValueError:
        return -1.0
    return found.timestamp() if found.tzinfo else found.replace(tzinfo=UTC).timestamp()


# --- tables


def _read_table(path: Path, columns: Mapping[str, str]) -> tuple[UseCounts, LogAccount]:
    counting = _Counting(in_order=True)
    with path.open("rb") as file:
        head = file.readline(LONGEST_LINE + 1)
        if len(head) > LONGEST_LINE or head.count(b",") >= MOST_COLUMNS:
            raise InputError(
                f"the table has more than {MOST_COLUMNS} columns, or a head of more than 64 KiB", "Take the others out.",
                Place(absolute(path), 1),
            )  # fmt: skip
        names = next(csv.reader([head.decode("utf-8-sig", "replace")]), [])
        wanted = {name: columns.get(name, name) for name in COLUMNS}
        places = {name: names.index(column) for name, column in wanted.items() if column in names}
        missing = [column for name, column in columns.items() if name in wanted and column not in names]
        if missing or not {"action", "command", "keys"} & set(places):
            said = f"a column {missing[0]}" if missing else "a column for the action, the command or the keys"
            raise InputError(
                f"the table has not {said}", f"It has {', '.join(names)[:200]}; say in ombix.toml what they are, in [use.columns].",
                Place(absolute(path), 1),
            )  # fmt: skip
        while line := file.readline(LONGEST_LINE + 1):
            if len(line) > LONGEST_LINE:
                counting.leave_out("longer than 64 KiB")
                while line and not line.endswith(b"\n"):
                    line = file.readline(BLOCK)
                continue
            _count_row(line, places, counting)
    return counting.done()


def _count_row(line: bytes, places: Mapping[str, int], counting: _Counting) -> None:
    if not line.strip():
        return
    try:
        row = next(csv.reader(io.StringIO(line.decode("utf-8"))), [])
    except (UnicodeDecodeError, csv.Error):
        counting.leave_out("not a row")
        return
    values: dict[str, Any] = {name: row[at].strip() for name, at in places.items() if at < len(row)}
    if len(row) <= max(places.values()):
        counting.leave_out("too few columns")
        return
    if "count" in values:
        values["count"] = int(values["count"]) if values["count"].isascii() and values["count"].isdigit() else 0
    counting.count(msgspec.json.encode({"by": "keys", **{k: v for k, v in values.items() if v != ""}}) + b"\n")
