"""Press the ported keys of files, or of editors' defaults, in other editors, and in their own: python tools/try_pairs.py
[--target] [PATTERN [EDITOR…]]. Files are called like EDITOR-anything; a folder called so has an editor's file and what is
beside it. Without editors, in all real ones; with --target not in their own. At the end stands why keys were not checked."""

import itertools
import random
import shutil
import sys
import tempfile
import time
from collections import Counter
from concurrent.futures import ProcessPoolExecutor, as_completed
from pathlib import Path

from ombix.core.errors import OmbixError
from ombix.data.shipped import Shipped
from ombix.editors.description_loading import Dialects
from ombix.work.carry import carry_questions
from ombix.work.carry.prove import PressedIn
from ombix.workspace.open_workspace import OpenWorkspace

DIALECTS = Dialects(Shipped())
EDITORS = [name for name in DIALECTS.names() if not DIALECTS.load(name).description.simulated]
WORKERS = 2
PRESS_IN: PressedIn = "target" if "--target" in sys.argv else "both"
ARGUMENTS = [one for one in sys.argv[1:] if one != "--target"]


def sources() -> list[tuple[str, str]]:
    """What is ported: the files of a folder, or else the defaults of each editor."""
    if not ARGUMENTS:
        return [(name, name) for name in EDITORS]
    pattern = Path(ARGUMENTS[0])
    return [(path.name.partition("-")[0], str(path.resolve())) for path in sorted(pattern.parent.glob(pattern.name))]


def tried(work: tuple[str, str, str]) -> tuple[str, Counter[str], Counter[str]]:
    """What pressing one port showed, in words, its counts, and why keys were not checked."""
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
            found = carry_questions.prove(
                OpenWorkspace(folder=name, state=f"{name}/state"), target, source=file, press_in=PRESS_IN
            )
        except OmbixError as error:
            return f"{title} {error.what} {error.advice}", Counter({"refused": 1}), Counter()
    counts = Counter(f"{one.verdict} {one.result}" for one in found.keys)
    counts["pressed in the source"] = sum(one.in_source in ("agrees", "reached", "differs") for one in found.keys)
    said = ", ".join(f"{name} {times}" for name, times in sorted(counts.items()))
    lines = [f"{title} {said}; {time.monotonic() - started:.0f} s"]
    lines += [
        f"    not checked: {one.keys} {one.action}: {one.reason}" for one in found.keys if one.result == "not checked"
    ]
    for one in found.keys:
        if one.result == "differs" or "stopped" in one.reason or "not saved" in one.reason:
            lines.append(
                f"    {one.keys} {one.action} ({one.verdict}) {one.reason}: {one.expected!r} {one.found!r}; {one.how}"
            )
    why = Counter(f"{target}: {one.reason} ({one.action})" for one in found.keys if one.result == "not checked")
    return "\n".join(lines), counts, why


def main() -> int:
    totals: Counter[str] = Counter()
    reasons: Counter[str] = Counter()
    pairs = [
        (editor, file, to)
        for (editor, file), to in itertools.product(sources(), ARGUMENTS[1:] or EDITORS)
        if editor != to
    ]
    random.Random(1).shuffle(pairs)  # so that a part of them tells of all
    with ProcessPoolExecutor(WORKERS) as pool:
        for done in as_completed([pool.submit(tried, pair) for pair in pairs]):
            said, counts, why = done.result()
            print(said, flush=True)
            totals.update(counts)
            reasons.update(why)
    print("\n".join(f"{count:5} {reason}" for reason, count in reasons.most_common()))
    print(", ".join(f"{name}: {count}" for name, count in sorted(totals.items())))
    return 1 if any("differs" in name for name in totals) else 0


if __name__ == "__main__":
    sys.exit(main())
