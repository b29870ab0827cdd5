"""A keyboard layout as a picture of signs: the letter block, each key with its levels."""

from ombix.core.keys.keyboards import Keyboard
from ombix.core.pressing.layouts import DEAD_MARKS
from ombix.report.blocks import Blank, Block, Cell, Code, Grid, line
from ombix.report.terminal_text import Display, width_of
from ombix.work.look.layouts_answer import KnownHardware, LayoutKeys

_KEY_WIDTH = 5
"""Terminal cells for a key of one unit: two levels of two cells, and a line."""


def layout_keys(layout: LayoutKeys, keyboard: Keyboard) -> list[Block]:
    """The letter block, each key with its levels: above with Shift, on the right with AltGr."""
    letters = [
        place for place in layout.keys if place in keyboard.positions and place not in ("Space", "NumpadDecimal")
    ]
    blocks: list[Block] = [
        line(Cell(layout.title, "strong"), f", {layout.shape.upper()} keyboard"),
        line("Each key: above with Shift, on the right with AltGr. A dead key has ˍ behind it.", indent=2), Blank(),
    ]  # fmt: skip
    for row in sorted({keyboard.positions[place].y for place in letters}):
        places = sorted(
            (place for place in letters if keyboard.positions[place].y == row),
            key=lambda one: keyboard.positions[one].x,
        )
        blocks += [Code(tuple(_line(places, upper, layout, keyboard) for upper in (True, False)), 0), Blank()]
    return blocks


def _line(places: list[str], upper: bool, layout: LayoutKeys, keyboard: Keyboard) -> str:
    text = ""
    for place in places:
        levels = (*layout.keys[place], "", "", "", "")
        pair = (levels[1], levels[3]) if upper else (levels[0], levels[2])
        if not layout.altgr:
            pair = (pair[0], "")
        start = int(keyboard.positions[place].x * _KEY_WIDTH + 0.5)
        text += " " * max(0, start - width_of(text)) + "".join(_sign(symbol) for symbol in pair) + "│"
    return text


def _sign(symbol: str) -> str:
    """A level in two cells."""
    if symbol in DEAD_MARKS or symbol.startswith("dead_"):
        return (DEAD_MARKS.get(symbol, ("",))[0] or "◌") + "ˍ"
    shown = symbol if len(symbol) == 1 and symbol.isprintable() and symbol != "\u00a0" else ""
    return shown + " " * (2 - width_of(shown))


def known_hardware(found: KnownHardware, display: Display) -> list[Block]:
    """Layouts, keyboards, terminals and desktops."""
    rows = [
        (Cell(layout.name, "strong"), layout.title, layout.shape.upper(), "AltGr" if layout.altgr else "")
        for layout in found.layouts
    ]
    blocks: list[Block] = [Grid(rows, ("layout", "title", "shape", "third level"))]
    for title, names in (
        ("Keyboards", found.keyboards), ("Terminals", found.terminals), ("Desktops", found.desktops),
    ):  # fmt: skip
        blocks += [Blank(), line(f"{title}: {', '.join(names)}")]
    return blocks
