"""What several tests need: the shipped data, and the built program run as a process."""

import os
import subprocess
import sys
import tempfile
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from ombix.cli.common import Setting, find_setting, reserved, terminals
from ombix.cli.environment import Environment
from ombix.core.audit import Ground
from ombix.core.conditions import Fact, Facts, Space
from ombix.core.deciding import Policy
from ombix.core.keymap import Keymap
from ombix.core.layouts import Seat
from ombix.data import shipped
from ombix.dialects.loading import dialect, known
from ombix.report.plain import Paper
from ombix.store import keymaps, layouts

ROOT = Path(__file__).resolve().parent.parent


def space() -> Space:
    """A fresh space over the shipped facts."""
    return Space(shipped.facts())


def editors_space() -> Space:
    """A fresh space over the shipped facts and those that single editors know."""
    return Space(shipped.facts().extended([fact for name in known() for fact in dialect(name).facts], []))


REAL = [name for name in known() if not dialect(name).description.simulated]
"""The real editors."""
STAND_INS = [name for name in known() if dialect(name).description.simulated]

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


@lru_cache(maxsize=64)
def setting(workspace: str) -> Setting:
    """The setting of a workspace file with these lines."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        text = f'format = 1\nkeymap = "k.keys.toml"\n{workspace}\n'
        if "platform =" not in workspace.split("[")[0]:
            text = f'platform = "linux"\n{text}'
        (folder / "ombix.toml").write_text(text, "utf-8")
        here = Environment(sys.stdout, sys.stderr, Paper(), Paper(), folder, folder, folder)
        return find_setting(here, None, "", "")


def ground(text: str, policy: Policy | None = None, workspace: str = "", space: Space | None = None) -> Ground:
    """What the audit looks at: a keymap file's text in a workspace with these lines."""
    here = setting(workspace)
    catalogue, facts = shipped.catalogue(), shipped.facts()
    layer = keymaps.read(text, "k.keys.toml", catalogue, facts, lenient=True)
    keymap = Keymap([layer])
    return Ground(
        keymap, here.platform, space or Space(keymap.facts(facts), layer.conditions), catalogue, policy or Policy(),
        seats=here.seats, reserved=reserved(here), terminals=terminals(here),
        platforms=[shipped.platform(name) for name in shipped.platform_names()],
    )  # fmt: skip


def seat(layout: str, platform: str = "linux", keyboard: str = "full") -> Seat:
    """A shipped layout on a shipped keyboard."""
    found = layouts.layout(layout)
    return Seat(found, layouts.keyboard(keyboard, found.shape), shipped.platform(platform))
