"""The one way to write: locked, decided on what is there then, noted, written, and the note closed.

What is written lies inside the workspace's folder, or where a user said on the command line; links are followed first.
"""

import contextlib
import os
import stat
from collections.abc import Callable, Iterable, Iterator, Mapping
from functools import cached_property
from pathlib import Path
from typing import Literal, NamedTuple

from ombix.core.errors import InputError, OutsideError, Place
from ombix.files.change_folder import digest
from ombix.files.disk import absolute, file_before, is_torn, write_file
from ombix.files.journal import ChangedFile, Journal, NotedRecord, Record, differing
from ombix.files.line_merge import Collision, merge, without_lines
from ombix.files.private_folders import make_private

LOCK_SECONDS = 120.0
_MARK = b"\xef\xbb\xbf"

Contents = Mapping[Path, str | bytes | None]
"""Files and what they are to hold: a text, which gets the line ends of the file that it replaces, or bytes as they are. A
byte-order mark stays in both. None: the file goes."""


class Undone(NamedTuple):
    """A change that was taken back: the command that had made it, and its files."""

    command: str
    files: tuple[Path, ...]
    was_skipped: bool = False
    """Whether the change was only forgotten, and its files left as they are."""
    was_merged: bool = False
    """Whether what was changed since in the same files was kept."""


class TakeBackPlan(NamedTuple):
    """How a file of a change would be taken back: made what it was (`restore`), with what was changed since kept (`merge`: then
    `data` is what it would be), or not, for it collides with that at a line."""

    path: Path
    how: Literal["restore", "merge", "collides"]
    data: bytes | None = None
    line: int = 0


class RecordedChange(NamedTuple):
    """A change that can be taken back, and how each of its files would be."""

    noted: NotedRecord
    plans: list[TakeBackPlan]


class Writer:
    """Writes the files of one workspace, or of one folder. `home` is that folder: it has a lock and a journal of its own.

    `given` are files that the user named as places to write to, wherever they are. `say` is told what was left in the
    middle by an earlier run.
    """

    def __init__(
        self, state_folder: Path, home: Path, given: Iterable[Path] = (), say: Callable[[str], None] = lambda text: None
    ) -> None:
        self._state_folder = state_folder
        self._home = home.resolve()
        self._given = {_real(path) for path in given}
        self._say = say

    @cached_property
    def _journal(self) -> Journal:
        return Journal(self._state_folder, self._home)

    def change(self, command: str, decide: Callable[[], Contents], dry_run: bool = False) -> list[Path]:
        """Write what `decide` says, as one change that can be taken back as one; the files.

        `decide` is called when nobody else can write any more, so it reads what is there then. It may raise: then nothing
        is written, as with `dry_run`. Raises InputError for a place that is not to be written to, and OutsideError.
        """
        if dry_run:
            contents = decide()
            for path in contents:
                self._check(path, _real(path))
            return list(contents)
        with self._locked():
            self._finish_interrupted()
            wanted = dict(decide())
            contents_by_file = {self._checked(path): _encoded(path, text) for path, text in wanted.items()}
            if contents_by_file:
                self._write(command, contents_by_file)
        return list(wanted)

    def recover(self) -> None:
        """Bring to an end what earlier runs left in the middle; nothing, where another run is writing just now."""
        from filelock import Timeout

        try:
            with self._locked(seconds=0):
                self._finish_interrupted()
        except OutsideError as error:
            if not isinstance(error.__cause__, Timeout):
                raise

    def history(self) -> list[RecordedChange]:
        """The changes that can be taken back, the newest first, and how each could be."""
        with self._locked():
            self._finish_interrupted()
            return [
                RecordedChange(one, [_take_back_plan(file) for file in one.record.files if self._is_shown(file.path)])
                for one in self._journal.all()
            ]

    def _is_shown(self, path: Path) -> bool:
        """Whether a file is one of the user's, and not a note of Ombix's own."""
        return not path.is_relative_to(self._state_folder.resolve())

    def undo(self, name: str = "", dry_run: bool = False, force: bool = False, skip: bool = False) -> Undone | None:
        """Take a change back, the newest or that of a name; None where there is none.

        What was changed since in the same files stays, where it does not collide with that. Raises InputError where it does:
        with `force` the files are made what they were before, with `skip` the change is forgotten, and they stay as they are.
        """
        with self._locked():
            self._finish_interrupted()
            noted = self._named(name) if name else self._newest(skip)
            if noted is None:
                return None
            files = tuple(file.path for file in noted.record.files if self._is_shown(file.path))
            if skip:
                if not dry_run:
                    self._journal.drop(noted)
                return Undone(noted.record.command, files, True)
            plans = [_take_back_plan(file) for file in noted.record.files]
            is_merged = not force and any(plan.how == "merge" for plan in plans)
            if not force:
                _check_plans(noted, plans)
            for one in noted.record.files:
                real = _real(one.path)
                # What was written to was no link: one that stands there now leads to something else.
                self._check(one.path, real, is_known=real == one.path)
            if dry_run:
                return Undone(noted.record.command, files, was_merged=is_merged)
            if is_merged:
                contents: dict[Path, bytes | None] = {plan.path: plan.data for plan in plans if plan.data is not None}
                whole = [file for file in noted.record.files if file.path not in contents]
                contents |= {one.path: one.before.data for one in whole if one.before.data is not None}
                self._journal.drop(self._write(f"undo {noted.record.command}", contents))
                for one in whole:  # those that the change had made go
                    _restore(one)
                self._journal.drop(noted)
            else:
                self._take_back(self._journal.mark(noted, "undoing"))
            return Undone(noted.record.command, files, was_merged=is_merged)

    def _named(self, name: str) -> NotedRecord:
        known = self._journal.all()
        alike = [one for one in known if one.name.startswith(name)]
        if len(alike) == 1:
            return alike[0]
        what = f"there is no change {name}" if not alike else f"several changes begin with {name}"
        raise InputError(what, "See: ombix undo --list")

    # --- pieces of a change

    def _write(self, command: str, contents: Mapping[Path, bytes | None]) -> NotedRecord:
        noted = self._journal.begin(command, contents)
        try:
            for folder in noted.record.folders:
                folder.mkdir(exist_ok=True)
            for file in noted.record.files:
                if file.after is None:
                    file.path.unlink(missing_ok=True)
                else:
                    write_file(file.path, file.after, file.temporary, file.before)
        except OSError as error:
            self._take_back(noted)
            place = Place(absolute(error.filename)) if isinstance(error.filename, str) else None
            raise OutsideError(f"the file cannot be written: {error.strerror}", "Nothing was changed.", place) from None
        except BaseException:
            self._take_back(noted)
            raise
        noted = self._journal.mark(noted, "done")
        self._journal.forget_old()
        return noted

    def _take_back(self, noted: NotedRecord) -> None:
        """Make the files of a change what they were before it, and forget it."""
        for file in noted.record.files:
            _restore(file)
        for folder in reversed(noted.record.folders):
            with contextlib.suppress(OSError):
                folder.rmdir()  # where it is empty
        self._journal.drop(noted)

    def _finish_interrupted(self) -> None:
        """Bring to an end what earlier runs left in the middle: a change that is whole on the disk is kept, another one is
        taken back; a file that something else has changed since stays as it is."""
        for noted in self._journal.unfinished():
            command = noted.record.command
            if noted.state == "begun" and not differing(noted.record.files):
                self._journal.mark(noted, "done")
                self._say(f"An interrupted run had written all of “{command}”; it is kept, and can be taken back.")
                continue
            foreign = _take_back_own(noted.record)
            for folder in reversed(noted.record.folders):
                with contextlib.suppress(OSError):
                    folder.rmdir()
            self._journal.drop(noted)
            self._say(f"An interrupted run had begun “{command}”; what it had written was taken back.")
            for path in foreign:
                self._say(f"{path} was changed since by something else, and stays as it is.")

    def _newest(self, skip: bool) -> NotedRecord | None:
        try:
            return self._journal.newest()
        except InputError as error:
            if not skip or error.place is None:
                raise
            file = Path(error.place.file)
            return NotedRecord(file, "done", Record("a change whose note is damaged", (), ()))

    # --- places

    def _checked(self, path: Path) -> Path:
        """The real file behind a path. Raises InputError where it is not to be written to."""
        real = _real(path)
        self._check(path, real)
        return real

    def _check(self, path: Path, real: Path, is_known: bool = False) -> None:
        """Raise InputError for a file that is not to be written, with what it really is where a link leads to it."""
        place = Place(absolute(real))
        led = f", where {absolute(path)} leads" if absolute(path) != absolute(real) else ""
        if not is_known and real not in self._given and not real.is_relative_to(self._home):
            raise InputError(
                f"this is outside of the workspace's folder{led}, and is not written",
                "Name the file on the command line, or move it into the folder.", place,
            )  # fmt: skip
        if not is_known and real not in self._given and ".git" in real.relative_to(self._home).parts:
            # Its hooks and settings start programs, and none of it comes with what somebody cloned.
            raise InputError("this is in git's own folder, and is not written", "Name another file.", place)
        try:
            status = real.lstat()
        except FileNotFoundError:
            return
        except OSError as error:
            raise OutsideError(f"the file cannot be written: {error.strerror}", place=place) from None
        if not stat.S_ISREG(status.st_mode):
            raise InputError("this is not an ordinary file, and is not written", "Name another one.", place)
        if not status.st_mode & 0o222 or not os.access(real, os.W_OK):
            raise InputError("the file is read-only, and is not written", "Make it writable first: chmod u+w.", place)

    @contextlib.contextmanager
    def _locked(self, seconds: float = LOCK_SECONDS) -> Iterator[None]:
        """Hold the lock of the home folder against other runs of Ombix. Raises OutsideError."""
        from filelock import FileLock, Timeout

        name = digest(absolute(self._home).encode("utf-8", "surrogateescape"))
        folder = self._state_folder / "locks"
        for each in (self._state_folder, folder):
            make_private(absolute(each))
        try:
            lock = FileLock(folder / f"{name}.lock", timeout=seconds, mode=0o600, poll_interval=0.1)
            lock.acquire()
        except Timeout as busy:
            raise OutsideError(
                "another run of Ombix is changing files here", "Wait until it has ended.", Place(absolute(self._home))
            ) from busy
        except OSError as error:
            raise OutsideError(f"a lock cannot be taken: {error.strerror}", place=Place(absolute(folder))) from None
        try:
            yield
        finally:
            lock.release()


def _take_back_plan(one: ChangedFile) -> TakeBackPlan:
    """How a file of a change would be taken back now."""
    now, before = file_before(one.path).data, one.before.data
    if now in (one.after, before):
        return TakeBackPlan(one.path, "restore")
    if now is None or one.after is None:
        return TakeBackPlan(one.path, "collides")
    merged = merge(one.after, now, before) if before is not None else Collision(0, (), ())
    if isinstance(merged, Collision):
        # Programs write their settings anew, in another order: there lines are known by what they say.
        moved = without_lines(before or b"", one.after, now) if one.path.suffix != ".toml" else None
        if moved is None:
            return TakeBackPlan(one.path, "collides", line=merged.line)
        merged = moved
    return (
        TakeBackPlan(one.path, "merge", merged)
        if _can_be(one.path, merged)
        else TakeBackPlan(one.path, "collides", line=1)
    )


def _can_be(path: Path, data: bytes) -> bool:
    """Whether a file can hold this: of TOML, whether it is still such."""
    if path.suffix != ".toml":
        return True
    import tomli

    with contextlib.suppress(ValueError):
        tomli.loads(data.decode("utf-8-sig"))
        return True
    return False


def _check_plans(noted: NotedRecord, plans: Iterable[TakeBackPlan]) -> None:
    """Raise InputError for the first file that cannot be taken back with what was changed since kept."""
    for plan in plans:
        if plan.how == "collides":
            raise InputError(
                f"the file was changed after “{noted.record.command}”, and in the same lines",
                "Take it back all the same with --force, or forget that change with --skip.",
                Place(absolute(plan.path), plan.line, 1 if plan.line else 0),
            )  # fmt: skip


def _restore(one: ChangedFile) -> None:
    """Make a file what it was before a change. Raises OutsideError."""
    before = one.before
    with contextlib.suppress(FileNotFoundError):
        one.temporary.unlink()
    if file_before(before.path) == before:
        return
    try:
        if before.data is None:
            with contextlib.suppress(FileNotFoundError, NotADirectoryError):
                before.path.unlink()
        else:
            before.path.parent.mkdir(parents=True, exist_ok=True)
            write_file(before.path, before.data, one.temporary, before)
    except OSError as error:
        raise OutsideError(
            f"the file cannot be restored: {error.strerror}", "What it held is kept: try ombix undo later.",
            Place(absolute(before.path)),
        ) from None  # fmt: skip


def _take_back_own(record: Record) -> list[Path]:
    """Restore those files of a change that hold what it wrote, or were left in the middle; those that hold something else."""
    foreign = []
    for file in record.files:
        now, before = file_before(file.path).data, file.before.data
        if now in (before, file.after) or (file.after is not None and is_torn(now, before, file.after)):
            _restore(file)
        else:
            with contextlib.suppress(OSError):
                file.temporary.unlink()
            foreign.append(file.path)
    return foreign


def _real(path: Path) -> Path:
    """What a path leads to in the end, whether it is there or not. Raises InputError for links in a circle."""
    try:
        return path.resolve()
    except (OSError, RuntimeError):
        raise InputError(
            "the links of this path lead in a circle", "Name another file.", Place(absolute(path))
        ) from None


def _encoded(path: Path, text: str | bytes | None) -> bytes | None:
    """What a file is to hold, as bytes; None where it goes."""
    if text is None:
        return None
    old = file_before(_real(path)).data or b""
    if isinstance(text, str) and b"\r\n" in old and "\r\n" not in text:
        text = text.replace("\n", "\r\n")
    try:
        data = text.encode("utf-8") if isinstance(text, str) else text
    except UnicodeEncodeError:
        raise InputError(
            "a text has half of a character in it (a lone surrogate), which no file can hold",
            "Look for \\ud800 to \\udfff in what is written.", Place(absolute(path)),
        ) from None  # fmt: skip
    return _MARK + data if old.startswith(_MARK) and not data.startswith(_MARK) else data
