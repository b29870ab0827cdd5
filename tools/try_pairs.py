"""Press the ported keys of files, or of editors' defaults, in every other editor: python tools/try_pairs.py [FOLDER]."""

import itertools
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

from ombix.core.errors import OmbixError
from ombix.data.shipped import Shipped
from ombix.dialects.loading import Dialects
from ombix.session.session import Session

EDITORS = ("ex", "joe", "kakoune", "micro", "nano")


def sources() -> list[tuple[str, str]]:
    """What is ported: the files of a folder, called like EDITOR-anything, or else the defaults of each editor."""
    if len(sys.argv) < 2:
        return [(name, name) for name in EDITORS]
    return [(path.name.partition("-")[0], str(path)) for path in sorted(Path(sys.argv[1]).resolve().iterdir())]


def main() -> int:
    totals: Counter[str] = Counter()
    for (editor, source), target in itertools.product(sources(), EDITORS):
        if editor == target:
            continue
        started = time.monotonic()
        with tempfile.TemporaryDirectory() as name:
            session = Session(folder=name, state=f"{name}/state")
            if source != editor:  # a file is opened as what it is
                (Path(name) / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\n')
                (Path(name) / "k.keys.toml").write_text('format = 1\nname = "k"\n')
                copy = Path(name) / Dialects(Shipped()).load(editor).description.file.name
                copy.write_bytes(Path(source).read_bytes())
                session = Session(folder=name, state=f"{name}/state")
                source_name = str(copy)
            else:
                source_name = editor
            try:
                found = session.prove(target, source=source_name)
            except OmbixError as error:
                print(f"{Path(source).name:>20} to {target:8} {error.what} {error.advice}")
                totals["refused"] += 1
                continue
        counts = Counter((one.verdict, one.result) for one in found.keys)
        totals.update(f"{verdict} {result}" for (verdict, result), times in counts.items() for _ in range(times))
        said = ", ".join(f"{verdict} {result} {times}" for (verdict, result), times in sorted(counts.items()))
        print(f"{Path(source).name:>20} to {target:8} {said}; {time.monotonic() - started:.0f} s", flush=True)
        for one in found.keys:
            if one.result == "differs" or "stopped" in one.reason or "not saved" in one.reason:
                print(
                    f"    {one.keys} {one.action} ({one.verdict}) {one.reason}: {one.expected!r} {one.found!r}; {one.how}"
                )
    print(", ".join(f"{name}: {count}" for name, count in sorted(totals.items())))
    return 1 if any("differs" in name for name in totals) else 0


if __name__ == "__main__":
    sys.exit(main())
