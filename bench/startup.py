"""How long commands take as whole processes, beside an empty Typer program of two commands, measured in turn.

Usage: python bench/startup.py [RUNS]. The look-ups on a workspace of BINDINGS
bindings and on the demo, the others on the demo.
"""

import os
import platform
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from ombix.data.shipped import Shipped

BINDINGS = 2000
LOOK_UPS = ("what", "how")
CALLS = (
    ("what", ("what", "Ctrl+S"), 1.05),
    ("what, not bound", ("what", "Ctrl+Alt+J"), 1.05),
    ("how", ("how", "duplicate", "line"), 1.05),
    ("how, misspelt", ("how", "duplciate", "line"), 1.05),
    ("git text", ("git", "text", "crew.keys.toml"), 1.1),
    ("show", ("show",), 2.0),
    ("audit", ("audit",), 2.0),
    ("port to one editor", ("port", "--to", "pier", "--dry-run"), 2.0),
)
"""Title, arguments and the most that it may take, as a ratio to the empty program."""
EMPTY = """
import typer
app = typer.Typer()
@app.command()
def one() -> None:
    print("one")
@app.command()
def two() -> None:
    print("two")
app()
"""


def workspace(folder: Path) -> None:
    """A workspace of BINDINGS bindings: every action in turn, on sequences after a leader, with conditions."""
    actions = list(Shipped().catalogue().actions)
    conditions = [
        "",
        "pane is text and not readonly",
        "pane is files",
        "selection is none",
        "language in (python, lua)",
    ]
    letters = "abcdefghijklmnopqrstuvwxyz"
    entries: dict[str, list[str]] = {actions[0]: ['{ press = "Ctrl+S" }']}
    for number in range(BINDINGS):
        keys = f"Space {letters[number // 676 % 26]} {letters[number // 26 % 26]} {letters[number % 26]}"
        condition = conditions[number % len(conditions)]
        where = f', where = "{condition}"' if condition else ""
        entries.setdefault(actions[number % len(actions)], []).append(f'{{ press = "{keys}"{where} }}')
    domains: dict[str, list[str]] = {}
    for action, values in entries.items():
        domain, _, verb = action.partition(".")
        domains.setdefault(domain, []).append(f"{verb} = [\n  " + ",\n  ".join(values) + ",\n]")
    text = 'format = 1\nname = "bench"\n'
    for domain, lines in domains.items():
        text += f"\n[bind.{domain}]\n" + "\n".join(lines) + "\n"
    (folder / "bench.keys.toml").write_text(text, "utf-8")
    (folder / "ombix.toml").write_text(
        'format = 1\nkeymap = "bench.keys.toml"\nplatform = "linux"\nlayout = ["us", "de"]\n', "utf-8"
    )


def seconds(command: list[str], folder: Path, environment: dict[str, str]) -> tuple[float, bytes]:
    """The wall time of one run, and what it printed. Raises RuntimeError for a run that found a fault in its call."""
    start = time.perf_counter()
    done = subprocess.run(command, cwd=folder, env=environment, capture_output=True, check=False)
    took = time.perf_counter() - start
    if done.returncode > 1:
        raise RuntimeError(f"{command}: {done.stderr.decode()}")
    return took, done.stdout


def main() -> None:
    """Measure and print."""
    runs = int(sys.argv[1]) if len(sys.argv) > 1 else 25
    ombix = str(Path(sys.executable).parent / "ombix")
    with tempfile.TemporaryDirectory(prefix="ombix-bench-") as name:
        folder = Path(name)
        environment = {**os.environ, "OMBIX_HOME": str(folder / "home")}
        (folder / "empty.py").write_text(EMPTY, "utf-8")
        large, ferry = folder / "large", folder / "ferry"
        large.mkdir()
        workspace(large)
        subprocess.run([ombix, "demo", "--folder", str(ferry)], env=environment, capture_output=True, check=True)
        empty = [sys.executable, str(folder / "empty.py"), "one"]
        print(f"{platform.machine()}, {os.cpu_count()} cores, Python {platform.python_version()}")
        first, _output = seconds([ombix, *CALLS[0][1]], large, environment)
        print(f"{BINDINGS} bindings, first look-up after a change (reads the workspace): {first * 1000:.0f} ms")
        for place in (large, ferry):
            print(f"{BINDINGS} bindings:" if place == large else "the demo workspace:")
            for title, call, aim in CALLS:
                if place == large and call[0] not in LOOK_UPS:
                    continue
                command = [ombix, *call]
                seconds(command, place, environment)
                seconds(empty, place, environment)
                pairs = [
                    (seconds(command, place, environment)[0], seconds(empty, place, environment)[0])
                    for _ in range(runs)
                ]
                mine, other = (statistics.median(side) for side in zip(*pairs, strict=True))
                ratio = statistics.median(a / b for a, b in pairs)
                print(
                    f"  {title}: {mine * 1000:.0f} ms, empty program {other * 1000:.0f} ms, "
                    f"ratio {ratio:.2f} (aim: {aim:.2f})"
                )


if __name__ == "__main__":
    main()
