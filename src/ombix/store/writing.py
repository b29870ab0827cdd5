"""The one way to write: a change is locked, decided on what is there then, recorded, and written."""

import contextlib
from collections.abc import Callable, Iterator, Mapping
from functools import cached_property
from pathlib import Path
from typing import NamedTuple

from ombix.core.errors import OutsideError, Place
from ombix.store.files import absolute, write_bytes
from ombix.store.journal import Journal, check_unchanged, restore

LOCK_SECONDS = 20.0

Contents = Mapping[Path, str]
"""Files and the texts that they are to hold."""


class Undone(NamedTuple):
    """A change that was taken back: the command that had made it, and its files."""

    command: str
    files: tuple[Path, ...]


class Writer:
    """Writes the files of one workspace, or of one folder. `home` is that folder: it has a lock and a journal of its own."""

    def __init__(self, state_folder: Path, home: Path) -> None:
        self._state_folder = state_folder
        self._home = home

    @cached_property
    def _journal(self) -> Journal:
        return Journal(self._state_folder, self._home)

    def change(self, command: str, decide: Callable[[], Contents], dry_run: bool = False) -> list[Path]:
        """Write what `decide` says, as one change that can be taken back as one; the files.

        `decide` is called when nobody else can write any more, so it reads what is there then. It may raise: then nothing
        is written, as with `dry_run`. Raises OutsideError.
        """
        if dry_run:
            return list(decide())
        with self._locked():
            contents = {path: _encoded(path, text) for path, text in decide().items()}
            if contents:
                self._write(command, contents)
        return list(contents)

    def _write(self, command: str, contents: dict[Path, bytes]) -> None:
        record = self._journal.begin(command, contents)
        try:
            for path, data in contents.items():
                write_bytes(path, data)
        except BaseException:
            newest = self._journal.newest()
            if newest is not None:
                restore(newest[1].before)
            self._journal.drop(record)
            raise
        self._journal.forget_old()

    def undo(self, dry_run: bool = False) -> Undone | None:
        """Take the newest change back; None where there is none. Raises InputError when a file was changed since."""
        with self._locked():
            newest = self._journal.newest()
            if newest is None:
                return None
            file, record = newest
            check_unchanged(record)
            if not dry_run:
                restore(record.before)
                self._journal.drop(file)
            return Undone(record.command, tuple(one.path for one in record.before))

    @contextlib.contextmanager
    def _locked(self) -> Iterator[None]:
        """Hold the lock of the home folder against other runs of Ombix. Raises OutsideError."""
        import hashlib

        from filelock import FileLock, Timeout

        name = hashlib.blake2b(absolute(self._home.resolve()).encode("utf-8", "surrogateescape"), digest_size=12)
        folder = self._state_folder / "locks"
        try:
            folder.mkdir(parents=True, exist_ok=True)
            lock = FileLock(folder / f"{name.hexdigest()}.lock", timeout=LOCK_SECONDS)
            lock.acquire()
        except Timeout:
            raise OutsideError(
                "another run of Ombix is changing files here", "Wait until it has ended.", Place(absolute(self._home))
            ) from None
        except OSError as error:
            raise OutsideError(f"a lock cannot be taken: {error.strerror}", place=Place(absolute(folder))) from None
        try:
            yield
        finally:
            lock.release()


def _encoded(path: Path, text: str) -> bytes:
    """A text as bytes, with the line ends of the file that it replaces."""
    target = path.resolve()
    if target.is_file():
        with target.open("rb") as old:
            if b"\r\n" in old.read(65536) and "\r\n" not in text:
                text = text.replace("\n", "\r\n")
    return text.encode("utf-8")
