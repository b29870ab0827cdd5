"""What the files of a keymap were in the versions that git keeps: in a commit, and in what is staged."""

import os
import subprocess
from collections.abc import Iterable, Iterator, Sequence
from functools import cached_property
from pathlib import Path
from typing import NamedTuple

from ombix.core.errors import InputError, OutsideError, Place
from ombix.files.disk import absolute
from ombix.workspace.context import Opener

STAGED = ":staged"
"""The version that the next commit would have."""
_SECONDS = 30
_MOST_BYTES = 4 * 1024 * 1024
_QUIET = ("-c", "core.fsmonitor=false", "-c", "core.hooksPath=/dev/null", "-c", "log.showSignature=false")
"""Nothing that a stranger's repository names is started."""
_SHUT = {"GIT_OPTIONAL_LOCKS": "0", "GIT_ALLOW_PROTOCOL": "none", "GIT_NO_LAZY_FETCH": "1", "LC_ALL": "C"}
"""What a repository leaves out is not fetched, by whatever command it names for that; no other repository is meant."""

Texts = dict[str, str | None]
"""Absolute path to the text of a file; None where there was none."""


class Commit(NamedTuple):
    """A commit: its name in full and for people, who wrote it, when (as ISO 8601), and the first line of what is said of it."""

    id: str
    short: str
    author: str
    date: str
    subject: str


class Repository:
    """A repository of git, looked at with everything shut that it could start."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    @cached_property
    def top(self) -> Path:
        """The folder of the working tree. Raises InputError where there is no repository, or no tree."""
        inside = self.ask(["rev-parse", "--is-inside-work-tree"]).decode().strip()
        if inside != "true":
            raise InputError(
                "this repository has no working tree", "Look at a clone of it.", Place(absolute(self.folder))
            )
        return Path(self.ask(["rev-parse", "--show-toplevel"]).decode().strip("\n"))

    def commit(self, revision: str) -> str:
        """The name of a version in full. Raises InputError where there is none."""
        wanted = ["rev-parse", "--verify", "--quiet", "--end-of-options", f"{revision}^{{commit}}"]
        return self.ask(wanted, f"git knows no version {revision}").decode().strip()

    def texts(self, version: str, known: Iterable[str]) -> Texts:
        """The texts in a version: of the files that are `known` to be needed now, and of all that may be then. Raises InputError
        where there is no such version, or where a merge is not finished in what is staged."""
        needed = {Path(name) for name in known}
        found: Texts = {str(path): None for path in needed if path.is_relative_to(self.top)}
        for path, blob, size in self._listed(version):
            if size <= _MOST_BYTES and (path in needed or path.suffix == ".toml"):
                data = self.ask(["cat-file", "blob", blob], "the version cannot be read", self.top)
                found[str(path)] = data.decode("utf-8-sig", "replace")
        return found

    def _listed(self, version: str) -> Iterator[tuple[Path, str, int]]:
        """The files of a version, each with what names its contents, and how large these are (0: not told)."""
        if version == STAGED:
            yield from self._staged()
            return
        arguments = ["ls-tree", "-r", "-z", "-l", "--full-tree", self.commit(version)]
        listed = self.ask(arguments, "the version cannot be read", self.top).decode("utf-8", "surrogateescape")
        for row in filter(None, listed.split("\0")):
            about, _tab, name = row.partition("\t")
            _mode, kind, blob, size = about.split()
            if kind == "blob":
                yield Path(absolute(self.top / name)), blob, int(size) if size.isdecimal() else 0

    def _staged(self) -> Iterator[tuple[Path, str, int]]:
        listed = self.ask(["ls-files", "-s", "-z", "--full-name"], "what is staged cannot be read", self.top)
        for row in filter(None, listed.decode("utf-8", "surrogateescape").split("\0")):
            about, _tab, name = row.partition("\t")
            _mode, blob, stage = about.split()
            if stage != "0" and name.endswith(".toml"):
                raise InputError(
                    f"a merge is not finished: {name} has two versions", "Settle it, and stage it: git add",
                    Place(absolute(self.top / name)),
                )  # fmt: skip
            yield Path(absolute(self.top / name)), blob, 0

    def has_commits(self) -> bool:
        """Whether there is a commit to look at."""
        try:
            self.commit("HEAD")
        except InputError:
            return False
        return True

    def history(self, paths: Iterable[str], revision: str = "HEAD") -> list[tuple[str, tuple[str, ...]]]:
        """The commits that changed files, the newest first, each with those of them that it comes from."""
        names = [
            f":(literal,top){Path(path).relative_to(self.top)}" for path in paths if Path(path).is_relative_to(self.top)
        ]
        if not names:
            return []
        arguments = ["rev-list", "--parents", "--full-history", self.commit(revision), "--", *names]
        listed = self.ask(arguments, "the history cannot be read", self.top).decode()
        rows = [row.split() for row in listed.splitlines()]
        return [(row[0], tuple(row[1:])) for row in rows]

    def about(self, commit: str) -> Commit:
        """What is to be said of a commit."""
        form = "%H%x00%h%x00%an%x00%aI%x00%s"
        told = self.ask(["show", "-s", f"--format={form}", "--no-notes", commit], "the commit cannot be read", self.top)
        return Commit(*told.decode("utf-8", "replace").strip("\n").split("\0"))

    def ask(
        self, arguments: Sequence[str], wrong: str = "", folder: Path | None = None, none: bytes | None = None
    ) -> bytes:
        """What git says. Raises InputError with what is `wrong` (empty: that there is no repository) where it fails; `none` is the
        answer then, where it is given."""
        own = {name: value for name, value in os.environ.items() if not name.startswith("GIT_") or name in _KEPT}
        here = folder or self.folder
        try:
            ran = subprocess.run(
                ["git", "-C", str(here), *_QUIET, *arguments], capture_output=True, timeout=_SECONDS,
                env={**own, **_SHUT}, stdin=subprocess.DEVNULL, check=False,
            )  # fmt: skip
        except FileNotFoundError:
            raise OutsideError("git is not installed", "Install it first.") from None
        except subprocess.TimeoutExpired:
            raise OutsideError("git does not answer", "", Place(absolute(here))) from None
        if ran.returncode:
            if none is not None:
                return none
            if not wrong:
                raise InputError("this is in no repository of git", "Begin one with: git init", Place(absolute(here)))
            raise InputError(wrong, "See: git log --oneline", Place(absolute(here)))
        return ran.stdout


_KEPT = ("GIT_INDEX_FILE", "GIT_CONFIG_GLOBAL", "GIT_CONFIG_NOSYSTEM")
"""What git itself tells a hook, and where a user's own configuration is."""


def repository_of(opener: Opener) -> Repository:
    """The repository of a workspace, or of the folder of the call."""
    workspace = None if opener.is_file() else opener.workspace()
    return Repository(workspace.path.parent if workspace is not None else opener.folder)


def texts_at(opener: Opener, known: Iterable[str], revision: str) -> Texts:
    """The texts of a workspace's files in a version; see `Repository.texts`."""
    return repository_of(opener).texts(revision, known)
