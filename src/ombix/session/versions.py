"""What a keymap was in a version that git keeps: a session on the files of then."""

import os
import subprocess
from collections.abc import Sequence
from pathlib import Path

from ombix.core.errors import InputError, OutsideError, Place
from ombix.session.session import Session
from ombix.store.files import absolute

_SECONDS = 30
_MOST_BYTES = 4 * 1024 * 1024
_QUIET = ("-c", "core.fsmonitor=false", "-c", "core.hooksPath=/dev/null")
"""Nothing that a stranger's repository names is started."""


def at_revision(session: Session, revision: str) -> Session:
    """A session on the same workspace, or file, as git has it in a version. Raises InputError where there is no such one."""
    workspace = session.opener.workspace()
    place = workspace.path if workspace is not None and not session.opener.is_file() else session.opener.folder
    folder = place if place.is_dir() else place.parent
    top = Path(_git(folder, ["rev-parse", "--show-toplevel"], "this is in no repository of git").decode().strip("\n"))
    wanted = ["rev-parse", "--verify", "--quiet", "--end-of-options", f"{revision}^{{commit}}"]
    commit = _git(folder, wanted, f"git knows no version {revision}").decode().strip()
    known = {Path(name) for name in session.files()}
    listed = _git(top, ["ls-tree", "-r", "-z", "-l", "--full-tree", commit], "the version cannot be read").decode(
        "utf-8", "replace"
    )
    texts: dict[str, str] = {}
    for row in filter(None, listed.split("\0")):
        about, _tab, name = row.partition("\t")
        _mode, kind, blob, size = about.split()
        path = Path(absolute(top / name))
        if kind == "blob" and int(size) <= _MOST_BYTES and (path in known or path.suffix == ".toml"):
            data = _git(top, ["cat-file", "blob", blob], "the version cannot be read")
            texts[str(path)] = data.decode("utf-8-sig", "replace")
    return session.with_texts(texts)


def _git(folder: Path, arguments: Sequence[str], wrong: str) -> bytes:
    environment = {**os.environ, "GIT_OPTIONAL_LOCKS": "0", "LC_ALL": "C"}
    try:
        ran = subprocess.run(
            ["git", "-C", str(folder), *_QUIET, *arguments], capture_output=True, timeout=_SECONDS, env=environment,
            stdin=subprocess.DEVNULL, check=False,
        )  # fmt: skip
    except FileNotFoundError:
        raise OutsideError("git is not installed", "Install it, or leave --since out.") from None
    except subprocess.TimeoutExpired:
        raise OutsideError("git does not answer", "", Place(absolute(folder))) from None
    if ran.returncode:
        raise InputError(wrong, "See: git log --oneline", Place(absolute(folder)))
    return ran.stdout
