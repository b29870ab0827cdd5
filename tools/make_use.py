"""Writes six weeks of made-up use of the timetable crew into the demo data: python tools/make_use.py."""

import json
import random
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
FILE = ROOT / "src" / "ombix" / "data" / "demo" / "use" / "crew.jsonl"
FIRST_DAY = datetime(2026, 5, 4, 8, 0, tzinfo=UTC)
WEEKS = 6

_OFTEN = [
    ("cursor.next-word", "Alt+F", 26), ("cursor.previous-word", "Alt+B", 22), ("line.copy-down", "Ctrl+D", 14),
    ("files.save", "Ctrl+S", 12), ("edit.paste", "Ctrl+V", 9), ("edit.copy-selection", "Ctrl+C", 8), ("history.undo", "Ctrl+Z", 5),
    ("search.find", "Ctrl+F", 5), ("search.next", "F7", 9), ("edit.cut-line", "Alt+X", 4), ("tabs.next", "Alt+.", 6),
    ("line.indent", "Alt+}", 7), ("line.outdent", "Alt+{", 6), ("bookmark.next", "Alt+;", 4), ("problems.check", "F4", 2),
]  # fmt: skip
"""An action, its keys, and how often a day."""
_OTHERWISE = [
    ("line.join", "menu", 9),
    ("format.file", "menu", 4),
    ("tabs.close", "menu", 6),
    ("files.new", "menu", 5),
    ("files.save", "mouse", 5),
    ("edit.paste", "menu", 3),
]
"""What is done by menu and mouse."""


def events() -> Iterator[dict[str, Any]]:
    """The events of all days, in the order in which they happened."""
    chance = random.Random(7)
    for week in range(WEEKS):
        for weekday in range(5):
            yield from _day(FIRST_DAY + timedelta(days=7 * week + weekday), week, chance)


def _day(now: datetime, week: int, chance: random.Random) -> Iterator[dict[str, Any]]:
    pieces: list[list[dict[str, Any]]] = []
    for action, keys, often in _OFTEN:
        left = max(1, round(often * chance.uniform(0.7, 1.3)))
        while left:
            count = min(left, chance.randint(1, 6))
            left -= count
            pieces.append([{"action": action, "keys": keys, **({"count": count} if count > 1 else {})}])
    for action, way, often in _OTHERWISE:
        rising = often * (0.6 + 0.2 * week) if action == "line.join" else often
        pieces += [[{"action": action, "by": way}] for _ in range(round(rising * chance.uniform(0.7, 1.3)))]
    # Three steps where one would do; a key that is hit for its neighbour; a sequence that nobody finishes.
    pieces += [
        [{"action": "cursor.line-start", "keys": "Alt+A"}, {"action": "edit.delete-to-line-end", "by": "menu"}]
        for _ in range(3)
    ]
    pieces += [[{"action": "line.move-down", "keys": "Alt+J"}, {"action": "history.undo", "keys": "Ctrl+Z"}]] * 2
    pieces += [[{"keys": "Ctrl+K", "waited": True}]]
    pieces += [[{"typed": chance.randint(40, 400)}] for _ in range(6)]
    chance.shuffle(pieces)
    for piece in pieces:
        now += timedelta(seconds=chance.randint(20, 240))
        editor = "desk" if chance.random() < 0.7 else "pier"
        for one in piece:
            now += timedelta(seconds=1)
            yield {"time": now.strftime("%Y-%m-%dT%H:%M:%SZ"), "editor": editor, "platform": "linux", **one}


if __name__ == "__main__":
    FILE.parent.mkdir(exist_ok=True)
    FILE.write_text("".join(json.dumps(one, separators=(",", ":")) + "\n" for one in events()), "utf-8")
    print(f"wrote {FILE.name}")
