"""How long porting and comparing take beside the audit and the reading of the same keymap.

Usage: python bench/porting.py. Each measurement runs in a process of its own; the ratios are of medians of one run. Reading
the catalogue and the editor's description is not in it.
"""

import platform
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from msgspec.structs import replace

sys.path.insert(0, str(Path(__file__).parent))
from inputs import keymap_files

from ombix.core.audit import AuditSubject, all_rules, audit
from ombix.core.gc_pause import no_garbage_collection
from ombix.core.keymap.bindings import Keymap
from ombix.core.keymap.comparing import compare
from ombix.core.keymap.deciding import Policy, decide_all
from ombix.data.shipped import Shipped
from ombix.editors.description_loading import Dialects
from ombix.editors.editor_porting import Surroundings, port_keymap
from ombix.files import keymap_reading
from ombix.files.disk import Files

BINDINGS, RUNS, TARGET = 5_000, 7, "micro"


def child(kind: str, top: Path) -> None:
    """One measurement: prints seconds of reading and of what is done after it."""
    shipped = Shipped()
    catalogue, facts, linux = shipped.catalogue(), shipped.facts(), shipped.platform("linux")
    all_rules()  # imports the rules
    target, terminal = Dialects(shipped).load(TARGET), shipped.terminal("xterm")
    target.default_layer, target.spelling  # noqa: B018  (reads them)
    with no_garbage_collection():
        start = time.perf_counter()
        keymap = Keymap(keymap_reading.load(top, catalogue, facts, Files(), lenient=True))
        here = keymap.space(facts)
        reading = time.perf_counter() - start
        start = time.perf_counter()
        if kind == "audit":
            audit(AuditSubject(keymap, linux, here, catalogue, Policy()), list(all_rules().values()))
        elif kind == "compare":
            bindings = keymap.in_force(linux).bindings
            # The other keymap has every tenth binding on another action.
            changed = [
                replace(one, outcome=bindings[index - 1].outcome) if index % 10 == 0 else one
                for index, one in enumerate(bindings)
            ]
            first, second = (decide_all(side, here, catalogue, Policy()) for side in (bindings, changed))
            compare(first, second, here, here.possible)
        elif kind == "port":
            around = Surroundings(linux, terminal, here, catalogue)
            port_keymap(keymap, keymap.in_force(linux).bindings, None, target, around)
        print(reading, time.perf_counter() - start)


def main() -> None:
    """Measure and print. The kinds of run take turns, so that a slow minute of the machine is shared by all."""
    with tempfile.TemporaryDirectory(prefix="ombix-bench-") as name:
        top = keymap_files(Path(name), BINDINGS)[-1]
        rows: dict[str, list[tuple[float, float]]] = {}
        for _ in range(RUNS):
            for kind in ("audit", "compare", "port"):
                call = [sys.executable, __file__, kind, str(top)]
                done = subprocess.run(call, capture_output=True, text=True, check=True)
                first, second = (float(word) for word in done.stdout.split())
                rows.setdefault(kind, []).append((first, second))
    reading = statistics.median(first for found in rows.values() for first, _second in found)
    took = {kind: statistics.median(second for _first, second in found) for kind, found in rows.items()}
    print(
        f"{platform.machine()}, Python {platform.python_version()}, {BINDINGS} bindings, conditions of two to four facts"
    )
    print(f"reading {reading:.2f} s, audit of it {reading + took['audit']:.2f} s")
    ratio = (reading + took["compare"]) / (reading + took["audit"])
    print(
        f"comparing two over all states {reading + took['compare']:.2f} s, ratio to the audit {ratio:.2f} (aim: 2.00)"
    )
    ratio = took["port"] / reading
    print(f"porting to {TARGET}, with the check {took['port']:.2f} s, ratio to the reading {ratio:.2f} (aim: 4.00)")


if __name__ == "__main__":
    if len(sys.argv) > 2:
        child(sys.argv[1], Path(sys.argv[2]))
    else:
        main()
