"""Shuts a program in: no network, nothing to write to but a folder of its own, no process that outlives it, and limits."""

import functools
import os
import shutil
import subprocess
import tempfile
from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

_TRY_SECONDS = 5.0
_LIMITS = {
    "cpu": 60,  # seconds
    "fsize": 64 * 1024 * 1024,  # bytes of a file
    "data": 2 * 1024 * 1024 * 1024,  # bytes of memory
    "nproc": 2048,
    "nofile": 512,
    "core": 0,
}


_MORE = "{more}"
"""Where a sandbox takes what more is to be seen inside."""


class Sandbox(NamedTuple):
    """How a program is shut in: what is put before its command, where `{home}` is the folder that is its own; that in words;
    and whether it can write nowhere else."""

    words: tuple[str, ...]
    title: str
    shuts_files: bool = False

    def around(self, command: Sequence[str], home: Path) -> list[str]:
        """The command, shut in."""
        return [*(word.replace("{home}", str(home)) for word in self.words if word != _MORE), *command]

    def showing(self, socket: Path) -> "Sandbox":
        """The sandbox with the socket of a display in it."""
        more = ("--ro-bind", str(socket), str(socket))
        words = [inside for word in self.words for inside in (more if word == _MORE else (word,))]
        return self._replace(words=tuple(words))


_READ_ONLY = """
home=$1
shift
mount --bind "$home" "$home" || exit 126
while read -r _ _ _ _ place _; do
    place=$(printf %b "$place")
    case $place in /proc | /proc/*) ;; *) mount -o remount,bind,ro "$place" || exit 126 ;; esac
done < /proc/self/mountinfo
mount -o remount,bind,rw "$home" || exit 126
exec setpriv --bounding-set=-all --inh-caps=-all --no-new-privs -- "$@"
"""
"""For a shell: everything that is mounted becomes read-only but for one folder, and the right to change that is given up."""

_UNSHARE = (
    "unshare", "--user", "--map-root-user", "--net", "--pid", "--ipc", "--uts", "--mount-proc", "--fork", "--kill-child", "--",
)  # fmt: skip


class Way(NamedTuple):
    """A way to shut a program off: the words before its command, what that gives, and whether files are shut off, too."""

    words: tuple[str, ...]
    title: str
    shuts_files: bool


WAYS = (
    Way(
        ("bwrap", "--ro-bind", "/", "/", "--dev", "/dev", "--proc", "/proc", "--tmpfs", "/run", "--tmpfs", "/tmp",
         "--tmpfs", "/var/tmp",
         "--bind", "{home}", "{home}", "--chdir", "{home}", "--unshare-all", "--die-with-parent", "--cap-drop", "ALL",
         _MORE, "--"),
        "by bwrap: no network, and nothing to write to but a folder of its own", True,
    ),
    Way(
        (*_UNSHARE, "/bin/sh", "-c", _READ_ONLY, "sh", "{home}"),
        "by unshare: no network, and nothing to write to but a folder of its own", True,
    ),
    Way(_UNSHARE, "by unshare: no network, and no process that outlives it; files are not shut off", False),
)  # fmt: skip
"""Ways to shut a program off, the best first."""


@functools.lru_cache(maxsize=1)
def best_sandbox() -> Sandbox:
    """The best that this machine has; found out once, by trying."""
    return next((found for way in WAYS if (found := sandbox_of(way)) is not None), limits_only())


def sandbox_of(way: Way) -> Sandbox | None:
    """The sandbox of a way; None where it does not hold here: it is tried, also whether it lets a file be written."""
    program, limits = find_program(way.words[0]), _limits()
    if program is None:
        return None
    found = Sandbox(
        (program, *way.words[1:], *limits), f"{way.title}{', with limits' if limits else ''}", way.shuts_files
    )
    return found if _holds(found, way.shuts_files) else None


def limits_only() -> Sandbox:
    """What is left where a machine has no way to shut a program off."""
    limits = _limits()
    title = "only by limits: no sandbox is installed" if limits else "by nothing: no sandbox is installed"
    return Sandbox(limits, title)


def find_program(name: str) -> str | None:
    """The absolute path of a program; folders of the search path that depend on where one is are passed over."""
    folders = [one for one in os.environ.get("PATH", os.defpath).split(os.pathsep) if os.path.isabs(one)]  # noqa: PTH117
    found = shutil.which(name, path=os.pathsep.join(folders)) if folders else None
    return found if found is not None and os.path.isabs(found) else None  # noqa: PTH117


def _limits() -> tuple[str, ...]:
    program = find_program("prlimit")
    if program is None:
        return ()
    return (program, *(f"--{name}={value}" for name, value in _LIMITS.items()), "--")


def _holds(sandbox: Sandbox, shuts_files: bool) -> bool:
    """Whether a program starts in it, can write in its home, and not beside it where files are to be shut off."""
    shell = find_program("sh")
    if shell is None:
        return False
    with tempfile.TemporaryDirectory(prefix="ombix-sandbox-") as name:
        home, inside, outside = Path(name, "home"), Path(name, "home", "file"), Path(name, "file")
        home.mkdir()
        writes = [shell, "-c", 'echo > "$1" && { echo > "$2" || true; }', "sh", str(inside), str(outside)]
        try:
            done = subprocess.run(
                sandbox.around(writes, home), stdin=subprocess.DEVNULL, capture_output=True, timeout=_TRY_SECONDS,
                check=False,
            )  # fmt: skip
        except (OSError, subprocess.TimeoutExpired):
            return False
        return done.returncode == 0 and inside.exists() and not (shuts_files and outside.exists())
