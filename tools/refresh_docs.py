"""Runs the calls in the documentation and puts their real output below; with --check, only compares.

A page's ```console blocks hold calls, each on a line that begins with "$ ". They run one after the other in a copy of
the demo workspace, or in an empty folder where the page says `<!-- folder: empty -->`; `<!-- first: ombix … -->` runs
before them without being shown.
"""

import os
import re
import shlex
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
PAGES = [ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))]
_BLOCK = re.compile(r"^```console\n(.*?)^```$", re.MULTILINE | re.DOTALL)
_FIRST = re.compile(r"<!-- first: (.*?) -->")


def refreshed(text: str) -> str:
    """The page with the real output of its calls."""
    with tempfile.TemporaryDirectory(prefix="ombix-docs-") as name:
        folder = Path(name) / "ferry"
        if "<!-- folder: empty -->" in text:
            folder.mkdir()
        else:
            shutil.copytree(ROOT / "src" / "ombix" / "data" / "demo", folder)
        for call in _FIRST.findall(text):
            _run(call, folder)
        return _BLOCK.sub(lambda block: _block(block[1], folder), text)


def _block(body: str, folder: Path) -> str:
    lines = []
    for line in body.split("\n"):
        if line.startswith("$ "):
            lines += [line, *_run(line[2:], folder)]
    return "```console\n" + "\n".join(lines) + "\n```"


def _run(call: str, folder: Path) -> list[str]:
    words = shlex.split(call)
    programs = {"ombix": [str(Path(sys.executable).parent / "ombix")], "cat": ["cat"], "head": ["head"]}
    environment = {
        "PATH": os.environ["PATH"], "HOME": str(folder.parent), "OMBIX_HOME": str(folder.parent / "home"),
        "COLUMNS": "80", "LANG": "C.UTF-8", "XKB_DEFAULT_LAYOUT": "us",
    }  # fmt: skip
    done = subprocess.run(
        [*programs[words[0]], *words[1:]], cwd=folder, env=environment, stdin=subprocess.DEVNULL,
        stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, check=False, timeout=300,
    )  # fmt: skip
    if "Traceback" in done.stdout:
        raise RuntimeError(f"{call} failed:\n{done.stdout}")
    return done.stdout.rstrip("\n").split("\n") if done.stdout.strip() else []


def main() -> int:
    """Refresh every page; with --check, say which are out of date and change nothing."""
    stale = []
    for page in PAGES:
        text = page.read_text("utf-8")
        new = refreshed(text)
        if new != text:
            stale.append(page.name)
            if "--check" not in sys.argv:
                page.write_text(new, "utf-8")
    for name in stale:
        print(f"{'out of date' if '--check' in sys.argv else 'refreshed'}: {name}")
    return 1 if stale and "--check" in sys.argv else 0


if __name__ == "__main__":
    sys.exit(main())
