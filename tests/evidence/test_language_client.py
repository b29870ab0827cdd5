"""kate's own language client with the server: a clash is shown while it is typed, and its quick fix mends the file."""

import contextlib
import json
import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import pytest

from ombix.core.keys.notation import parse
from ombix.evidence.editor_host import plain_keyboard
from ombix.evidence.hidden_display import HiddenScreen, Shot
from tests.helpers import ombix

SECONDS = 60.0
CREW = """\
# Keys of the pier.
format = 1
name = "crew"

[bind.line]
copy-down = "Alt+Y"
delete = "F7"

[bind.comment]
toggle = "Alt+9"
"""
SETTINGS = """\
[General]
Show welcome view for new window=false
[Kate Plugins]
lspclientplugin=true
katefiletreeplugin=false
katefilebrowserplugin=false
kateprojectplugin=false
[lspclient]
AllowedServerCommandLines={command}
"""


def comes(screen: HiddenScreen, is_so: Callable[[], bool], seconds: float) -> bool:
    """Whether something is so within some seconds."""
    deadline = time.monotonic() + seconds
    while not is_so():
        if time.monotonic() > deadline:
            return False
        screen.pump()
        time.sleep(0.2)
    return True


def marked(shot: Shot) -> int:
    """How many pixels have the colour behind a line with an error: light red."""
    pixels = shot.pixels
    return sum(
        1 for at in range(0, len(pixels), 4 * 7)
        if pixels[at + 2] > 248 and 215 < pixels[at + 1] < 240 and 215 < pixels[at] < 240
    )  # fmt: skip


@pytest.mark.long
def test_a_clash_is_shown_and_its_quick_fix_mends_the_file(tmp_path: Path) -> None:
    place, home = tmp_path / "pier", tmp_path / "home"
    place.mkdir()
    (place / "ombix.toml").write_text('format = 1\nkeymap = "crew.keys.toml"\nplatform = "linux"\n')
    file = place / "crew.keys.toml"
    file.write_text(CREW)
    command = [str(Path(sys.executable).parent / "ombix"), "serve"]
    (home / ".config/kate/lspclient").mkdir(parents=True)
    (home / ".config/katerc").write_text(SETTINGS.format(command=" ".join(command)))
    server = {"command": command, "highlightingModeRegex": "^TOML$", "rootIndicationFileNames": ["ombix.toml"]}
    (home / ".config/kate/lspclient/settings.json").write_text(json.dumps({"servers": {"ombix": server}}))
    (home / "run").mkdir(mode=0o700)
    screen = HiddenScreen(tmp_path, plain_keyboard())
    environment = {
        "PATH": os.environ["PATH"], "HOME": str(home), "XDG_CONFIG_HOME": str(home / ".config"), "LANG": "C.UTF-8",
        "XDG_RUNTIME_DIR": str(home / "run"), "DISPLAY": screen.name, "XAUTHORITY": str(screen.authority),
        "QT_QPA_PLATFORM": "xcb",
    }  # fmt: skip
    kate = subprocess.Popen(
        ["dbus-run-session", "kate", "-n", str(file)], env=environment, stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL, start_new_session=True,
    )  # fmt: skip

    def press(*keys: str) -> None:
        for one in keys:
            assert not screen.press(parse(one))
            time.sleep(0.1)
            screen.pump()

    try:
        assert comes(screen, lambda: any("crew.keys.toml" in title for title in screen.titles()), SECONDS)
        before = marked(screen.shot())
        time.sleep(3)
        assert marked(screen.shot()) - before < 50, "something is marked before there is an error"
        for _ in range(4):  # on a machine that is busy a key may come before the text is there
            press("Ctrl+End", "ArrowUp", "End", "ArrowLeft", "Backspace", "Y")
            if comes(screen, lambda: marked(screen.shot()) - before > 300, 15.0):
                break
            press("Escape", "Escape", *["Ctrl+Z"] * 4)
        assert marked(screen.shot()) - before > 300, "the clash is not shown"
        assert file.read_text() == CREW  # it is shown before the file is saved
        for _ in range(5):  # proposals may still cover the text
            time.sleep(1)
            press("Escape", "Escape", "Ctrl+Home", *["ArrowDown"] * 5, "Ctrl+.")
            time.sleep(2)
            press("Escape", "Ctrl+S")
            time.sleep(1)
            if file.read_text() != CREW and ombix(place, "audit", "--rule", "clash").status == 0:
                break
    finally:
        with contextlib.suppress(ProcessLookupError):
            os.killpg(kate.pid, signal.SIGTERM)
        screen.close()
        with contextlib.suppress(ProcessLookupError):
            os.killpg(kate.pid, signal.SIGKILL)
        kate.wait(10)
    assert "Alt+Y" in file.read_text()
    assert '"Alt+9"' not in file.read_text()
    assert ombix(place, "audit", "--rule", "clash").status == 0
