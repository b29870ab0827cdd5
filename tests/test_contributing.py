"""The recipes of CONTRIBUTING.md, each followed to the letter in a copy of the project."""

import os
import re
import shutil
import subprocess
import sys
from pathlib import Path
from typing import NamedTuple

import pytest

from tests import warm
from tests.helpers import ROOT

TEXT = (ROOT / "CONTRIBUTING.md").read_text("utf-8")
BLOCK = re.compile(
    r"(?ms)^(?:(?P<say>(?:At the end of|In )[^\n]*):\n\n)?(?P<fence>`{3,})(?P<kind>\w+)\n(?P<body>.*?)^(?P=fence)$"
)
PLACE = re.compile(
    r"(?:At the end of|In the new file|In) `(?P<file>[^`]+)`(?:, (?P<side>behind|before) `(?P<line>.+)`)?"
)


class Step(NamedTuple):
    """A change of a file in words, with what is written; or commands, where `say` is empty."""

    say: str
    body: str


def recipes() -> dict[str, list[Step]]:
    """Title to the steps below it."""
    parts = re.split(r"(?m)^## (.+)$", TEXT)[1:]
    return {
        title: [Step(found["say"] or "", found["body"]) for found in BLOCK.finditer(body)]
        for title, body in zip(parts[::2], parts[1::2], strict=True)
    }


RECIPES = recipes()


def test_there_is_a_recipe_for_each_thing_that_is_added() -> None:
    said = " ".join(RECIPES).lower()
    for thing in (
        "an action",
        "an effect",
        "a rule",
        "an editor",
        "a form",
        "a layout",
        "a platform",
        "a terminal",
        "a command",
    ):
        assert thing in said
    assert all(any(step.say for step in steps) and any(not step.say for step in steps) for steps in RECIPES.values())


@pytest.fixture(scope="module")
def project(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A copy of the project as it stands, without what was made from it; the recipes are followed in it one after the other."""
    copy = tmp_path_factory.mktemp("project") / "copy"
    left_out = shutil.ignore_patterns(".git", ".venv", "__pycache__", ".*_cache", ".hypothesis")
    shutil.copytree(ROOT, copy, ignore=left_out)
    (copy / ".venv").symlink_to(ROOT / ".venv")
    return copy


def follow(step: Step, project: Path) -> None:
    """Change a file as a step says."""
    place = PLACE.fullmatch(step.say)
    assert place, step.say
    file = project / place["file"]
    if step.say.startswith("In the new file"):
        assert not file.exists()
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_text(step.body, "utf-8")
        return
    text = file.read_text("utf-8")
    if place["line"] is None:
        file.write_text(
            f"{text.rstrip()}\n\n{step.body}" if file.suffix != ".toml" or step.body[0] == "[" else text + step.body,
            "utf-8",
        )
        return
    line = f"{place['line']}\n"
    assert text.count(line) == 1, (place["line"], text.count(line))
    apart = "\n\n" if step.body.startswith("def ") else ""
    new = line + step.body if place["side"] == "behind" else step.body + apart + line
    file.write_text(text.replace(line, new), "utf-8")


def run(words: str, project: Path) -> None:
    """Run a command in the copy. Raises AssertionError where it fails."""
    folder = Path(sys.executable).parent
    environment = {**os.environ, "PYTHONPATH": str(project / "src"), "PATH": f"{folder}:{os.environ['PATH']}"}
    for name in (warm._SHARED, "PYTEST_XDIST_WORKER"):  # which are of the project itself
        environment.pop(name, None)
    called = re.sub(r"^ombix\b", "python -m ombix", words).replace("-m pytest", "-m pytest -p no:cacheprovider")
    ran = subprocess.run(
        called, shell=True, cwd=project, env=environment, capture_output=True, text=True, stdin=subprocess.DEVNULL
    )
    assert ran.returncode == 0, f"{words}\n{ran.stdout[-3000:]}\n{ran.stderr[-2000:]}"


@pytest.mark.long(first=True)
def test_the_recipes_work_as_they_stand(project: Path) -> None:
    for steps in RECIPES.values():
        for step in steps:
            if step.say:
                follow(step, project)
                continue
            for command in step.body.strip().split("\n"):
                run(command, project)
    # What is added is in the form that all is in.
    for words in ("ruff check .", "ruff format --check .", "mypy"):
        run(words, project)
