"""What several tests need: the shipped data, and the built program run as a process."""

import os
import subprocess
import sys
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from ombix.core.conditions import Fact, Facts, Space
from ombix.store import shipped

ROOT = Path(__file__).resolve().parent.parent


def space() -> Space:
    """A fresh space over the shipped facts."""
    return Space(shipped.facts())


SMALL = Facts(
    (
        Fact("pane", ("files", "search", "text")),
        Fact("selection", ("one", "many", "none")),
        Fact("readonly", ("no", "yes")),
        Fact("language", ("python", "lua"), is_open=True),
    )
)


@dataclass(frozen=True)
class Ran:
    """A run of the program."""

    status: int
    out: str
    err: str


@lru_cache(maxsize=1)
def program() -> str:
    """The installed program."""
    return str(Path(sys.executable).parent / "ombix")


def ombix(folder: Path, *arguments: str, columns: int = 80, **environment: str) -> Ran:
    """Run the installed program in a folder, its own folders below it, without a terminal."""
    home = folder.parent / f".home-{folder.name}"
    env = {
        "PATH": os.environ["PATH"], "HOME": str(home), "OMBIX_HOME": str(home), "LANG": "C.UTF-8",
        "COLUMNS": str(columns), **environment,
    }  # fmt: skip
    done = subprocess.run(
        [program(), *arguments], cwd=folder, env=env, capture_output=True, text=True, stdin=subprocess.DEVNULL,
        timeout=120, check=False,
    )  # fmt: skip
    assert "Traceback" not in done.stderr, done.stderr
    return Ran(done.returncode, done.stdout, done.stderr)
