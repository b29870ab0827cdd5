"""What was used, kept by day in a file of SQLite in the user's own folder: counts alone."""

import sqlite3
from collections.abc import Iterator, Sequence
from contextlib import closing, contextmanager
from pathlib import Path

from ombix.core.errors import OutsideError, Place
from ombix.core.usage.counts import UseCounts, Used
from ombix.files.disk import absolute
from ombix.files.private_folders import make_private

_MADE = """
create table if not exists counts (
    kind text not null, day text not null, editor text not null, platform text not null, action text not null,
    command text not null, keys text not null, way text not null, mode text not null, times integer not null,
    primary key (kind, day, editor, platform, action, command, keys, way, mode)
) without rowid;
create table if not exists logs (digest text primary key, name text not null) without rowid;
"""
_ADD = """
insert into counts values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
on conflict do update set times = times + excluded.times
"""
Row = tuple[str, str, str, str, str, str, str, str, str, int]


class UseDays:
    """The counts of all days. Raises OutsideError where the folder is somebody else's, or the file cannot be used."""

    def __init__(self, state_folder: Path) -> None:
        self._folder = state_folder / "use"
        self.file = self._folder / "use.sqlite"

    def add(self, counts: UseCounts, digest: str = "", name: str = "") -> bool:
        """Add counts, all or none; those of a log with its digest, which is added once: whether it was new."""
        with self._opened() as database, database:
            if digest:
                known = database.execute("insert or ignore into logs values (?, ?)", (digest, name)).rowcount
                if not known:
                    return False
            database.executemany(_ADD, _rows(counts))
        return True

    def counts(self, since: str = "", until: str = "") -> UseCounts:
        """The counts of the days from one to another (both as YYYY-MM-DD; empty: all)."""
        found = UseCounts()
        if not self.file.exists():
            return found
        with self._opened() as database:
            rows = database.execute(
                "select * from counts where day >= ? and day <= ? order by kind, day", (since, until or "9999")
            )
            for row in rows:
                _put(found, row)
        return found

    def forget(self, until: str = "") -> int:
        """Forget the days up to one (empty: all), and give the room free; how many days that were."""
        if not self.file.exists():
            return 0
        with self._opened() as database:
            days = database.execute(
                "select count(distinct day) from counts where day <= ?", (until or "9999",)
            ).fetchone()[0]
            with database:
                database.execute("delete from counts where day <= ?", (until or "9999",))
                if not until:
                    database.execute("delete from logs")
            database.execute("vacuum")
        if not until:
            self.file.unlink()
        return int(days)

    @contextmanager
    def _opened(self) -> Iterator[sqlite3.Connection]:
        make_private(absolute(self._folder))
        try:
            with closing(sqlite3.connect(self.file, timeout=30)) as database:
                self.file.chmod(0o600)
                database.executescript(_MADE)
                database.execute("pragma secure_delete = on")
                yield database
        except sqlite3.Error as error:
            raise OutsideError(
                f"what was used cannot be read or kept: {error}", "Begin anew with: ombix use --forget",
                Place(absolute(self.file)),
            ) from None  # fmt: skip


def _rows(counts: UseCounts) -> Iterator[Row]:
    for used, times in counts.used.items():
        yield ("use", *used, times)
    for (day, editor, actions), times in counts.runs.items():
        if times > 1:  # what was done once in a day is no habit, and nobody's business
            yield "run", day, editor, "", "\n".join(actions), "", "", "", "", times
    for (day, editor, keys, what), times in counts.slips.items():
        yield "slip", day, editor, "", what, "", keys, "", "", times
    for (day, editor, keys), times in counts.waits.items():
        yield "wait", day, editor, "", "", "", keys, "", "", times
    for (day, editor), times in counts.typed.items():
        yield "typed", day, editor, "", "", "", "", "", "", times


def _put(found: UseCounts, row: Sequence[object]) -> None:
    kind, day, editor, platform, action, command, keys, way, mode = map(str, row[:9])
    times = int(str(row[9]))
    match kind:
        case "use":
            found.used[Used(day, editor, platform, action, command, keys, way, mode)] += times
        case "run":
            found.runs[day, editor, tuple(action.split("\n"))] += times
        case "slip":
            found.slips[day, editor, keys, action] += times
        case "wait":
            found.waits[day, editor, keys] += times
        case "typed":
            found.typed[day, editor] += times
