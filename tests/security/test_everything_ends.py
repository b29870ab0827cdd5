"""Everything ends: damaged files, streams that are gone, signals; in time, and in words. See tools/try_damage.py."""

import os
import random
import resource
import shutil
import signal
import string
import subprocess
import sys
import time
from pathlib import Path

import pytest

from ombix.data.shipped import DATA
from tests.helpers import ROOT, ombix, others_long, program

sys.path.insert(0, str(ROOT / "tools"))

import try_damage


def _worked() -> float:
    """The seconds that the programs run so far have worked; what else the machine does is not in them."""
    spent = resource.getrusage(resource.RUSAGE_CHILDREN)
    return spent.ru_utime + spent.ru_stime


def environment(home: Path, **more: str) -> dict[str, str]:
    return {"PATH": os.environ["PATH"], "HOME": str(home), "OMBIX_HOME": str(home), "LANG": "C.UTF-8", **more}


@pytest.mark.long
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
    "call",
    others_long(
        [("show",), ("audit",), ("what", "F8"), ("how", "save"), ("show", "--json"), ("--help",)],
        ("show",),
        ("--help",),
    ),
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
from ombix.cli import main
from ombix.work.look import lookup_console as look_ups
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


def _workspace_with_condition(place: Path, names: list[str], condition: str) -> None:
    place.mkdir()
    facts = "".join(f'[fact.{name}]\nvalues = ["x", "y"]\n' for name in names)
    (place / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\n')
    (place / "k.keys.toml").write_text(
        f'format = 1\nname = "k"\n{facts}[bind.files]\nsave = {{ press = "F2", where = "{condition}" }}\n'
    )


@pytest.mark.parametrize("command", ["show", "audit"])
def test_facts_that_belong_together_are_asked_for_together(tmp_path: Path, command: str) -> None:
    """Pairs of facts declared in the worst order there is: a diagram in that order doubles with each of them."""
    names = [f"{side}{number}" for side in "ab" for number in range(24)]
    _workspace_with_condition(
        tmp_path / "place", names, " or ".join(f"(a{number} is x and b{number} is x)" for number in range(24))
    )
    start = _worked()
    ran = ombix(tmp_path / "place", command)
    assert _worked() - start < 30
    assert ran.status in (0, 1)
    assert "not decided" not in ran.out + ran.err
    if command == "show":
        assert "save" in ran.out.lower()


@pytest.mark.long
@pytest.mark.parametrize(
    ("command", "status"),
    [
        (("audit",), 1),
        (("bind", "files.save", "F3"), 0),
        *(
            pytest.param(*one, marks=pytest.mark.every_pair)
            for one in ((("show",), 0), (("what", "F2"), 1), (("port", "--to", "nano"), 2))
        ),
    ],
)
def test_conditions_that_are_too_tangled_are_not_decided_in_bounded_time(
    tmp_path: Path, command: tuple[str, ...], status: int
) -> None:
    """No order of the facts makes this one small. It is left out, and its place is said; a new entry in its place mends it."""
    draw = random.Random(7)
    names = [f"f{number}" for number in range(60)]
    clauses = [" and ".join(f"{name} is x" for name in draw.sample(names, 3)) for _ in range(150)]
    place = tmp_path / "place"
    _workspace_with_condition(place, names, " or ".join(f"({clause})" for clause in clauses))
    before = (place / "k.keys.toml").read_bytes()
    start = _worked()
    ran = ombix(place, *command)
    assert _worked() - start < 60
    assert ran.status == status
    assert "not decided" in ran.out + ran.err
    assert "k.keys.toml:" in ran.out + ran.err
    assert ((place / "k.keys.toml").read_bytes() == before) == (command[0] != "bind")
    assert ("Mended: unknown" in ran.out) == (command[0] == "bind")


_LINES = {
    "nano": ("", "bind M-A savefile main\n"),
    "kakoune": ("", "map global normal a ':w<ret>'\n"),
    "ex": ("", "map q{n} :w\x16\r\n"),
    "joe": (":main\n", "save\t^K {n}\n"),
    "micro": ("{\n", '"<Ctrl-x>{n}": "Save",\n'),
    "tarn": ('<tarn use="mine"><shore name="mine" over="brook">', '<ripple by="ctrl {n}" stirs="keep"/>\n'),
    "heddle": ("", '[[shed.cloth]]\ntreadle = "ctrl~k {n}"\nlifts = "repeat-row"\n'),
    "oxbow": ("(reach calm\n", '(stroke "space {n}" twin-row)\n'),
}


@pytest.mark.parametrize("editor", others_long(_LINES, "nano", "ex", "tarn"))
def test_a_file_of_four_megabytes_is_refused_soon(tmp_path: Path, editor: str) -> None:
    head, line = _LINES[editor]
    file = tmp_path / "keys"
    pieces = [head]
    size = number = 0
    while size < 4 * 1024 * 1024:
        pieces.append(
            line.replace("{n}", " ".join(string.ascii_lowercase[number // 26**power % 26] for power in range(4)))
        )
        size += len(pieces[-1])
        number += 1
    file.write_text("".join(pieces))
    start = _worked()
    ran = ombix(tmp_path, "show", "--file", str(file), "--editor", editor)
    assert _worked() - start < 12  # aim: 4 s on a machine that does nothing else
    assert ran.status == 2
    assert "which is more than is read" in " ".join(ran.err.split())
    assert "keys:" in ran.err


def test_files_that_read_each_other_in_a_widening_tree_end(tmp_path: Path) -> None:
    """Each file reads the next one twice: two to the power of twenty readings."""
    for number in range(20):
        (tmp_path / f"k{number}").write_text(f"source k{number + 1}\nsource k{number + 1}\nmap q{number} :w\n")
    (tmp_path / "k20").write_text("map g :w\n")
    start = _worked()
    ran = ombix(tmp_path, "adopt", "k0", "--editor", "ex", "--json")
    assert _worked() - start < 20
    assert ran.status in (0, 1, 2)
    assert "Traceback" not in ran.err


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


def test_bytes_that_are_no_text_in_a_call(tmp_path: Path) -> None:
    (tmp_path / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\n')
    (tmp_path / "k.keys.toml").write_text('format = 1\nname = "k"\n[bind.files]\nsave = "F2"\n')
    env = environment(tmp_path / "home")
    for call in (
        ["unbind", "F5", "--why", b"a\xffb"],
        ["bind", "files.open", "F5", "--where", b"a\xff"],
        ["what", b"\xff"],
    ):
        ran = subprocess.run([program(), *call], cwd=tmp_path, env=env, capture_output=True, check=False)
        assert ran.returncode == 2, ran.stderr
        assert b"Traceback" not in ran.stderr and b"fault in Ombix" not in ran.stderr


def test_a_group_of_a_layout_with_a_number_of_5000_digits(tmp_path: Path) -> None:
    (tmp_path / "x.xkb").write_text(f'xkb_symbols "x" {{ key <AC01> {{ symbols[Group{"9" * 5000}] = [ a, A ] }}; }};\n')
    ran = ombix(tmp_path, "layouts", "x.xkb")
    assert ran.status == 2 and "no group with so large a number" in ran.err


def test_a_file_that_breaks_off_is_answered_in_every_form(tmp_path: Path) -> None:
    place = tmp_path / "place"
    shutil.copytree(DATA / "demo", place)
    whole = (place / "crew.keys.toml").read_text()
    for length in range(100, len(whole), len(whole) // 12):
        (place / "crew.keys.toml").write_text(whole[:length])
        for form in ("sarif", "junit", "annotations", "markdown", "json"):
            assert ombix(place, "audit", "--format", form).status in (1, 2)
