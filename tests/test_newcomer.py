"""`make demo` as a newcomer runs it: in a copy of the project as it is kept, with an empty home and nobody to answer."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from ombix.cli.demo_command import STEPS
from tests.helpers import ROOT

_NOT_KEPT = shutil.ignore_patterns(
    ".git", ".venv", "__pycache__", "*.egg-info", "build", "dist", ".*_cache", ".hypothesis"
)


@pytest.mark.long(first=True)
def test_make_demo_sets_all_up_and_does_the_whole_job(tmp_path: Path) -> None:
    project, home = tmp_path / "project", tmp_path / "home"
    shutil.copytree(ROOT, project, ignore=_NOT_KEPT)
    home.mkdir()
    kept = {name: value for name, value in os.environ.items() if not name.startswith(("OMBIX", "VIRTUAL_ENV", "MAKE"))}
    way_to_packages = Path.home() / ".config/pip/pip.conf"
    if way_to_packages.is_file():  # it belongs to the machine, not to who works on it
        kept["PIP_CONFIG_FILE"] = str(way_to_packages)
    done = subprocess.run(
        ["make", "demo"], cwd=project, env={**kept, "HOME": str(home)}, stdin=subprocess.DEVNULL, capture_output=True,
        text=True, check=False, timeout=1200,
    )  # fmt: skip
    assert done.returncode == 0, done.stdout + done.stderr
    said = " ".join(done.stdout.split())
    for number, step in enumerate(STEPS, 1):
        assert f" {number}. {step.sentence} " in said
    assert "That is the whole job." in done.stdout
    assert len(done.stdout.splitlines()) <= 420  # with what make says
    left = {str(path.relative_to(home)) for path in home.rglob("*") if path.is_file()}
    assert not {name for name in left if "ombix" in name}, left  # the demo leaves nothing at home


@pytest.mark.parametrize(
    "change", ['arguments=("show", "--file", "nowhere.json")', "status=demo.Status.FOUND", 'arguments=("shwo",)']
)
def test_a_demo_that_goes_otherwise_ends_at_that_step_and_says_so(tmp_path: Path, change: str) -> None:
    program = f"""
import sys
from ombix.cli import demo_command as demo
from ombix.cli.main import main
demo.STEPS = (demo.STEPS[0]._replace({change}), *demo.STEPS[1:])
sys.argv = ["ombix", "demo"]
main()
"""
    done = subprocess.run(
        [sys.executable, "-c", program], cwd=tmp_path, stdin=subprocess.DEVNULL, capture_output=True, text=True,
        check=False,
    )  # fmt: skip
    assert done.returncode == 3
    assert "The demo went otherwise than it should, at step 1." in done.stderr
    assert "2. " not in done.stdout
