"""What several tests need: the shipped data, editors, audit subjects, and the built program run as a process."""

import os
import subprocess
import sys
import tempfile
from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import lru_cache, wraps
from pathlib import Path
from typing import NamedTuple

import pytest

from ombix.core.audit import AuditSubject
from ombix.core.conditions import Fact, Facts, Space
from ombix.core.keymap.bindings import Keymap, Layer
from ombix.core.keymap.deciding import Policy
from ombix.core.pressing.layouts import KeyboardSetup
from ombix.core.pressing.terminals import Terminal
from ombix.data.shipped import Shipped
from ombix.editors.description_loading import Dialects
from ombix.editors.dialect import Dialect
from ombix.editors.editor_porting import Surroundings
from ombix.files import keymap_reading
from ombix.text.effects.examples import examples
from ombix.workspace.context import Context, reserved, terminals
from ombix.workspace.open_workspace import OpenWorkspace
from ombix.workspace.shorter_ways import shorter_ways
from tests import warm

ROOT = Path(__file__).resolve().parent.parent

shipped = Shipped()

_TOLD = {"number": "2", "letter": "a", "character": "(", "name": "a", "text": "=", "direction": "left"}


def told(action: str) -> dict[str, str]:
    """Arguments that an action can be told, by name."""
    return {name: _TOLD[kind] for name, kind in shipped.catalogue().actions[action].arguments.items()}


EXAMPLES = {
    name: found
    for domain in shipped.catalogue().domains
    for name, found in examples(domain, shipped.examples(domain)).items()
}
"""The worked examples of actions, by their names."""
WITH_EFFECT = tuple(sorted(name for name, one in shipped.catalogue().actions.items() if one.effect))
"""The actions that do something to a text with its cursor."""
SECTIONS = (
    ("micro", "buffer"), ("nano", "main"), ("joe", "main"), ("ex", "command"), ("ex", "input"), ("kakoune", "normal"),
    ("kakoune", "insert"), ("dte", "text"), ("mcedit", "editor"), ("geany", "window"), ("mousepad", "window"),
    ("kate", "window"),
)  # fmt: skip
"""The editors that are pressed in, with the sections in which it is sure what commands do to a text."""

DIALECTS = Dialects(shipped)
known = DIALECTS.names
REAL = [name for name in known() if not DIALECTS.load(name).description.simulated]
"""The real editors."""
STAND_INS = [name for name in known() if DIALECTS.load(name).description.simulated]

SMALL = Facts(
    (
        Fact("pane", ("files", "search", "text"), depth=1),
        Fact("selection", ("one", "many", "none")),
        Fact("readonly", ("no", "yes")),
        Fact("language", ("python", "lua"), is_open=True),
    )
)


def dialect(name: str) -> Dialect:
    """An editor that Ombix knows, or one that is described in a folder."""
    return DIALECTS.load(name)


def space() -> Space:
    """A fresh space over the shipped facts."""
    return Space(shipped.facts())


def editors_space() -> Space:
    """A fresh space over the shipped facts and those that single editors know."""
    return Space(shipped.facts().extended([fact for name in known() for fact in dialect(name).facts], []))


def around(states: Space, platform: str = "linux", terminal: str | Terminal = "xterm") -> Surroundings:
    """Where a port is made."""
    found = shipped.terminal(terminal) if isinstance(terminal, str) else terminal
    return Surroundings(shipped.platform(platform), found, states, shipped.catalogue())


def layer_of(text: str, file: str = "k.keys.toml", lenient: bool = False) -> Layer:
    """The layer of a keymap file's text."""
    return keymap_reading.read(text, file, shipped.catalogue(), shipped.facts(), lenient=lenient)


class Ran(NamedTuple):
    """A run of the program."""

    status: int
    out: str
    err: str


MORE = int(os.environ.get("OMBIX_MORE", "1"))
"""How many times as many random cases are tried as usual."""


def a_third(pairs: Iterable[tuple[str, str]]) -> list[object]:
    """Pairs of editors, of which two thirds take long together: each source and each target has some that do not."""
    found = list(dict.fromkeys(pairs))
    sources, targets = (
        {one: number for number, one in enumerate(sorted(set(side)))} for side in zip(*found, strict=True)
    )
    return [
        pytest.param(*pair, marks=[pytest.mark.long] * bool((sources[pair[0]] + targets[pair[1]]) % 3))
        for pair in found
    ]


def others_long(values: Iterable[object], *soon: object) -> list[object]:
    """The values of a parameter, of which all but these take long together."""
    return [pytest.param(one, marks=[pytest.mark.long] * (one not in soon)) for one in values]


def others_in_all(values: Iterable[object], *soon: object) -> list[object]:
    """The values of a parameter, all of which but these are asked in `make test-all`: they ask the same of another editor."""
    return [
        pytest.param(*(one if isinstance(one, tuple) else (one,)), marks=[pytest.mark.every_pair] * (one not in soon))
        for one in values
    ]


def seeds(count: int, at_once: int = 25) -> Callable[[Callable[..., None]], Callable[..., None]]:
    """Run a test for so many seeds, some of them in one; which one it was stands beside what is wrong."""

    def decorated(test: Callable[..., None]) -> Callable[..., None]:
        @wraps(test)
        def of_each(seed: range, **others: object) -> None:
            for one in seed:
                try:
                    test(one, **others)
                except Exception as error:
                    error.add_note(f"seed {one}")
                    raise

        groups = [range(at, min(at + at_once, count * MORE)) for at in range(0, count * MORE, at_once)]
        marked: Callable[..., None] = pytest.mark.parametrize("seed", groups, ids=str)(of_each)
        return marked

    return decorated


def seed() -> int:
    """What random cases are drawn by: the same number in each run, or another one that is told in OMBIX_SEED."""
    return int(os.environ.get("OMBIX_SEED", "20261127"))


@lru_cache(maxsize=1)
def program() -> str:
    """The installed program."""
    return str(Path(sys.executable).parent / "ombix")


def ombix(folder: Path, *arguments: str, columns: int = 80, **environment: str) -> Ran:
    """Run the installed program in a folder, its own folders below it, without a terminal, on a US keyboard."""
    home = folder.parent / f".home-{folder.name}"
    env = {
        "PATH": os.environ["PATH"], "HOME": str(home), "OMBIX_HOME": str(home), "LANG": "C.UTF-8",
        "COLUMNS": str(columns), "XKB_DEFAULT_LAYOUT": "us", **environment,
    }  # fmt: skip
    ran = Ran(
        *(_started if any(name.startswith("PYTHON") for name in environment) else warm.texts)(arguments, folder, env)
    )
    assert "Traceback" not in ran.err, ran.err
    return ran


def _started(arguments: Sequence[str], folder: Path, environment: Mapping[str, str]) -> tuple[int, str, str]:
    """A run of the program from its start: where it finds modules, and how it reads them, is another one's business there."""
    done = subprocess.run(
        [program(), *arguments], cwd=folder, env=environment, capture_output=True, text=True, stdin=subprocess.DEVNULL,
        timeout=600, check=False,
    )  # fmt: skip
    return done.returncode, done.stdout, done.stderr


@lru_cache(maxsize=64)
def opened(workspace: str) -> tuple[OpenWorkspace, Context]:
    """A session on a workspace file with these lines, and its context."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        text = f'format = 1\nkeymap = "k.keys.toml"\n{workspace}\n'
        if "platform =" not in workspace.split("[")[0]:
            text = f'platform = "linux"\n{text}'
        (folder / "ombix.toml").write_text(text, "utf-8")
        (folder / "k.keys.toml").write_text('format = 1\nname = "k"\n', "utf-8")
        session = OpenWorkspace(folder=name)
        return session, session.context()


def subject(text: str, policy: Policy | None = None, workspace: str = "", states: Space | None = None) -> AuditSubject:
    """What the audit looks at: a keymap file's text in a workspace with these lines."""
    session, here = opened(workspace)
    named = here.workspace.editors if here.workspace is not None else {}
    editors = [session.opener.editor(name) for name in named]
    keymap = Keymap([layer_of(text, lenient=True)])
    usual = setup("us", here.platform.name)
    return AuditSubject(
        keymap, here.platform, states or keymap.space(shipped.facts()), shipped.catalogue(), policy or Policy(),
        setups=here.setups, usual_setup=usual, reserved=reserved(here, session.resources),
        terminals=terminals(here, editors, session.resources), platforms=shipped.platforms(),
        one_action_for=lambda macro: shorter_ways(macro, keymap, shipped.catalogue()),
    )  # fmt: skip


def setup(layout: str, platform: str = "linux", keyboard: str = "full") -> KeyboardSetup:
    """A shipped layout on a shipped keyboard."""
    here = shipped.platform(platform)
    found = shipped.layout_on(layout, here)
    return KeyboardSetup(found, shipped.keyboard(keyboard, found.shape), here)
