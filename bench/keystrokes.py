"""How long what is wrong with a keymap takes to be told behind a keystroke.

Usage: python bench/keystrokes.py. Signs are typed and taken out at random places, so that the file is often half written.
"""

import platform
import random
import statistics
import tempfile
import time
from pathlib import Path

from startup import workspace

from ombix.language.open_documents.documents import Drafts

STROKES = 400
PER_LINE = 20
MEDIAN_MS, LAST_MS = 50.0, 150.0


def main() -> None:
    """Measure and print."""
    chance = random.Random(5)
    print(f"{platform.machine()}, Python {platform.python_version()}")
    with tempfile.TemporaryDirectory(prefix="ombix-bench-") as name:
        folder = Path(name)
        workspace(folder)
        path = folder / "bench.keys.toml"
        text = path.read_text("utf-8")
        desk = Drafts()
        desk.put(path, text)
        start = time.perf_counter()
        found = desk.in_full(path)
        print(
            f"{text.count('press')} bindings, all of it: {(time.perf_counter() - start) * 1000:.0f} ms, {len(found)} findings"
        )
        times = []
        for stroke in range(STROKES):
            if stroke % PER_LINE == 0:
                lines = text.split("\n")
                row = chance.randrange(3, len(lines))
            line = lines[row]
            at = chance.randrange(len(line) + 1)
            lines[row] = (
                line[:at] + chance.choice('abcK"x ]') + line[at:]
                if chance.random() < 0.6
                else line[:at] + line[at + 1 :]
            )
            desk.put(path, "\n".join(lines))
            start = time.perf_counter()
            desk.at_once(path)
            times.append((time.perf_counter() - start) * 1000)
        times.sort()
        print(
            f"{STROKES} keystrokes: median {statistics.median(times):.0f} ms (aim: {MEDIAN_MS:.0f}), "
            f"99 of 100 within {times[int(STROKES * 0.99)]:.0f} ms (aim: {LAST_MS:.0f})"
        )


if __name__ == "__main__":
    main()
