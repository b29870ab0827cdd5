"""Random macros of two to six steps, ported to each real editor and pressed there: python tools/try_macros.py [COUNT [SEED
[EDITOR…]]]."""

import random
import sys
import tempfile
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from ombix.core.errors import OmbixError
from ombix.data.shipped import Shipped
from ombix.editors.description_loading import Dialects
from ombix.work.carry import carry_questions
from ombix.work.carry.port import PortOptions
from ombix.work.carry.prove_answer import ProofReport
from ombix.workspace.open_workspace import OpenWorkspace

DIALECTS = Dialects(Shipped())
EDITORS = [name for name in DIALECTS.names() if not DIALECTS.load(name).description.simulated]
_MOVES = (
    "cursor.left", "cursor.right", "cursor.line-start", "cursor.line-end", "cursor.up", "cursor.down", "cursor.document-start",
    "cursor.document-end", "cursor.word-right", "cursor.word-left", "cursor.next-word",
)  # fmt: skip
_EDITS = (
    "edit.delete-left", "edit.delete-right", "edit.newline", "line.delete", "edit.delete-to-line-end", "edit.delete-word-left",
    "edit.cut-line", "edit.copy-line", "edit.paste", "line.copy-down",
)  # fmt: skip
_TEXTS = ("x", "ab ", "pier(", ")", "# ", "07:45", "; ", "fog.")
KEYS = [f"F{number}" for number in (5, 6, 7, 8, 9)] + [f"Alt+{letter}" for letter in "bcdhjkopqrsuwyz"]


def step(draw: random.Random) -> str:
    """One step of a macro."""
    kind = draw.random()
    if kind < 0.35:
        return f'{{ type = "{draw.choice(_TEXTS)}" }}'
    return f'{{ do = "{draw.choice(_MOVES if kind < 0.8 else _EDITS)}" }}'


def keymap(count: int, seed: str) -> str:
    """A keymap with so many macros of two to six steps, some of them repeated."""
    draw = random.Random(seed)
    lines = ["format = 1", 'name = "macros"']
    for number in range(count):
        steps = ", ".join(step(draw) for _ in range(draw.randint(2, 6)))
        if draw.random() < 0.2:
            steps = f"{{ repeat = 2, steps = [{steps}] }}"
        lines += ["", f"[macro.m{number}]", f'press = "{KEYS[number]}"', 'where = "pane is text"', f"steps = [{steps}]"]
    return "\n".join(lines) + "\n"


def _opened(folder: str, editor: str, count: int, seed: str) -> OpenWorkspace:
    (Path(folder) / "m.keys.toml").write_text(keymap(count, seed), "utf-8")
    text = f'format = 1\nkeymap = "m.keys.toml"\nplatform = "linux"\n\n[editor.here]\ndialect = "{editor}"\n'
    (Path(folder) / "ombix.toml").write_text(text, "utf-8")
    return OpenWorkspace(folder=folder, state=f"{folder}/state")


def tried(editor: str, count: int, seed: str) -> ProofReport:
    """The macros ported to an editor, and pressed there."""
    with tempfile.TemporaryDirectory() as name:
        return carry_questions.prove(_opened(name, editor, count, seed), "here", options=PortOptions(careful=True))


def lost(editor: str, count: int, seed: str) -> list[str]:
    """Why macros cannot be ported to an editor, of each that is lost."""
    with tempfile.TemporaryDirectory() as name:
        (report,) = carry_questions.port(_opened(name, editor, count, seed), "here", careful=True)
    return [one.how for one in report.bindings if one.verdict == "lost"]


def _said(editor: str) -> tuple[str, Counter[str]]:
    count = min(int(sys.argv[1]) if len(sys.argv) > 1 else 12, len(KEYS))
    try:
        found = tried(editor, count, f"{editor} {sys.argv[2] if len(sys.argv) > 2 else ''}")
    except OmbixError as error:
        return f"{editor}: {error.what} {error.advice}", Counter({"refused": 1})
    counts = Counter(f"{one.verdict} {one.result}" for one in found.keys)
    lines = [f"{editor:>9}: {count} macros, {len(found.keys)} ported: {dict(sorted(counts.items()))}"]
    lines += [
        f"    {one.keys} {one.action} ({one.verdict}) {one.result} {one.reason}: {one.expected!r} {one.found!r}; {one.how}"
        for one in found.keys
        if one.result != "agrees"
    ]
    return "\n".join(lines), counts


def main() -> int:
    totals: Counter[str] = Counter()
    with ProcessPoolExecutor(2) as pool:
        for said, counts in pool.map(_said, sys.argv[3:] or EDITORS):
            print(said, flush=True)
            totals.update(counts)
    print(", ".join(f"{name}: {count}" for name, count in sorted(totals.items())))
    return 1 if any("differs" in name for name in totals) else 0


if __name__ == "__main__":
    sys.exit(main())
