"""Makes src/ombix/data/layouts/*.toml and src/ombix/data/keysyms.toml from the system's packages xkb-data and x11proto-dev.

Usage: python tools/make_layouts.py. What is not a letter, digit or sign (function keys, arrows) is the same in all layouts
and is not written.
"""

import re
import subprocess
from pathlib import Path

from ombix.data.shipped import DATA, Shipped
from ombix.files import layout_files
from ombix.files.disk import Files
from ombix.files.xkb import PLACE_OF_KEY, folder_finder, read_symbols

SYMBOLS = Path("/usr/share/X11/xkb/symbols")
KEYSYMS = Path("/usr/include/X11/keysymdef.h")

# Name, XKB layout, variant, and the shape of the keyboards that are sold with it.
LAYOUTS = (
    ("us", "us", "", "ansi"), ("us-intl", "us", "intl", "ansi"), ("us-dvorak", "us", "dvorak", "ansi"),
    ("us-colemak", "us", "colemak", "ansi"), ("us-mac", "us", "mac", "ansi"), ("gb", "gb", "", "iso"),
    ("gb-mac", "gb", "mac", "iso"), ("ie", "ie", "", "iso"), ("de", "de", "", "iso"),
    ("de-nodeadkeys", "de", "nodeadkeys", "iso"), ("de-mac", "de", "mac", "iso"), ("at", "at", "", "iso"),
    ("ch", "ch", "", "iso"), ("ch-fr", "ch", "fr", "iso"), ("fr", "fr", "", "iso"), ("fr-mac", "fr", "mac", "iso"),
    ("be", "be", "", "iso"), ("nl", "nl", "", "iso"), ("es", "es", "", "iso"), ("es-mac", "es", "mac", "iso"),
    ("latam", "latam", "", "iso"), ("it", "it", "", "iso"), ("it-mac", "it", "mac", "iso"), ("pt", "pt", "", "iso"),
    ("pt-mac", "pt", "mac", "iso"), ("br", "br", "", "iso"), ("dk", "dk", "", "iso"), ("dk-mac", "dk", "mac", "iso"),
    ("no", "no", "", "iso"), ("se", "se", "", "iso"), ("se-mac", "se", "mac", "iso"), ("fi", "fi", "", "iso"),
    ("is", "is", "", "iso"), ("ee", "ee", "", "iso"), ("pl", "pl", "", "ansi"), ("cz", "cz", "", "iso"),
    ("sk", "sk", "", "iso"), ("hu", "hu", "", "iso"), ("ro", "ro", "", "iso"), ("hr", "hr", "", "iso"),
    ("tr", "tr", "", "iso"), ("ru", "ru", "", "ansi"), ("ua", "ua", "", "ansi"), ("gr", "gr", "", "iso"),
    ("il", "il", "", "ansi"), ("jp", "jp", "", "jis"), ("kr", "kr", "", "ansi"),
)  # fmt: skip


def keysym_table() -> str:
    """Keysym names that are characters, with the character, from the comments of the X11 protocol's header."""
    lines = [
        "# X11 keysym names and the characters that they stand for; from keysymdef.h of the X11 protocol headers.",
        f"# Package x11proto-dev {version('x11proto-dev')}.",
    ]
    for match in re.finditer(
        r"^#define XK_(\w+)\s+0x[0-9A-Fa-f]+\s*/\*[ (]U\+([0-9A-F]{4,6})", Files().read_text(KEYSYMS), re.M
    ):
        code = int(match[2], 16)
        if code >= 0x20:
            lines.append(f'{match[1]} = "\\U{code:08X}"')
    return "\n".join(lines) + "\n"


def version(package: str) -> str:
    """The version of a system package."""
    done = subprocess.run(["dpkg-query", "-W", "-f", "${Version}", package], capture_output=True, text=True, check=True)
    return done.stdout


def main() -> None:
    """Write all files."""
    (DATA / "keysyms.toml").write_text(keysym_table(), "utf-8")
    files, keysyms = Files(), Shipped().keysyms()
    find = folder_finder(SYMBOLS, files.read_text)
    package = f"xkb-data {version('xkb-data')}"
    for old in (DATA / "layouts").glob("*.toml"):
        old.unlink()
    for name, layout, variant, shape in LAYOUTS:
        source, base = find(layout), find("pc")
        assert source is not None
        assert base is not None
        symbols = read_symbols(source, find, variant, read_symbols(base, find))
        keys = {PLACE_OF_KEY[key]: symbols.levels(key) for key in symbols.keys if key in PLACE_OF_KEY}
        found = layout_files.from_keysyms(name, symbols.title, keys, layout_files.has_altgr(symbols), keysyms, shape)
        text = layout_files.dump(found, f"{package}, symbols/{layout}{f'({variant})' if variant else ''}")
        (DATA / "layouts" / f"{name}.toml").write_text(text, "utf-8")
    print(f"wrote {len(LAYOUTS)} layouts")


if __name__ == "__main__":
    main()
