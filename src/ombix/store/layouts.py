"""Keyboard layouts and keyboards: those that ship with Ombix by name, and those of a user's own XKB or CLDR file."""

from collections.abc import Iterable
from functools import lru_cache
from pathlib import Path
from typing import Any

import tomli

from ombix.core.errors import InputError, Place, did_you_mean
from ombix.core.keyboards import Keyboard, place_of
from ombix.core.keyboards import keyboard as build_keyboard
from ombix.core.layouts import Layout
from ombix.data.shipped import DATA
from ombix.store.files import read_text
from ombix.store.xkb import PLACE_OF_KEY, Key, Source, Symbols, folder_finder, read_symbols

SYSTEM_SYMBOLS = Path("/usr/share/X11/xkb/symbols")
"""Where X11 systems keep the symbols files that a user's own may include."""


def layout_names() -> list[str]:
    """The names of the layouts that ship with Ombix."""
    return sorted(path.stem for path in (DATA / "layouts").glob("*.toml"))


def keyboard_names() -> list[str]:
    """The names of the keyboards."""
    return sorted(path.stem for path in (DATA / "keyboards").glob("*.toml"))


@lru_cache(maxsize=32)
def layout(name: str) -> Layout:
    """A layout that ships with Ombix. Raises InputError."""
    known = layout_names()
    if name not in known:
        raise InputError(f"unknown layout: {name}", did_you_mean(name, known) or f"Known are {', '.join(known)}.")
    table = _table(DATA / "layouts" / f"{name}.toml")
    return Layout(
        name, table["title"], {place_of(key): tuple(levels) for key, levels in table["keys"].items()},
        table["altgr"], table["shape"], table["source"], _table(DATA / "legends.toml").get(name.partition("-")[0], {})
        if not name.endswith("-mac") else {},
    )  # fmt: skip


def layout_or_file(text: str, folder: Path, variant: str = "") -> Layout:
    """A layout by its name, or from a file whose name has a dot or a slash in it, or that is there. Raises InputError.

    Of a layout that has a `variant` for the platform (`de-mac`), that one is taken.
    """
    path = folder / text
    known = layout_names()
    if text not in known and ("/" in text or "." in text or path.is_file()):
        return layout_file(path)
    return layout(f"{text}-{variant}" if variant and f"{text}-{variant}" in known else text)


def files_of(names: Iterable[str], folder: Path) -> list[str]:
    """The files that these layouts and their keyboards come from."""
    known = layout_names()
    own = [DATA / "layouts" / f"{one}.toml" if one in known else folder / one for one in names]
    return [str(path) for path in (*own, *sorted((DATA / "keyboards").glob("*.toml")), DATA / "shapes.toml",
            DATA / "legends.toml")]  # fmt: skip


def layout_file(path: Path, section: str = "") -> Layout:
    """The layout of an XKB symbols file or of a CLDR keyboard (LDML keyboard XML). Raises InputError."""
    text = read_text(path)
    if text.lstrip().startswith("<"):
        from ombix.store.cldr import read_keyboard

        return read_keyboard(text, str(path))
    if not text.strip():
        raise InputError("the file is empty", "A layout is an XKB symbols file or a CLDR keyboard.", Place(str(path)))
    beside, system = folder_finder(path.parent, read_text), folder_finder(SYSTEM_SYMBOLS, read_text)

    def find(name: str) -> Source | None:
        return beside(name) or system(name)

    base = Symbols(keys={key: Key(list(levels)) for key, levels in _COMMON.items()})
    symbols = read_symbols(Source(text, str(path)), find, section, base)
    keys = {PLACE_OF_KEY[key]: symbols.levels(key) for key in symbols.keys if key in PLACE_OF_KEY}
    return from_keysyms(path.name, symbols.title or path.name, keys, has_altgr(symbols), "", str(path))


def from_keysyms(
    name: str, title: str, keys: dict[str, list[str]], altgr: bool, shape: str, source: str = ""
) -> Layout:
    """A layout from keysyms by place; its shape is told from its keys where it is not given."""
    levels = {place: tuple(character(symbol) for symbol in symbols) for place, symbols in keys.items()}
    writing = {place: found for place, found in levels.items() if any(found)}
    if not shape:
        shape = "jis" if "IntlRo" in writing and "IntlYen" in writing else "iso"
    return Layout(name, title, writing, altgr, shape, source)


def character(keysym: str) -> str:
    """The character of a keysym; the keysym's own name where it is none (X11 protocol, appendix A)."""
    if len(keysym) == 1:
        return keysym
    known = _MORE_KEYSYMS.get(keysym) or keysyms().get(keysym)
    if known is not None:
        return known
    if keysym == "VoidSymbol":  # a level that is empty on purpose
        return ""
    digits = keysym[1:] if keysym[:1] == "U" and 5 <= len(keysym) <= 7 else ""
    if keysym[:5].lower() in ("0x100", "0x101"):
        digits = keysym[4:]
    try:
        code = int(digits, 16) if digits else 0
    except ValueError:
        return keysym
    return chr(code) if 0x20 <= code <= 0x10FFFF and not 0xD800 <= code <= 0xDFFF else keysym


_MORE_KEYSYMS = {"KP_Decimal": ".", "KP_Separator": ",", "dead_psili": "dead_abovecomma",
                 "dead_dasia": "dead_abovereversedcomma", "leftanglebracket": "⟨", "rightanglebracket": "⟩"}  # fmt: skip
"""Keysyms of the number pad that write, other names of dead keys (keysymdef.h, and appendix A of the protocol), and
the angle brackets, whose characters in that header Unicode has deprecated."""


@lru_cache(maxsize=1)
def keysyms() -> dict[str, str]:
    """Keysym name to its character."""
    return {name: str(text) for name, text in _table(DATA / "keysyms.toml").items()}


def has_altgr(symbols: Symbols) -> bool:
    """Whether the right Alt key chooses the third level."""
    key = symbols.keys.get("RALT")
    return key is not None and "ISO_Level3_Shift" in key.levels[:1]


@lru_cache(maxsize=16)
def keyboard(name: str, shape: str) -> Keyboard:
    """A keyboard that ships with Ombix, in the shape of a layout. Raises InputError."""
    known = keyboard_names()
    if name not in known:
        raise InputError(f"unknown keyboard: {name}", did_you_mean(name, known) or f"Known are {', '.join(known)}.")
    return build_keyboard(name, _table(DATA / "keyboards" / f"{name}.toml"), _table(DATA / "shapes.toml"), shape)


def dump(layout: Layout, source: str) -> str:
    """A layout as a data file."""
    lines = [
        f"title = {_string(layout.title)}", f"source = {_string(source)}", f'shape = "{layout.shape}"',
        f"altgr = {'true' if layout.has_altgr else 'false'}", "", "[keys]",
    ]  # fmt: skip
    for place, levels in layout.keys.items():
        lines.append(f"{place.removeprefix('Key')} = [{', '.join(_string(symbol) for symbol in levels)}]")
    return "\n".join(lines) + "\n"


# The keys that all layouts of a PC keyboard begin with (xkb-data, symbols/pc and symbols/keypad).
_COMMON = {
    "LSGT": ("less", "greater", "bar", "brokenbar"), "BKSL": ("backslash", "bar"), "SPCE": ("space",),
    "KPDL": ("KP_Delete", "KP_Decimal"), "RALT": ("Alt_R", "Meta_R"),
}  # fmt: skip


def _string(text: str) -> str:
    inner = "".join(
        f"\\{char}" if char in '"\\' else char if char.isprintable() else f"\\U{ord(char):08X}" for char in text
    )
    return f'"{inner}"'


def _table(path: Path) -> dict[str, Any]:
    with path.open("rb") as file:
        return tomli.load(file)
