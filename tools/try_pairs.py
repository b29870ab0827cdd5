"""Press the ported keys of files, or of editors' defaults, in other editors, and in their own: python tools/try_pairs.py
[PATTERN [EDITOR…]]. Files are called like EDITOR-anything; a folder called so has an editor's file and what is beside it.
Without editors, in all real ones."""

import itertools
import shutil
import sys
import tempfile
import time
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from ombix.core.errors import OmbixError
from ombix.data.shipped import Shipped
from ombix.dialects.loading import Dialects
from ombix.session.session import Session

DIALECTS = Dialects(Shipped())
EDITORS = [name for name in DIALECTS.names() if not DIALECTS.load(name).description.simulated]
WORKERS = 3


def sources() -> list[tuple[str, str]]:
    """What is ported: the files of a folder, or else the defaults of each editor."""
    if len(sys.argv) < 2:
        return [(name, name) for name in EDITORS]
    pattern = Path(sys.argv[1])
    return [(path.name.partition("-")[0], str(path.resolve())) for path in sorted(pattern.parent.glob(pattern.name))]


def tried(work: tuple[str, str, str]) -> tuple[str, Counter[str]]:
    """What pressing one port showed, in words, and its counts."""
    editor, source, target = work
    started = time.monotonic()
    with tempfile.TemporaryDirectory() as name:
        file = source
        if source != editor:
            called = DIALECTS.load(editor).description.file.name
            if Path(source).is_dir():
                shutil.copytree(source, name, dirs_exist_ok=True)
            else:
                shutil.copy(source, Path(name) / called)
            file = str(Path(name) / called)
        title = f"{Path(source).name:>20} to {target:8}"
        try:
            found = Session(folder=name, state=f"{name}/state").prove(target, source=file, press_in="both")
        except OmbixError as error:
            return f"{title} {error.what} {error.advice}", Counter({"refused": 1})
    counts = Counter(f"{one.verdict} {one.result}" for one in found.keys)
    counts["pressed in the source"] = sum(one.in_source in ("agrees", "differs") for one in found.keys)
    said = ", ".join(f"{name} {times}" for name, times in sorted(counts.items()))
    lines = [f"{title} {said}; {time.monotonic() - started:.0f} s"]
    for one in found.keys:
        if one.result == "differs" or "stopped" in one.reason or "not saved" in one.reason:
            lines.append(
                f"    {one.keys} {one.action} ({one.verdict}) {one.reason}: {one.expected!r} {one.found!r}; {one.how}"
            )
    return "\n".join(lines), counts


def main() -> int:
    totals: Counter[str] = Counter()
    pairs = [
        (editor, file, to)
        for (editor, file), to in itertools.product(sources(), sys.argv[2:] or EDITORS)
        if editor != to
    ]
    with ProcessPoolExecutor(WORKERS) as pool:
        for said, counts in pool.map(tried, pairs):
            print(said, flush=True)
            totals.update(counts)
    print(", ".join(f"{name}: {count}" for name, count in sorted(totals.items())))
    return 1 if any("differs" in name for name in totals) else 0


if __name__ == "__main__":
    sys.exit(main())
