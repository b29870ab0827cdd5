"""How long an audit takes beside reading the same files with the standard TOML reader, and how much memory.

Usage: python bench/auditing.py. Each measurement runs in a process of its own; the ratios are of medians of one run. The
time of importing either reader or Ombix is not in it; that of reading the catalogue of actions is.
"""

import platform
import resource
import statistics
import subprocess
import sys
import tempfile
import time
import tomllib
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))
from inputs import keymap_files

from ombix.core.audit import AuditSubject, all_rules, audit
from ombix.core.gc_pause import no_garbage_collection
from ombix.core.keymap.bindings import Keymap
from ombix.core.keymap.deciding import Policy
from ombix.core.keys.platforms import reserved_on
from ombix.data.shipped import Shipped
from ombix.files import keymap_reading
from ombix.files.disk import Files

RUNS = 7


def audit_once(top: Path) -> tuple[AuditSubject, int]:
    """Read the keymap and audit it with all rules, in a workspace that names a desktop; the subject, which the program
    does not take down before its end, and the number of findings."""
    shipped = Shipped()
    catalogue, facts, platform = shipped.catalogue(), shipped.facts(), shipped.platform("linux")
    with no_garbage_collection():
        keymap = Keymap(keymap_reading.load(top, catalogue, facts, Files(), lenient=True))
        subject = AuditSubject(
            keymap, platform, keymap.space(facts), catalogue, Policy(),
            reserved=reserved_on(platform, shipped.desktops(), "gnome"), platforms=shipped.platforms(),
        )  # fmt: skip
        return subject, len(audit(subject, list(all_rules().values())))


def child(kind: str, folder: Path) -> None:
    """One measurement: prints seconds, findings and peak memory in MiB."""
    all_rules()  # imports the rules
    files = sorted(folder.glob("*.keys.toml"))
    found = 0
    start = time.perf_counter()
    if kind == "read":
        for file in files:
            tomllib.loads(file.read_text("utf-8"))
    else:
        _subject, found = audit_once(files[-1])
    seconds = time.perf_counter() - start
    print(seconds, found, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)


def measured(kind: str, folder: Path) -> list[float]:
    """Seconds, findings and peak memory of one run in a process of its own."""
    done = subprocess.run([sys.executable, __file__, kind, str(folder)], capture_output=True, text=True, check=True)
    return [float(number) for number in done.stdout.split()]


def main() -> None:
    """Measure and print. The kinds of run take turns, so that a slow minute of the machine is shared by all."""
    print(f"{platform.machine()}, Python {platform.python_version()}; three layers, conditions of two to four facts")
    with tempfile.TemporaryDirectory(prefix="ombix-bench-") as name:
        folders = {bindings: Path(name) / str(bindings) for bindings in (10_000, 100_000)}
        sizes = {}
        for bindings, folder in folders.items():
            folder.mkdir()
            sizes[bindings] = sum(file.stat().st_size for file in keymap_files(folder, bindings)) / 1e6
        rows: dict[tuple[int, str], list[list[float]]] = {}
        for _ in range(RUNS):
            for bindings, folder in folders.items():
                for kind in ("read", "audit"):
                    rows.setdefault((bindings, kind), []).append(measured(kind, folder))
    median = {key: statistics.median(row[0] for row in found) for key, found in rows.items()}
    for bindings in folders:
        read, seconds = median[bindings, "read"], median[bindings, "audit"]
        found, memory = rows[bindings, "audit"][0][1], max(row[2] for row in rows[bindings, "audit"])
        aim = " (aim: 3.00)" if bindings == 10_000 else ""
        print(
            f"{bindings} bindings, {sizes[bindings]:.1f} MB: standard reader {read:.2f} s, audit {seconds:.2f} s, "
            f"ratio {seconds / read:.2f}{aim}, {found:.0f} findings, peak {memory:.0f} MiB (aim: 170)"
        )
    print(f"100000 to 10000: {median[100_000, 'audit'] / median[10_000, 'audit']:.1f} (aim: 12.0)")


if __name__ == "__main__":
    if len(sys.argv) > 2:
        child(sys.argv[1], Path(sys.argv[2]))
    else:
        main()
