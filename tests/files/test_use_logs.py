"""Logs of use: each line accounted for, whatever is in it; and counts by day, kept and forgotten."""

import json
import stat
from collections import Counter
from pathlib import Path
from random import Random
from typing import Any

import pytest

from ombix.core.errors import InputError, OutsideError
from ombix.core.usage.counts import Gathering, Moment, UseCounts, Used, is_habit, shown_runs
from ombix.files import usage_logs
from ombix.files.usage_days import UseDays
from ombix.files.usage_logs import read_log

DAY = "2026-05-04"


def log(tmp_path: Path, *lines: Any, name: str = "use.jsonl") -> Path:
    file = tmp_path / name
    texts = [line if isinstance(line, bytes) else json.dumps(line).encode() for line in lines]
    file.write_bytes(b"\n".join(texts) + b"\n")
    return file


def event(**fields: Any) -> dict[str, Any]:
    return {"time": f"{DAY}T08:00:00Z", "action": "files.save", **fields}


BAD: dict[str, tuple[bytes, ...]] = {
    "not JSON": (b"\xff\xfe{}", b"nope", b'{"time": "2026-05-04"', b"{'time': 1}", b"x" * 70_000),
    "not an event": (b"[1]", b'{"time":"2026-05-04","action":5}', b'{"time":"2026-05-04","action":"x","count":"many"}'),
    "no time": (b'{"action":"files.save"}', b'{"time":"","action":"files.save"}'),
    "a time that is none": (b'{"time":"2026-13-40","action":"a"}', b'{"time":-5,"action":"a"}', b'{"time":1e300,"action":"a"}'),
    "a count that is none": (b'{"time":"2026-05-04","action":"a","count":0}', b'{"time":1,"action":"a","count":99999999}'),
    "a way that is none": (b'{"time":"2026-05-04","action":"a","by":"nose"}',),
    "no action": (b'{"time":"2026-05-04"}', b'{"time":"2026-05-04","mode":"normal"}'),
}  # fmt: skip


@pytest.mark.parametrize("in_order", [False, True])
def test_each_line_is_accounted_for(in_order: bool, tmp_path: Path) -> None:
    bad = [(why, line) for why, lines in BAD.items() for line in lines]
    good = [
        event(),
        event(count=3),
        event(time=1_777_881_600),
        event(time="2026-05-05T00:00:00+02:00", extra={"deep": ["x"]}),
    ]
    lines: list[Any] = [*good, *(line for _why, line in bad)]
    Random(1).shuffle(lines)
    counts, account = read_log(log(tmp_path, *lines), {}, in_order)
    assert account.lines == len(lines)
    assert account.events == len(good)
    assert account.left_out == Counter(why for why, _line in bad)
    assert sum(counts.used.values()) == 6
    assert {one.day for one in counts.used} == {DAY, "2026-05-05"}


def test_both_ways_of_counting_say_the_same(tmp_path: Path) -> None:
    chance = Random(2)
    lines: list[Any] = []
    for _ in range(3000):
        line = event(
            action=chance.choice(["files.save", "edit.paste", ""]), by=chance.choice(["keys", "menu", "mouse", "x"])
        )
        line["time"] = f"2026-05-{chance.randint(1, 31):02d}T{chance.randint(0, 23):02d}:00:00Z"
        line |= chance.choice([{}, {"count": 2}, {"typed": 7}, {"waited": True, "keys": "g"}, {"editor": "desk"}])
        lines.append(line if chance.random() < 0.95 else json.dumps(line).encode()[: chance.randint(1, 40)])
    file = log(tmp_path, *lines)
    (quick, told), (slow, also) = read_log(file, {}, False), read_log(file, {}, True)
    assert (quick.used, quick.typed, quick.waits) == (slow.used, slow.typed, slow.waits)
    assert (told.lines, told.events, told.left_out) == (also.lines, also.events, also.left_out)


def test_parts_of_a_large_file_together_are_the_whole(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    lines: list[Any] = [event(action=f"a.{number % 7}", keys="x" * (number % 50)) for number in range(2000)]
    lines[700] = b"y" * 9000
    file = log(tmp_path, *lines)
    whole, told = read_log(file, {}, False)
    monkeypatch.setattr(usage_logs, "_PART", 20_000)
    monkeypatch.setattr(usage_logs, "BLOCK", 4096)
    monkeypatch.setattr(usage_logs, "LONGEST_LINE", 1024)
    monkeypatch.setattr(usage_logs, "cpu_count", lambda: 3)
    parts, also = read_log(file, {}, False)
    assert parts.used == whole.used
    assert (also.lines, also.events) == (told.lines, told.events) == (2000, 1999)


def test_of_a_large_file_all_is_counted_and_its_end_is_looked_at_in_order(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    times = [f"2026-05-04T10:{number // 60:02}:{number % 60:02}Z" for number in range(1200)]
    file = log(tmp_path, *(event(action=f"a.{number % 3}", time=time) for number, time in enumerate(times)))
    whole, told = read_log(file, {}, True)
    monkeypatch.setattr(usage_logs, "MOST_IN_ORDER", file.stat().st_size // 3 + 7)
    counts, account = read_log(file, {}, True)
    assert counts.used == whole.used
    assert (account.lines, account.events) == (told.lines, told.events) == (1200, 1200)
    assert 790 < account.counted <= 800
    assert told.counted == 0
    runs = {key[2]: times for key, times in counts.runs.items()}
    assert runs.keys() == {key[2] for key in whole.runs}
    assert all(times < whole.runs[key] / 2 for key, times in counts.runs.items())


def test_a_clock_that_goes_back_is_said(tmp_path: Path) -> None:
    times = ["2026-05-04T10:00:00Z", "2026-05-04T09:00:00Z", "2026-05-04T09:30:00Z", "2026-05-03T09:30:00Z"]
    counts, account = read_log(log(tmp_path, *(event(time=time) for time in times)), {}, True)
    assert account.back == 2
    assert account.events == 4
    assert not counts.runs  # they are far apart


def test_a_table_with_names_of_its_own(tmp_path: Path) -> None:
    file = tmp_path / "use.csv"
    file.write_text(
        "when,what,how,number\n2026-05-04,files.save,menu,3\n2026-05-04 09:00,edit.paste,mouse,x\n2026-05-04\n\n"
    )
    columns = {"time": "when", "action": "what", "by": "how", "count": "number"}
    counts, account = read_log(file, columns, True)
    assert counts.used == {Used(DAY, "", "", "files.save", "", "", "menu", ""): 3}
    assert (account.lines, account.events) == (3, 1)
    assert account.left_out == {"a count that is none": 1, "too few columns": 1}
    with pytest.raises(InputError, match="the table has not a column whe"):
        read_log(file, {"time": "whe"}, True)
    with pytest.raises(InputError, match="the table has not a column for the action"):
        read_log(file, {"time": "when"}, True)


def test_a_table_with_a_million_columns(tmp_path: Path) -> None:
    file = tmp_path / "use.csv"
    file.write_text(",".join(f"c{number}" for number in range(1_000_000)) + "\n")
    with pytest.raises(InputError, match="more than 1000 columns"):
        read_log(file, {}, True)
    file.write_text("time,action\n2026-05-04,files.save\n" + ",".join(["x"] * 1_000_000) + "\n2026-05-04,files.save\n")
    counts, account = read_log(file, {}, True)
    assert (account.lines, account.events, dict(account.left_out)) == (3, 2, {"longer than 64 KiB": 1})
    assert sum(counts.used.values()) == 2


def test_a_log_that_cannot_be_read(tmp_path: Path) -> None:
    with pytest.raises(OutsideError, match="the log cannot be read"):
        read_log(tmp_path, {}, True)


# --- in order


def used(action: str, keys: str = "", day: str = DAY, editor: str = "desk") -> Used:
    return Used(day, editor, "linux", action, "", keys, "keys", "")


def test_slips_waits_and_what_is_typed() -> None:
    gathering = Gathering()
    undo = used("history.undo", "Ctrl+Z")
    for one in [
        Moment(used("line.move-down", "Alt+J"), 10.0), Moment(undo, 11.5), Moment(undo, 12.0),  # a slip, and what is no second one
        Moment(used("line.move-down", "Alt+J"), 30.0), Moment(undo, 33.0),  # thought about
        Moment(used("edit.paste", "Ctrl+V"), 50.0), Moment(used("", ""), 50.5, 3, "typed"), Moment(undo, 51.0),
        Moment(used("", "g"), 60.0, 1, "wait"),
    ]:  # fmt: skip
        gathering.note(one)
    assert gathering.counts.slips == {(DAY, "desk", "Alt+J", "line.move-down"): 1}
    assert gathering.counts.waits == {(DAY, "desk", "g"): 1}
    assert gathering.counts.typed == {(DAY, "desk"): 3}


def test_planted_runs_are_found_and_none_is_invented() -> None:
    chance, gathering = Random(4), Gathering()
    names = [f"a.{number}" for number in range(20)]
    time = 0.0
    for _ in range(3000):
        time += chance.uniform(1, 5)
        steps = ["b.first", "b.second", "b.third"] if chance.random() < 0.02 else [chance.choice(names)]
        for step in steps:
            time += 0.5
            gathering.note(Moment(used(step), time))
    done = Counter({one.action: times for one, times in gathering.counts.used.items()})
    shown = list(shown_runs(gathering.counts.runs, 3, 1000))
    habits = [actions for _editor, actions, times in shown if is_habit(actions, times, done)]
    planted = {("b.first", "b.second", "b.third")}
    assert planted <= set(habits)
    assert all({"b.first", "b.second", "b.third"} & set(actions) for actions in habits)


# --- kept


def test_counts_are_kept_by_day_added_and_forgotten(tmp_path: Path) -> None:
    days, counts = UseDays(tmp_path), UseCounts()
    assert not days.counts()
    counts.used[used("files.save", "Ctrl+S")] = 2
    counts.used[used("files.save", "Ctrl+S", "2026-05-06")] = 5
    counts.runs[DAY, "desk", ("a", "b")] = 4
    counts.runs[DAY, "desk", ("once", "only")] = 1
    counts.slips[DAY, "desk", "Alt+J", "x"] = 1
    counts.waits[DAY, "desk", "g"] = 1
    counts.typed[DAY, "desk"] = 40
    assert days.add(counts, "digest", "log")
    assert not days.add(counts, "digest", "log")
    days.add(counts)
    found = days.counts()
    assert found.used == {key: 2 * times for key, times in counts.used.items()}
    assert found.runs == {(DAY, "desk", ("a", "b")): 8}
    assert (found.slips.total(), found.waits.total(), found.typed.total()) == (2, 2, 80)
    assert days.counts("2026-05-05").used.total() == 10
    assert days.counts(until=DAY).used.total() == 4
    assert stat.S_IMODE(days.file.stat().st_mode) == 0o600
    assert stat.S_IMODE(days.file.parent.stat().st_mode) == 0o700
    assert days.forget(DAY) == 1
    assert days.counts().used.total() == 10
    assert b"Alt+J" not in days.file.read_bytes()
    assert days.forget() == 1
    assert not days.file.exists()
    assert days.forget() == 0


def test_a_damaged_file_is_said(tmp_path: Path) -> None:
    days = UseDays(tmp_path)
    days.file.parent.mkdir(mode=0o700)
    days.file.write_bytes(b"no database" * 100)
    with pytest.raises(OutsideError, match="cannot be read or kept"):
        days.counts()
