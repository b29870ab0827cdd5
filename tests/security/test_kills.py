"""Writing commands killed before each of their calls that change a file, and at random moments; see tools/try_kills.py."""

import random
import sys
import time
from pathlib import Path

import pytest

from ombix.files.writer import Writer
from tests.helpers import ROOT, ombix

sys.path.insert(0, str(ROOT / "tools"))

import try_kills

_SLOW = [("move",), ("narrow",), ("settle", "--rule", "clash", "--draft")]
"""What writes as others do, and takes long; `python tools/try_kills.py` has all."""
ALL = [one for one in (*try_kills.WRITINGS, try_kills.INIT) if not any(one.call[: len(slow)] == slow for slow in _SLOW)]


@pytest.mark.long
@pytest.mark.parametrize("writing", ALL, ids=lambda writing: " ".join(writing.call[:2]))
def test_a_kill_before_any_call_leaves_old_or_new_and_nothing_lying_about(writing: try_kills.Writing) -> None:
    number, was_killed = 0, True
    while was_killed:
        number += 1
        was_killed, wrong = try_kills.fault(writing, try_kills.before_call(number))
        assert wrong == "", f"before call {number}"
    assert number > 6  # it was killed, and more than once


@pytest.mark.long(first=True)
def test_kills_at_random_moments() -> None:
    chance = random.Random(3)
    killed = 0
    for _ in range(30):
        was_killed, wrong = try_kills.fault(chance.choice(ALL), try_kills.after_seconds(chance.uniform(0.0, 0.06)))
        killed += was_killed
        assert wrong == ""
    assert killed


def test_a_workspace_of_which_half_was_taken_back_is_whole_again_before_it_is_read(tmp_path: Path) -> None:
    """An undo that was killed between two files leaves a workspace that nobody can read."""
    place = tmp_path / "place"
    place.mkdir()
    (place / "k.keys.toml").write_text('format = 1\nname = "k"\n[bind.files]\nopen = "F3"\n')
    (place / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n')
    (place / "rc").write_text("bind F5 savefile main\n")
    before = (place / "ombix.toml").read_bytes()
    assert ombix(place, "adopt", "rc", "--editor", "nano", "--name", "pier").status == 0
    (record,) = (tmp_path / ".home-place").rglob("*.done")
    record.rename(record.with_suffix(".undoing"))
    (place / "pier.keys.toml").unlink()
    for call in (("what", "F3"), ("bind", "files.save", "F2", "--dry-run"), ("show",)):
        ran = ombix(place, *call)
        assert ran.status == 0, ran.err
    assert (place / "ombix.toml").read_bytes() == before
    assert not list((tmp_path / ".home-place").rglob("*.undoing"))


def test_the_newest_change_is_taken_back_also_where_the_clock_was_set_back(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder = tmp_path / "place"
    folder.mkdir()
    for number, moment in enumerate((3_000, 1_000, 2_000)):
        monkeypatch.setattr(time, "time_ns", lambda moment=moment: moment * 10**15)
        Writer(tmp_path / "state", folder).change(f"change {number}", lambda n=number: {folder / f"{n}.txt": "x"})
    assert [one.noted.record.command for one in Writer(tmp_path / "state", folder).history()] == [
        "change 2", "change 1", "change 0",
    ]  # fmt: skip
    undone = Writer(tmp_path / "state", folder).undo()
    assert undone is not None and undone.command == "change 2"
