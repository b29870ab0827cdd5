"""Everything ends: damaged files, streams that are gone, signals; in time, and in words. See tools/try_damage.py."""

import os
import random
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from ombix.data.shipped import DATA
from tests.helpers import ROOT, ombix, program

sys.path.insert(0, str(ROOT / "tools"))

import try_damage


def environment(home: Path, **more: str) -> dict[str, str]:
    return {"PATH": os.environ["PATH"], "HOME": str(home), "OMBIX_HOME": str(home), "LANG": "C.UTF-8", **more}


def test_damaged_files_of_every_kind(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    shutil.copytree(DATA / "demo" / "rowboat", tmp_path / "d")
    kinds, whole = try_damage.kinds(tmp_path)
    chance, others = random.Random(41), list(whole.values())
    ends = set()
    for number in range(750):
        kind = kinds[number % len(kinds)]
        data = try_damage.damaged(whole[kind.name], chance, others)
        end, wrong = try_damage.fault(kind, data, tmp_path)
        assert wrong == "", (kind.name, data)
        ends.add(end)
        (tmp_path / kind.file).write_bytes(whole[kind.name])
    assert ends == {"read", "refused"}


@pytest.mark.parametrize(
    "call", [("show",), ("audit",), ("what", "F8"), ("how", "save"), ("show", "--json"), ("--help",)]
)
def test_streams_that_are_closed_full_or_left(ferry: Path, tmp_path: Path, call: tuple[str, ...]) -> None:
    command = f"{program()} {' '.join(call)}"
    for redirection, statuses in (
        (">&-", (0, 1)),
        ("2>&- >/dev/null", (0, 1)),
        ("<&- >/dev/null", (0, 1)),
        (">/dev/full", (3,)),
    ):
        done = subprocess.run(
            f"{command} {redirection}", shell=True, cwd=ferry, env=environment(tmp_path), capture_output=True, text=True,
            timeout=30, check=False,
        )  # fmt: skip
        assert "Traceback" not in done.stderr
        assert done.returncode in statuses, (redirection, done.stderr)
    done = subprocess.run(
        f"{command} | head -c 1 >/dev/null", shell=True, cwd=ferry, env=environment(tmp_path), capture_output=True, text=True,
        timeout=30, check=False,
    )  # fmt: skip
    assert done.stderr == ""


@pytest.mark.parametrize("columns", ["²", "-5", "0", "9" * 30, "x", ""])
def test_odd_widths(ferry: Path, columns: str) -> None:
    assert ombix(ferry, "what", "F8", COLUMNS=columns).status == 0


def test_a_folder_that_is_gone(tmp_path: Path) -> None:
    gone = tmp_path / "gone"
    gone.mkdir()
    done = subprocess.run(
        f"cd {gone}; rmdir {gone}; {program()} show", shell=True, env=environment(tmp_path), capture_output=True, text=True,
        timeout=30, check=False,
    )  # fmt: skip
    assert done.returncode == 3
    assert "is not there any more" in done.stderr


def test_a_fault_of_ombix_itself_is_kept_and_has_a_status_of_its_own(tmp_path: Path) -> None:
    code = """
import sys
from ombix.cli import look_ups, main
def fall(*arguments): raise ZeroDivisionError("x")
look_ups.what = fall
sys.argv = ["ombix", "what", "F8"]
main.main()
"""
    done = subprocess.run(
        [sys.executable, "-c", code], cwd=tmp_path, env=environment(tmp_path / "home"), capture_output=True, text=True,
        timeout=30, check=False,
    )  # fmt: skip
    assert done.returncode == 4
    assert "Traceback" not in done.stderr
    assert "This is a fault in Ombix" in " ".join(done.stderr.split())
    (file,) = (tmp_path / "home" / "state" / "faults").iterdir()
    assert "ZeroDivisionError" in file.read_text()
    assert file.stat().st_mode & 0o077 == 0


def _with_usual_signals() -> None:
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, signal.SIG_DFL)


@pytest.mark.parametrize(("number", "status"), [(signal.SIGINT, 130), (signal.SIGTERM, 143), (signal.SIGHUP, 129)])
def test_a_proof_is_stopped_within_two_seconds_and_leaves_nothing(
    ferry: Path, tmp_path: Path, number: int, status: int
) -> None:
    temporary = tmp_path / "tmp"
    temporary.mkdir()
    assert ombix(ferry, "port", "--to", "pier").status == 1
    with subprocess.Popen(
        [program(), "prove", "--to", "pier"], cwd=ferry, env=environment(tmp_path, TMPDIR=str(temporary)),
        stdout=subprocess.PIPE, stderr=subprocess.PIPE, start_new_session=True,
        preexec_fn=_with_usual_signals,
    ) as process:  # fmt: skip
        deadline = time.monotonic() + 20
        while not list(temporary.glob("ombix-prove-*")) and time.monotonic() < deadline:
            time.sleep(0.02)
        time.sleep(0.3)
        sent = time.monotonic()
        process.send_signal(number)
        process.wait(10)
        assert time.monotonic() - sent < 2
        assert process.returncode == status
    assert list(temporary.iterdir()) == []


def test_conditions_that_are_too_tangled_are_refused_in_bounded_time(tmp_path: Path) -> None:
    """Pairs of facts whose order is the worst there is: a diagram of them doubles with each."""
    place = tmp_path / "place"
    place.mkdir()
    facts = "".join(f'[fact.{side}{number}]\nvalues = ["x", "y"]\n' for side in "ab" for number in range(24))
    condition = " or ".join(f"(a{number} is x and b{number} is x)" for number in range(24))
    (place / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\n')
    (place / "k.keys.toml").write_text(
        f'format = 1\nname = "k"\n{facts}[bind.files]\nsave = {{ press = "F2", where = "{condition}" }}\n'
    )
    start = time.monotonic()
    ran = ombix(place, "show")
    assert time.monotonic() - start < 60
    assert ran.status == 2
    assert "too tangled to be decided" in ran.err


def test_a_huge_description_and_a_form_without_end_are_refused(tmp_path: Path) -> None:
    place = tmp_path / "place"
    (place / "d").mkdir(parents=True)
    (place / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\n[editor.e]\ndialect = "./d"\n')
    (place / "k.keys.toml").write_text('format = 1\nname = "k"\n')
    dialect = place / "d" / "dialect.toml"
    with dialect.open("wb") as file:
        file.truncate(6 * 1024**3)
    assert "at most 4 MB are read" in " ".join(ombix(place, "show", "--editor", "e").err.split())
    dialect.write_text(
        'like = "nano"\nname = "d"\n[[keys.forms]]\nchord = "F{n}"\nwritten = "F{n}"\nnumbers = [1, 1000000000]\n'
    )
    assert "stands for more than" in " ".join(ombix(place, "show", "--editor", "e").err.split())
