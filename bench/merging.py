"""How long a merge of three keymaps takes, as a ratio to reading the three.

Usage: python bench/merging.py [BINDINGS]. Each side puts one binding in fifty on other keys.
"""

import platform
import statistics
import sys
import tempfile
import time
from pathlib import Path

from inputs import keymap_files

from ombix.data.shipped import Shipped
from ombix.files import keymap_reading
from ombix.work.versions import versions_questions
from ombix.workspace.open_workspace import OpenWorkspace

RUNS = 5
EVERY = 50
AIM = 2.0


def changed(text: str, first: int) -> str:
    """The keymap with one binding in fifty on other keys."""
    lines = text.split("\n")
    for index in range(first, len(lines), EVERY):
        lines[index] = lines[index].replace('press = "', 'press = "F3 ', 1)
    return "\n".join(lines)


def main() -> None:
    """Measure and print."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 5000
    shipped = Shipped()
    catalogue, facts = shipped.catalogue(), shipped.facts()
    print(f"{platform.machine()}, Python {platform.python_version()}")
    with tempfile.TemporaryDirectory(prefix="ombix-bench-") as name:
        folder = Path(name)
        (base,) = keymap_files(folder, count, 1)
        ours, theirs = folder / "ours.keys.toml", folder / "theirs.keys.toml"
        ours.write_text(changed(base.read_text(), 7))
        theirs.write_text(changed(base.read_text(), 23))
        read, merged, changes = [], [], 0
        for _ in range(RUNS):
            start = time.perf_counter()
            for path in (base, ours, theirs):
                keymap_reading.load(path, catalogue, facts)
            read.append(time.perf_counter() - start)
            session = OpenWorkspace(ours, kind="file", folder=str(folder))
            session.resources.shipped.catalogue()
            start = time.perf_counter()
            changes = len(versions_questions.merge(session, str(base), str(ours), str(theirs)).report.changes)
            merged.append(time.perf_counter() - start)
        one, other = statistics.median(merged), statistics.median(read)
        print(
            f"{count} bindings, {changes} changed: merge {one * 1000:.0f} ms, reading the three {other * 1000:.0f} ms, "
            f"ratio {one / other:.2f} (aim: {AIM:.2f})"
        )


if __name__ == "__main__":
    main()
