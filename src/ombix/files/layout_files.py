"""Keyboard layouts: those that ship with Ombix by name, and those of a user's own XKB or CLDR file."""

from collections.abc import Mapping
from pathlib import Path

from ombix.core.errors import InputError, Place
from ombix.core.keys.platforms import Platform
from ombix.core.pressing.layouts import Layout
from ombix.data.shipped import Shipped
from ombix.files.disk import MAX_LAYOUT_SIZE, Files
from ombix.files.xkb import PLACE_OF_KEY, Symbols, SymbolsFile, SymbolsKey, folder_finder, read_symbols

SYSTEM_SYMBOLS = Path("/usr/share/X11/xkb/symbols")
"""Where X11 systems keep the symbols files that a user's own may include."""


def find_layout(name: str, folder: Path, platform: Platform, files: Files, shipped: Shipped) -> Layout:
    """A layout by its name, as a platform has it; or from a file whose name, from `folder` on, has a dot or a slash in it,
    or that is there. Raises InputError."""
    path = folder / name
    if name not in shipped.layout_names() and ("/" in name or "." in name or files.is_file(path)):
        return layout_file(path, files, shipped)
    return shipped.layout_on(name, platform)


def layout_file(path: Path, files: Files, shipped: Shipped, section: str = "") -> Layout:
    """The layout of an XKB symbols file or of a CLDR keyboard (LDML keyboard XML). Raises InputError."""

    def read(path: Path) -> str:
        return files.read_text(path, most=MAX_LAYOUT_SIZE)

    text = read(path)
    if text.lstrip().startswith("<"):
        from ombix.files.cldr import read_keyboard

        return read_keyboard(text, str(path))
    if not text.strip():
        raise InputError("the file is empty", "A layout is an XKB symbols file or a CLDR keyboard.", Place(str(path)))
    beside, system = folder_finder(path.parent, read), folder_finder(SYSTEM_SYMBOLS, read)

    def find(name: str) -> SymbolsFile | None:
        return beside(name) or system(name)

    base = Symbols(keys={key: SymbolsKey(list(levels)) for key, levels in _COMMON.items()})
    symbols = read_symbols(SymbolsFile(text, str(path)), find, section, base)
    keys = {PLACE_OF_KEY[key]: symbols.levels(key) for key in symbols.keys if key in PLACE_OF_KEY}
    return from_keysyms(
        path.name, symbols.title or path.name, keys, has_altgr(symbols), shipped.keysyms(), source=str(path)
    )


def from_keysyms(
    name: str, title: str, keys: dict[str, list[str]], altgr: bool, keysyms: Mapping[str, str], shape: str = "",
    source: str = "",
) -> Layout:  # fmt: skip
    """A layout from keysyms by place; its shape is told from its keys where it is not given."""
    levels = {place: tuple(character(symbol, keysyms) for symbol in symbols) for place, symbols in keys.items()}
    writing = {place: found for place, found in levels.items() if any(found)}
    if not shape:
        shape = "jis" if "IntlRo" in writing and "IntlYen" in writing else "iso"
    return Layout(name, title, writing, altgr, shape, source)


def character(keysym: str, keysyms: Mapping[str, str]) -> str:
    """The character of a keysym; the keysym's own name where it is none (X11 protocol, appendix A)."""
    if len(keysym) == 1:
        return keysym
    known = _MORE_KEYSYMS.get(keysym) or keysyms.get(keysym)
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


def has_altgr(symbols: Symbols) -> bool:
    """Whether the right Alt key chooses the third level."""
    key = symbols.keys.get("RALT")
    return key is not None and "ISO_Level3_Shift" in key.levels[:1]


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
