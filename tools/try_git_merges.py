"""Merges random keymaps through git itself, with the driver killed, missing or failing at random points.

Usage: python tools/try_git_merges.py [COUNT [SEED]]. Whatever becomes of the driver, git commits what both sides meant, or leaves a
conflict that a commit behind it does not pass with one side alone. Prints what happened how often, and ends with status 1 where
that did not hold.
"""

import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import tomli

from ombix.work.versions import versions_questions

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
from ombix.files.merging.file_units import units  # noqa: E402
from ombix.work.versions.git_setup import driver  # noqa: E402
from ombix.workspace.open_workspace import OpenWorkspace  # noqa: E402
from tests.files.merging.keymaps import changed, keymap, written  # noqa: E402

PROGRAM = Path(sys.executable).parent / "ombix"
NAME = "crew.keys.toml"
# How the driver fares: `D` stands for a moment in seconds at which it is ended.
FATES = {
    "as it is": f'exec "{PROGRAM}" "$@"',
    "killed": f'exec timeout -s KILL D "{PROGRAM}" "$@"',
    "ended": f'exec timeout -s TERM D "{PROGRAM}" "$@"',
    "not there": 'exec /nowhere/ombix "$@"',
    "a fault": "exit 4",
    "its shell killed": f'"{PROGRAM}" "$@" & sleep D; kill -9 $! $PPID',
}
WEIGHTS = (3, 8, 3, 1, 1, 2)
SECONDS = 0.6
"""The driver is done by then."""


def git(folder: Path, *arguments: str) -> tuple[int, str]:
    """The status of a call of git, and what it says."""
    environment = {
        "PATH": os.environ["PATH"], "HOME": str(folder.parent), "GIT_CONFIG_NOSYSTEM": "1", "OMBIX_HOME": str(folder.parent / "o"),
        "GIT_AUTHOR_NAME": "pier", "GIT_AUTHOR_EMAIL": "pier@example.invalid", "GIT_COMMITTER_NAME": "pier", "LC_ALL": "C",
        "GIT_COMMITTER_EMAIL": "pier@example.invalid", "GIT_EDITOR": "true",
    }  # fmt: skip
    done = subprocess.run(["git", *arguments], cwd=folder, env=environment, capture_output=True, text=True, check=False)
    return done.returncode, done.stdout + done.stderr


def fault(seed: int) -> tuple[str, str]:
    """What became of one merge, and what is wrong with that; empty for nothing."""
    chance = random.Random(seed)
    base = keymap(chance)
    texts = [written(model, 0) for model in (base, changed(chance, base), changed(chance, base))]
    fate = chance.choices(list(FATES), WEIGHTS)[0]
    place = Path(tempfile.mkdtemp(prefix="ombix-git-"))
    try:
        return _merged(place, texts, fate, FATES[fate].replace("D", f"{chance.random() * SECONDS:.3f}", 1))
    finally:
        shutil.rmtree(place, ignore_errors=True)


def _merged(place: Path, texts: list[str], fate: str, script: str) -> tuple[str, str]:
    folder, program = place / "quay", place / "driver"
    folder.mkdir()
    program.write_text(f"#!/bin/sh\n{script}\n")
    program.chmod(0o755)
    file = folder / NAME
    git(folder, "init", "-q", "-b", "main")
    git(folder, "config", "merge.ombix.driver", driver(str(program)))
    (folder / ".git" / "info").mkdir(exist_ok=True)
    (folder / ".git" / "info" / "attributes").write_text("*.keys.toml merge=ombix\n")
    for branch, text in (("main", texts[0]), ("theirs", texts[2]), ("ours", texts[1])):
        git(
            folder,
            "checkout",
            "-q",
            *(["main"] if branch == "ours" else []),
            *(["-b", branch] if branch != "main" else []),
        )
        file.write_text(text)
        git(folder, "add", "-A")
        git(folder, "commit", "-qm", branch, "--allow-empty")
    hook = folder / ".git" / "hooks" / "pre-commit"
    hook.parent.mkdir(exist_ok=True)
    hook.write_text(f'#!/bin/sh\n"{PROGRAM}" git audit --open || exit 1\n')
    hook.chmod(0o755)
    status, _said = git(folder, "merge", "-q", "-m", "both", "theirs")
    wanted = _wanted(place, texts)
    end = "merged" if status == 0 else "open"
    left = [one.name for one in folder.rglob("*ombix-ours*")] if "kill" not in fate and fate != "ended" else []
    if left:
        return f"{fate}, {end}", f"left lying about: {left}"
    if status:
        if not git(folder, "ls-files", "-u")[1]:
            return f"{fate}, failed", "no conflict is left behind a merge that failed"
        git(folder, "add", "-A")
        if git(folder, "commit", "-qm", "settled by nobody")[0]:
            return f"{fate}, refused", ""
        end = "committed as it was left"
    found = _units(file.read_text())
    sides = [_units(text) for text in texts[1:]]
    if found in sides and found != wanted:
        return f"{fate}, {end}", "one side alone was committed"
    if status == 0 and found != wanted:
        return f"{fate}, {end}", "what was committed is not what both meant"
    return f"{fate}, {end}", ""


def _units(text: str) -> object:
    try:
        return units(tomli.loads(text))
    except ValueError:
        return text


def _wanted(place: Path, texts: list[str]) -> object:
    for name, text in zip("bot", texts, strict=True):
        (place / f"{name}.keys.toml").write_text(text)
    session = OpenWorkspace(folder=str(place), state=str(place / "o"))
    return _units(versions_questions.merge(session, *(f"{name}.keys.toml" for name in "bot")).text)


def main(count: int, seed: int) -> int:
    """Try so many merges; the status to end with."""
    ends: Counter[str] = Counter()
    wrong = 0
    with ThreadPoolExecutor(3) as pool:
        for number, (end, what) in zip(
            range(seed, seed + count), pool.map(fault, range(seed, seed + count)), strict=True
        ):
            ends[end] += 1
            if what:
                wrong += 1
                print(f"seed {number}: {end}: {what}")
    for end, times in sorted(ends.items()):
        print(f"{times:6}  {end}")
    print(f"{count} merges, {wrong} wrong")
    return int(wrong > 0)


if __name__ == "__main__":
    sys.exit(main(int((sys.argv[1:] or ["200"])[0]), int((sys.argv[2:] or ["1"])[0])))
