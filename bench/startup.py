"""How long a look-up takes as a whole process, beside an empty Typer program of two commands, measured in turn.

Usage: python bench/startup.py [RUNS]. Prints the machine, the size of the input, medians and the ratio.
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
    entries: dict[str, list[str]] = {}
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


def seconds(command: list[str], folder: Path, environment: dict[str, str]) -> float:
    """The wall time of one run."""
    start = time.perf_counter()
    subprocess.run(command, cwd=folder, env=environment, stdout=subprocess.DEVNULL, check=True)
    return time.perf_counter() - start


def main() -> None:
    """Measure and print."""
    runs = int(sys.argv[1]) if len(sys.argv) > 1 else 25
    ombix = str(Path(sys.executable).parent / "ombix")
    with tempfile.TemporaryDirectory(prefix="ombix-bench-") as name:
        folder = Path(name)
        workspace(folder)
        (folder / "empty.py").write_text(EMPTY, "utf-8")
        environment = {**os.environ, "OMBIX_HOME": str(folder / "home")}
        empty = [sys.executable, "empty.py", "one"]
        calls = {
            "what": [ombix, "what", "Space", "a", "b", "c"],
            "how": [ombix, "how", "duplicate", "line"],
            "how, misspelt": [ombix, "how", "duplciate", "line"],
        }
        print(f"{platform.machine()}, {os.cpu_count()} cores, Python {platform.python_version()}, {BINDINGS} bindings")
        first = seconds(calls["what"], folder, environment)
        print(f"first look-up after a change (reads the workspace): {first * 1000:.0f} ms")
        for title, call in calls.items():
            seconds(call, folder, environment)
            seconds(empty, folder, environment)
            pairs = [(seconds(call, folder, environment), seconds(empty, folder, environment)) for _ in range(runs)]
            mine, other = (statistics.median(side) for side in zip(*pairs, strict=True))
            ratio = statistics.median(a / b for a, b in pairs)
            print(f"{title}: {mine * 1000:.0f} ms, empty program {other * 1000:.0f} ms, ratio {ratio:.2f} (aim: 1.30)")


if __name__ == "__main__":
    main()
