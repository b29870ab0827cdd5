"""What the files of a keymap were in a version that git keeps."""

import os
import subprocess
from collections.abc import Iterable, Sequence
from pathlib import Path

from ombix.core.errors import InputError, OutsideError, Place
from ombix.session.context import Opener
from ombix.store.files import absolute

_SECONDS = 30
_MOST_BYTES = 4 * 1024 * 1024
_QUIET = ("-c", "core.fsmonitor=false", "-c", "core.hooksPath=/dev/null")
"""Nothing that a stranger's repository names is started."""
_SHUT = {"GIT_OPTIONAL_LOCKS": "0", "GIT_ALLOW_PROTOCOL": "none", "GIT_NO_LAZY_FETCH": "1", "LC_ALL": "C"}
"""What a repository leaves out is not fetched, by whatever command it names for that; no other repository is meant."""


def texts_at(opener: Opener, known: Iterable[str], revision: str) -> dict[str, str]:
    """The texts, by absolute path, that a workspace's or a file's repository has in a version: of the files that are `known` to
    be needed now, and of all that may be then. Raises InputError where there is no such version."""
    workspace = None if opener.is_file() else opener.workspace()
    folder = workspace.path.parent if workspace is not None else opener.folder
    top = Path(_git(folder, ["rev-parse", "--show-toplevel"], "this is in no repository of git").decode().strip("\n"))
    wanted = ["rev-parse", "--verify", "--quiet", "--end-of-options", f"{revision}^{{commit}}"]
    commit = _git(folder, wanted, f"git knows no version {revision}").decode().strip()
    needed = {Path(name) for name in known}
    listed = _git(top, ["ls-tree", "-r", "-z", "-l", "--full-tree", commit], "the version cannot be read").decode(
        "utf-8", "replace"
    )
    texts: dict[str, str] = {}
    for row in filter(None, listed.split("\0")):
        about, _tab, name = row.partition("\t")
        _mode, kind, blob, size = about.split()
        path = Path(absolute(top / name))
        is_small = not size.isdecimal() or int(size) <= _MOST_BYTES  # of what is missing there is no size
        if kind == "blob" and is_small and (path in needed or path.suffix == ".toml"):
            data = _git(top, ["cat-file", "blob", blob], "the version cannot be read")
            texts[str(path)] = data.decode("utf-8-sig", "replace")
    return texts


def _git(folder: Path, arguments: Sequence[str], wrong: str) -> bytes:
    own = {name: value for name, value in os.environ.items() if not name.startswith("GIT_")}
    environment = {**own, **_SHUT}
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
