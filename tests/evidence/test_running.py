"""How long something may take on a machine that has much to do."""

import os
from pathlib import Path
from typing import Any

import pytest

from ombix.evidence import editor_run


def counted(user: int, idle: int, stolen: int) -> str:
    """The first line of proc_stat(5)."""
    return f"cpu  {user} 0 0 {idle} 0 0 0 {stolen} 0 0\ncpu0 1 1 1 1\n"


@pytest.mark.parametrize(
    ("load", "more", "times"),
    [
        (1.0, (100, 100, 0), 1.0),  # two processors, and one process
        (4.0, (200, 0, 0), 2.0),  # two processes for each
        (1.0, (100, 0, 100), 2.0),  # half of the time is another machine's
        (3.0, (100, 0, 100), 3.0),
        (2.0, (10, 0, 190), 4.0),  # no more than four times
        (40.0, (10, 0, 190), 4.0),
        (1.0, (1, 0, 98), 1.0),  # too soon to be told
    ],
)
def test_what_waits_and_what_is_stolen_makes_slow(
    monkeypatch: pytest.MonkeyPatch, load: float, more: tuple[int, int, int], times: float
) -> None:
    says = [counted(1000, 500, 70), counted(1000 + more[0], 500 + more[1], 70 + more[2])]
    monkeypatch.setattr(Path, "read_text", lambda path, *_encoding: says.pop(0) if str(path) == "/proc/stat" else "")
    monkeypatch.setattr(os, "getloadavg", lambda: (load, 0.0, 0.0))
    monkeypatch.setattr(os, "cpu_count", lambda: 2)
    monkeypatch.setattr(editor_run, "_processor", editor_run._Processor())
    assert editor_run.slowness() == pytest.approx(times)


def test_where_nothing_is_counted_nothing_is_slow(monkeypatch: pytest.MonkeyPatch) -> None:
    def nothing(*_given: Any) -> Any:
        raise OSError

    monkeypatch.setattr(Path, "read_text", nothing)
    monkeypatch.setattr(os, "getloadavg", nothing)
    monkeypatch.setattr(editor_run, "_processor", editor_run._Processor())
    assert editor_run.slowness() == 1.0
