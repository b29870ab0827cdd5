"""Runs many writing commands at the same time in one workspace, and looks-ups between them: nothing may be lost.

Usage: python tools/try_at_once.py [EACH]. Prints what was done, and ends with status 1 where something was lost.
"""

import os
import random
import shutil
import subprocess
import sys
import tempfile
import tomllib
from pathlib import Path

from ombix.data.shipped import DATA, Shipped

OMBIX = str(Path(sys.executable).parent / "ombix")


def run_at_once(each: int) -> list[str]:
    """Run as many of each writing command at once; what was lost or went wrong."""
    names = [name for name, action in Shipped().catalogue().actions.items() if not action.arguments][:each]
    calls = [("bind", name, f"Ctrl+K {_letters(index)}") for index, name in enumerate(names)]
    calls += [("unbind", f"Ctrl+L {_letters(index)}") for index in range(each)]
    calls += [("adopt", "desk/bindings.json", "--editor", "desk", "--name", f"layer{index}") for index in range(each)]
    calls += [("port", "--to", "pier", "--output", f"pier{index}.nanorc") for index in range(each)]
    calls += [
        (
            "fold",
            f"all{index}.keys.toml",
            "linux=keyboards/desk.keys.toml",
            "mac=keyboards/drawing-room.keys.toml",
        )
        for index in range(each)
    ]
    looks = [("what", f"Ctrl+K {_letters(index)}") for index in range(each)]
    with tempfile.TemporaryDirectory(prefix="ombix-at-once-") as name:
        folder = Path(name) / "ferry"
        shutil.copytree(DATA / "demo", folder)
        environment = {**os.environ, "OMBIX_HOME": str(Path(name) / "home"), "COLUMNS": "200"}
        mixed = calls + looks
        random.Random(5).shuffle(mixed)
        running = [
            (
                call,
                subprocess.Popen(
                    [OMBIX, *call], cwd=folder, env=environment, stdout=subprocess.PIPE, stderr=subprocess.PIPE
                ),
            )
            for call in mixed
        ]
        faults = []
        for call, process in running:
            _out, err = process.communicate()
            if process.returncode > 1:
                faults.append(f"{' '.join(call)} ended with {process.returncode}: {err.decode()}")
        faults += _lost(folder, names, each)
        # Nothing that was worked out in between is stale now.
        for call, action in zip(looks, names, strict=False):
            said = subprocess.run(
                [OMBIX, *call], cwd=folder, env=environment, capture_output=True, text=True, check=False
            ).stdout
            if action not in said:
                faults.append(f"{' '.join(call)} does not know {action}: {said}")
        return faults


def _lost(folder: Path, names: list[str], each: int) -> list[str]:
    keymap = tomllib.loads((folder / "crew.keys.toml").read_text("utf-8"))
    workspace = tomllib.loads((folder / "ombix.toml").read_text("utf-8"))
    lost = []
    for index, name in enumerate(names):
        domain, _, verb = name.partition(".")
        if keymap["bind"].get(domain, {}).get(verb) != f"Ctrl+K {_letters(index)}":
            lost.append(f"bind {name}")
    for index in range(each):
        if f"Ctrl+L {_letters(index)}" not in keymap.get("unbind", {}):
            lost.append(f"unbind Ctrl+L {_letters(index)}")
        if f"layer{index}.keys.toml" not in workspace["layers"] or not (folder / f"layer{index}.keys.toml").is_file():
            lost.append(f"adopt layer{index}")
        for file in (f"pier{index}.nanorc", f"all{index}.keys.toml"):
            if not (folder / file).is_file():
                lost.append(file)
    if len(workspace["layers"]) != len(set(workspace["layers"])):
        lost.append("a layer stands twice")
    return [f"lost: {one}" for one in lost]


def _letters(number: int) -> str:
    return f"{chr(97 + number // 26 % 26)} {chr(97 + number % 26)}"


def main() -> None:
    """Try it."""
    each = int(sys.argv[1]) if len(sys.argv) > 1 else 50
    faults = run_at_once(each)
    for fault in faults[:20]:
        print(fault)
    print(f"{each} each of bind, unbind, adopt, port, fold and what, at once: {len(faults)} faults")
    sys.exit(1 if faults else 0)


if __name__ == "__main__":
    main()
