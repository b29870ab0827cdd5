"""`ombix layouts`: the keyboard layouts that Ombix knows, and what is on the keys of one."""

import typer

from ombix.cli.environment import Environment, Status, environment_of
from ombix.cli.options import JsonOption
from ombix.core.keyboards import Keyboard
from ombix.core.layouts import DEAD_MARKS, Layout
from ombix.data import shipped
from ombix.report.plain import Cell, table, width_of, wrap
from ombix.store import layouts

_CELL = 5
"""Terminal cells for a key of one unit: two levels of two cells, and a line."""


def run(
    context: typer.Context,
    name: str = typer.Argument(
        "", metavar="[NAME]", help="One layout by its name, or a file (XKB symbols, CLDR keyboard)."
    ),
    json: JsonOption = False,
) -> Status:
    """Keyboard layouts, keyboards, terminals and desktops that Ombix knows; or what is on the keys of one layout."""
    environment = environment_of(context)
    if name:
        found = layouts.layout_or_file(name, environment.folder)
        if json:
            environment.json(_document(found))
        else:
            _draw(environment, found)
        return Status.FINE
    known = [layouts.layout(one) for one in layouts.layout_names()]
    if json:
        environment.json({
            "layouts": [{"name": one.name, "title": one.title, "shape": one.shape, "altgr": one.has_altgr} for one in known],
            "keyboards": layouts.keyboard_names(), "terminals": shipped.terminal_names(),
            "desktops": shipped.desktop_names(), "platforms": shipped.platform_names(),
        })  # fmt: skip
        return Status.FINE
    rows: list[list[Cell | str]] = [
        [Cell(one.name, "strong"), one.title, one.shape.upper(), "AltGr" if one.has_altgr else ""] for one in known
    ]
    environment.out(*table(rows, environment.paper, ("layout", "title", "shape", "third level")))
    for title, names in (
        ("Keyboards", layouts.keyboard_names()), ("Terminals", shipped.terminal_names()),
        ("Desktops", shipped.desktop_names()),
    ):  # fmt: skip
        environment.out("", *wrap(f"{title}: {', '.join(names)}", environment.paper))
    return Status.FINE


def _draw(environment: Environment, layout: Layout) -> None:
    """The letter block, each key with its levels: above with Shift, on the right with AltGr."""
    paper = environment.paper
    environment.out(f"{paper.style(layout.title, 'strong')}, {layout.shape.upper()} keyboard")
    environment.out(
        *wrap("Each key: above with Shift, on the right with AltGr. A dead key has ˍ behind it.", paper, 2), ""
    )
    keyboard = layouts.keyboard("full", layout.shape)
    letters = [
        place for place in layout.keys if place in keyboard.positions and place not in ("Space", "NumpadDecimal")
    ]
    for row in sorted({keyboard.positions[place].y for place in letters}):
        places = sorted(
            (place for place in letters if keyboard.positions[place].y == row),
            key=lambda one: keyboard.positions[one].x,
        )
        for upper in (True, False):
            environment.out(_line(places, upper, layout, keyboard))
        environment.out("")


def _line(places: list[str], upper: bool, layout: Layout, keyboard: Keyboard) -> str:
    line = ""
    for place in places:
        levels = (*layout.keys[place], "", "", "", "")
        pair = (levels[1], levels[3]) if upper else (levels[0], levels[2])
        if not layout.has_altgr:
            pair = (pair[0], "")
        start = int(keyboard.positions[place].x * _CELL + 0.5)
        line += " " * max(0, start - width_of(line)) + "".join(_sign(symbol) for symbol in pair) + "│"
    return line


def _sign(symbol: str) -> str:
    """A level in two cells."""
    if symbol in DEAD_MARKS or symbol.startswith("dead_"):
        return (DEAD_MARKS.get(symbol, ("",))[0] or "◌") + "ˍ"
    shown = symbol if len(symbol) == 1 and symbol.isprintable() and symbol != "\u00a0" else ""
    return shown + " " * (2 - width_of(shown))


def _document(layout: Layout) -> dict[str, object]:
    return {
        "name": layout.name, "title": layout.title, "shape": layout.shape, "altgr": layout.has_altgr,
        "source": layout.source, "keys": {place: list(levels) for place, levels in layout.keys.items()},
    }  # fmt: skip
