"""How long a sheet, a picture and a page take beside a program that does nothing, and a key on the page in a browser.

Usage: python bench/drawing.py. Whole processes, medians of one run; the browser is Chromium, without a window.
"""

import platform
import random
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from ombix.data.shipped import Shipped

RUNS = 5
PRESSES = 500


def workspace(folder: Path, count: int) -> None:
    """A workspace with so many bindings: chords of three keys, each for an action that needs nothing to be told."""
    draw, actions = random.Random(5), [one for one in Shipped().catalogue().actions.values() if not one.arguments]
    letters = "abcdefghijklmnopqrstuvwxyz"
    triggers = draw.sample([f"Ctrl+{a.upper()} {b} {c}" for a in letters for b in letters for c in letters], count)
    rows: dict[str, list[str]] = {}
    for trigger, number in zip(triggers, range(count), strict=True):
        rows.setdefault(actions[number % len(actions)].name, []).append(trigger)
    tables: dict[str, list[str]] = {}
    for name, keys in rows.items():
        domain, verb = name.split(".")
        written = ", ".join(f'"{one}"' for one in keys)
        tables.setdefault(domain, []).append(f"{verb} = [{written}]")
    text = "\n".join(
        ["format = 1", 'name = "many"', *(f"[bind.{one}]\n" + "\n".join(some) for one, some in tables.items())]
    )
    (folder / "many.keys.toml").write_text(text + "\n")
    (folder / "ombix.toml").write_text('format = 1\nkeymap = "many.keys.toml"\nplatform = "linux"\n')


def seconds(call: list[str], folder: Path) -> float:
    """The seconds of a call."""
    start = time.perf_counter()
    subprocess.run(call, cwd=folder, check=True, capture_output=True)
    return time.perf_counter() - start


def key_presses(page: Path) -> list[float]:
    """Milliseconds from a key to its answer on the page, drawn."""
    from selenium import webdriver
    from selenium.webdriver.chrome.service import Service

    options = webdriver.ChromeOptions()
    options.binary_location = shutil.which("chromium") or ""
    for argument in ("--headless=new", "--no-sandbox", "--disable-dev-shm-usage"):
        options.add_argument(argument)
    browser = webdriver.Chrome(options=options, service=Service(shutil.which("chromedriver")))
    try:
        browser.get(page.as_uri())
        return browser.execute_script(  # type: ignore[no-any-return]
            """const pad = document.getElementById("pad"), found = [];
            for (let number = 0; number < arguments[0]; number += 1) {
              const key = "abcdefghijklmnopqrstuvwxyz"[number % 26];
              const start = performance.now();
              const how = { key, code: `Key${key.toUpperCase()}`, ctrlKey: number % 3 === 0, cancelable: true };
              pad.dispatchEvent(new KeyboardEvent("keydown", how));
              document.getElementById("answer").getBoundingClientRect();
              found.push(performance.now() - start);
            }
            return found;""",
            PRESSES,
        )
    finally:
        browser.quit()


def main() -> None:
    """Measure and print."""
    program = str(Path(sys.executable).parent / "ombix")
    print(f"{platform.machine()}, Python {platform.python_version()}")
    with tempfile.TemporaryDirectory(prefix="ombix-bench-") as name:
        few, many = Path(name) / "few", Path(name) / "many"
        for folder, count in ((few, 300), (many, 2000)):
            folder.mkdir()
            workspace(folder, count)
        calls = {
            "an empty program": ([sys.executable, "-c", "pass"], few),
            "sheet as PDF, 300 bindings": ([program, "sheet", "--output", "k.pdf"], few),
            "picture as PNG, 4 panels": ([program, "picture", "--file", "k.keys.toml", "--output", "k.png"], few),
            "picture as SVG, 4 panels": ([program, "picture", "--file", "k.keys.toml", "--output", "k.svg"], few),
            "page, 2,000 bindings": ([program, "page"], many),
        }
        rows = [f'{verb} = "{held}{key}"' for held, key, verb in (
            ("Ctrl+", "K", "delete"), ("Alt+", "K", "copy-down"), ("Ctrl+Shift+", "K", "join"), ("", "F5", "sort"),
        )]  # fmt: skip
        (few / "k.keys.toml").write_text('format = 1\nname = "k"\n[bind.line]\n' + "\n".join(rows) + "\n")
        taken: dict[str, list[float]] = {what: [] for what in calls}
        for _ in range(RUNS):
            for what, (call, folder) in calls.items():
                taken[what].append(seconds(call, folder))
        base = statistics.median(taken["an empty program"])
        for what, some in taken.items():
            median = statistics.median(some)
            print(f"{what}: {median:.2f} s, {median / base:.0f} times an empty program")
        page = many / "keys.html"
        print(f"the page: {page.stat().st_size / 1e6:.2f} MB")
        if shutil.which("chromium") and shutil.which("chromedriver"):
            found = sorted(key_presses(page))
            print(
                f"a key on it: median {found[len(found) // 2]:.1f} ms, 99th of 100 {found[int(len(found) * 0.99)]:.1f} ms"
            )


if __name__ == "__main__":
    main()
