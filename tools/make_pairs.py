"""Writes docs/pairs.md: the verdicts of porting each editor's complete default keys to each other editor.

Usage: python tools/make_pairs.py.
"""

from concurrent.futures import ProcessPoolExecutor
from itertools import permutations
from pathlib import Path

from ombix.core.conditions import Space
from ombix.core.keymap.bindings import Keymap
from ombix.data.shipped import Shipped
from ombix.editors.description_loading import Dialects
from ombix.editors.editor_porting import Surroundings, port_keymap

PAGE = Path(__file__).resolve().parent.parent / "docs" / "pairs.md"
HEAD = """\
# From every editor to every other one

What becomes of each editor's complete default keys on Linux. After each port the written file was read back and compared
with its source, decision by decision. The tests press the exact ones whose action has an effect on text or cursor in the
real editors, and all that came across in the [stand-ins](stand-ins.md), on the stage; none differs.
"""
TABLE = """
| from | to | exact | adapted | lost | decisions compared |
|---|---|---|---|---|---|
"""
FOOT = """
Much is lost between editors with modes and those without, and from long sequences to single chords: a letter alone is a
command in one and a letter in the other. `ombix port --from NAME --to NAME --dry-run` says of each binding why.
"""


def page() -> str:
    """The page, made anew."""
    shipped = Shipped()
    dialects = Dialects(shipped)
    known = dialects.names()
    simulated = {name for name in known if dialects.load(name).description.simulated}
    pairs = list(permutations(known, 2))
    with ProcessPoolExecutor(2) as pool:
        rows = list(pool.map(row, pairs, chunksize=len(pairs) // 4))
    real = [text for pair, text in zip(pairs, rows, strict=True) if not simulated & set(pair)]
    other = [text for pair, text in zip(pairs, rows, strict=True) if simulated & set(pair)]
    tables = [TABLE + "\n".join(some) + "\n" for some in (real, other)]
    return f"{HEAD}{tables[0]}\n## From and to the stand-ins\n{tables[1]}{FOOT}"


def row(pair: tuple[str, str]) -> str:
    """The row of a pair."""
    source, target = pair
    shipped = Shipped()
    dialects = Dialects(shipped)
    origin, goal = dialects.load(source), dialects.load(target)
    keymap = Keymap([origin.default_layer])
    platform = shipped.platform("linux")
    space = Space(shipped.facts().extended([*origin.facts, *goal.facts], []))
    around = Surroundings(platform, shipped.terminal(goal.description.terminal), space, shipped.catalogue())
    file = port_keymap(keymap, keymap.in_force(platform).bindings, origin, goal, around)
    counts = " | ".join(str(file.count(verdict)) for verdict in ("exact", "adapted", "lost"))
    return f"| {source} | {target} | {counts} | {file.checked} |"


if __name__ == "__main__":
    PAGE.write_text(page(), "utf-8")
    print(f"wrote {PAGE.name}")
