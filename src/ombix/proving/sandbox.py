"""Shuts a program in: no network, nothing to write to but a folder of its own, no process that outlives it, and limits."""

import functools
import os
import shutil
import subprocess
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


class Sandbox(NamedTuple):
    """How a program is shut in: what is put before its command, where `{home}` is the folder that is its own; and that
    in words."""

    words: tuple[str, ...]
    title: str

    def around(self, command: Sequence[str], home: Path) -> list[str]:
        """The command, shut in."""
        return [*(word.replace("{home}", str(home)) for word in self.words), *command]


_NAMESPACES = (
    (
        ("bwrap", "--ro-bind", "/", "/", "--dev", "/dev", "--proc", "/proc", "--tmpfs", "/run", "--tmpfs", "/tmp",
         "--tmpfs", "/var/tmp",
         "--bind", "{home}", "{home}", "--chdir", "{home}", "--unshare-all", "--die-with-parent", "--cap-drop", "ALL", "--"),
        "by bwrap: no network, and nothing to write to but a folder of its own",
    ),
    (
        ("unshare", "--user", "--map-root-user", "--net", "--pid", "--ipc", "--uts", "--mount-proc", "--fork",
         "--kill-child", "--"),
        "by unshare: no network, and no process that outlives it; files are not shut off",
    ),
)  # fmt: skip
"""Ways to shut a program off, the best first."""


@functools.lru_cache(maxsize=1)
def best_sandbox() -> Sandbox:
    """The best that this machine has; found out once, by trying."""
    limits = _limits()
    for words, title in _NAMESPACES:
        program = find_program(words[0])
        if program is None:
            continue
        found = Sandbox((program, *words[1:], *limits), f"{title}{', with limits' if limits else ''}")
        if _works(found):
            return found
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


def _works(sandbox: Sandbox) -> bool:
    program = find_program("true")
    if program is None:
        return False
    try:
        done = subprocess.run(
            sandbox.around([program], Path.home()), stdin=subprocess.DEVNULL, capture_output=True, timeout=_TRY_SECONDS,
            check=False,
        )  # fmt: skip
    except (OSError, subprocess.TimeoutExpired):
        return False
    return done.returncode == 0
