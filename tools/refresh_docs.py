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
sys.path.insert(0, str(ROOT))
from tests import warm  # noqa: E402

PAGES = [ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))]
_BLOCK = re.compile(r"^```console\n(.*?)^```$", re.MULTILINE | re.DOTALL)
_FIRST = re.compile(r"<!-- first: (.*?) -->")


_CHANGE = re.compile(r"^([0-9a-f]{6})(?=  \d{4}-\d\d-\d\d )", re.MULTILINE)
_MOMENT = re.compile(r"\d{4}-\d\d-\d\d \d\d:\d\d")
_NAMES = ("3f9c21", "b07d54", "e8a613", "94d2fa", "5c10be", "d7384a")
"""What changes are called on a page, in place of names that are others in each run."""
_USUAL_MOMENT = "2026-06-01 09:00"


_PROGRAMS = ("cat", "head", "sed", "git", "cp")
_GIT = {
    "GIT_CONFIG_NOSYSTEM": "1", "GIT_CONFIG_COUNT": "1", "GIT_CONFIG_KEY_0": "init.defaultBranch", "GIT_CONFIG_VALUE_0": "main",
    **{f"GIT_{who}_{what}": value for who in ("AUTHOR", "COMMITTER") for what, value in (
        ("NAME", "Pier"), ("EMAIL", "pier@example.invalid"), ("DATE", "2026-06-01T09:00:00Z"),
    )},
}  # fmt: skip
"""A repository of which every commit has the same name in each run."""


class _Names:
    """What the changes of one page are called there."""

    def __init__(self) -> None:
        self._shown: dict[str, str] = {}

    def shown(self, text: str) -> str:
        """An output with the page's names and its moment."""
        found = _CHANGE.findall(text)
        for name in reversed(found):  # the oldest change has the first name
            self._shown.setdefault(name, _NAMES[len(self._shown)])
        return _MOMENT.sub(_USUAL_MOMENT, _CHANGE.sub(lambda match: self._shown[match[1]], text))

    def real(self, call: str) -> str:
        """A call with the names of this run."""
        for name, shown in self._shown.items():
            call = call.replace(shown, name)
        return call


def refreshed(text: str) -> str:
    """The page with the real output of its calls."""
    names = _Names()
    with tempfile.TemporaryDirectory(prefix="ombix-docs-") as name:
        folder = Path(name) / "ferry"
        if "<!-- folder: empty -->" in text:
            folder.mkdir()
        else:
            shutil.copytree(ROOT / "src" / "ombix" / "data" / "demo", folder)
        for call in _FIRST.findall(text):
            _run(call, folder)
        return _BLOCK.sub(lambda block: _block(block[1], folder, names), text)


def _block(body: str, folder: Path, names: _Names) -> str:
    lines = []
    for line in body.split("\n"):
        if line.startswith("$ "):
            shown = names.shown("\n".join(_run(names.real(line[2:]), folder)))
            lines += [line, *(shown.split("\n") if shown else [])]
    return "```console\n" + "\n".join(lines) + "\n```"


def _run(call: str, folder: Path) -> list[str]:
    words = shlex.split(call)
    environment = {
        **_GIT, "PATH": os.pathsep.join([str(Path(sys.executable).parent), os.environ["PATH"]]),
        "HOME": str(folder.parent), "OMBIX_HOME": str(folder.parent / "home"),
        "COLUMNS": "80", "LANG": "C.UTF-8", "XKB_DEFAULT_LAYOUT": "us",
    }  # fmt: skip
    if words[0] == "ombix":
        said = warm.together(words[1:], folder, environment)[1]
    elif words[0] in _PROGRAMS:
        said = subprocess.run(
            words, cwd=folder, env=environment, stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, stderr=subprocess.STDOUT,
            text=True, check=False, timeout=300,
        ).stdout  # fmt: skip
    else:
        raise RuntimeError(f"{call} is no call that a page can have")
    if "Traceback" in said:
        raise RuntimeError(f"{call} failed:\n{said}")
    return said.rstrip("\n").split("\n") if said.strip() else []


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
