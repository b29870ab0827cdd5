"""What counting use costs: python bench/use.py [EVENTS]. Beside a plain read by pandas, where that is installed, in one run; each
figure is also given as a share of what is allowed."""

import random
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from ombix.core.usage.counts import shown_runs
from ombix.core.usage.key_assignment import KeyChoice, assigned
from ombix.files.usage_logs import read_log
from ombix.work.usage import usage_questions
from ombix.workspace.open_workspace import OpenWorkspace

EVENTS = int(sys.argv[1]) if len(sys.argv) > 1 else 10_000_000
ONE_MILLION = 1_000_000
_ACTIONS = [
    "files.save", "edit.copy-selection", "edit.paste", "history.undo", "cursor.down", "cursor.up", "search.find", "line.delete",
    "go.line", "tabs.next", "problems.check", "cursor.next-word",
]  # fmt: skip


def write_log(file: Path, events: int) -> None:
    """A log of so many events, a thousand days long at the most."""
    chance = random.Random(1)
    part = []
    with file.open("w") as stream:
        for number in range(events):
            day = number * 60 // events
            clock = f"{number // 3600 % 24:02d}:{number // 60 % 60:02d}:{number % 60:02d}"
            editor, way = chance.choice(("desk", "pier")), chance.choice(("keys", "keys", "menu"))
            part.append(
                f'{{"time":"2026-{day // 28 + 1:02d}-{day % 28 + 1:02d}T{clock}Z","editor":"{editor}","platform":"linux",'
                f'"action":"{chance.choice(_ACTIONS)}","keys":"Ctrl+{chance.choice("ABCDEF")}","by":"{way}"}}\n'
            )
            if len(part) == 100_000:
                stream.write("".join(part))
                part.clear()
        stream.write("".join(part))


def timed(work: Callable[[], object]) -> tuple[float, object]:
    """The seconds that something takes, and what came of it."""
    started = time.perf_counter()
    found = work()
    return time.perf_counter() - started, found


def peak(children: bool) -> int:
    """The most memory of this process, or of one of its children, in MiB."""
    who = resource.RUSAGE_CHILDREN if children else resource.RUSAGE_SELF
    return resource.getrusage(who).ru_maxrss // 1024


def main() -> None:
    """Measure."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        log, small = folder / "use.jsonl", folder / "small.jsonl"
        write_log(log, EVENTS)
        write_log(small, ONE_MILLION)
        seconds, (_counts, account) = timed(lambda: read_log(log, {}, False))  # type: ignore[misc]
        print(
            f"{account.events:,} events counted: {seconds:.1f} s ({seconds / 10:.2f} of what is allowed for ten million), "
            f"{peak(False)} MiB, each of its processes {peak(True)} MiB"
        )
        code = f"import pandas; print(len(pandas.read_json({str(small)!r}, lines=True)))"
        read = subprocess.run([sys.executable, "-c", "import pandas"], capture_output=True, check=False)
        if read.returncode == 0:
            plain, _done = timed(lambda: subprocess.run([sys.executable, "-c", code], check=True, capture_output=True))
            ours = seconds / EVENTS * ONE_MILLION
            print(
                f"a plain pandas read of a million: {plain:.1f} s; counting a million: {ours:.2f} s, {ours / plain:.2f} of it"
            )
        else:
            print("pandas is not installed: nothing to stand beside it")
        seconds, (counts, _account) = timed(lambda: read_log(small, {}, True))  # type: ignore[misc]
        more, runs = timed(lambda: list(shown_runs(counts.runs, 3, 40)))
        print(
            f"runs in a million events: {seconds + more:.1f} s ({(seconds + more) / 30:.2f} of what is allowed), {peak(False)} MiB"
        )
        assert runs
        watched = usage_questions.watch(OpenWorkspace(folder=name, state=f"{name}/state"), "micro")
        keys = [b"a", b"b", b" ", b"\x13", b"\x1b[A", b"\x1bf", b"\x18", b"\x16", b"\x1a"]
        costs = []
        for number in range(20_000):
            cost, _none = timed(
                lambda number=number: watched.note(keys[number % len(keys)], datetime.now().astimezone())
            )  # type: ignore[misc]
            costs.append(cost * 1000)
        costs.sort()
        print(
            f"a key that is watched: median {costs[10_000]:.2f} ms, 99 of 100 within {costs[19_800]:.2f} ms (2 ms are allowed)"
        )
    chance = random.Random(2)
    choices = []
    for action in range(300):
        often = chance.random() * 50
        choices += [
            KeyChoice(action, key, often * (0.3 + chance.random()) if key != action else often, key != action)
            for key in range(900)
        ]
    for most in (None, 5):
        seconds, found = timed(lambda most=most: assigned(choices, (), most))  # type: ignore[misc]
        print(
            f"300 actions on 900 keys, {most or 'any number of'} changes: {seconds:.1f} s (10 are allowed), gap {found.gap:.2%}"
        )  # type: ignore[attr-defined]


if __name__ == "__main__":
    main()
