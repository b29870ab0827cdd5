"""Damages files of every kind that Ombix reads, and reads them.

Usage: python tools/try_damage.py [FILES]. Each is read, or refused with a place and an advice, within five seconds and one
GiB; what an editor's file is read as can be written as a layer and read again. Prints what was done, and ends with status 1
where that did not hold.
"""

import itertools
import os
import random
import resource
import shutil
import sys
import tempfile
import time
import traceback
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from ombix.work.audit import audit_questions

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from ombix.core.errors import OmbixError
from ombix.core.keymap.bindings import LayerName
from ombix.data.shipped import DATA
from ombix.files import keymap_reading, keymap_writing
from ombix.files import workspace_file as workspaces
from ombix.files.layout_files import find_layout
from ombix.work.describe.inventory import check_description
from ombix.workspace.open_workspace import OpenWorkspace
from ombix.workspace.resources import Resources
from tests.editors.test_bad_files import SAMPLES

SECONDS, MEMORY = 5.0, 1024**3
_PIECES = (
    "\0", "\x1b", "\ud800", "\u202e", "\ufeff", "é", "漢", "\r", "\r\n", "\t", "\x85", '"', "'", '"""', "[", "]", "{", "}",
    "[[", "=", "#", "//", "/*", "\\", "\\u", "\\U00110000", "%", "^", "^[", "<", ">", "<ret>", "<!--", "]]>", "&lt;", "&x;",
    ",", ";", ":", ".", "+", "Ctrl+", "Mod+", "{n:1-5}", "{n:1-99999999}", "1" * 5000, "-1", "1e999", "nan", "0x", "true",
    "1979-05-27T07:32:00Z", "[]", "{}", " and ", " or ", "not ", "(" * 200, "is", "in (", "bind", "include", "unbind", "map",
    "format = 1", "name", "press", "where", "extends", 'extends = ["k.keys.toml"]', "like", "[where]", "a = 1\n", "x" * 3000,
)  # fmt: skip


class Kind(NamedTuple):
    """A kind of file: what it is called, and what reads it (and raises OmbixError)."""

    name: str
    file: str
    read: Callable[[Path], None]


def damaged(data: bytes, chance: random.Random, others: list[bytes]) -> bytes:
    """A file with one to four things wrong in it."""
    for _ in range(chance.randint(1, 4)):
        at = chance.randrange(len(data) + 1)
        length = min(len(data) - at, chance.choice([0, 1, 1, 2, 5, 20, 100]))
        match chance.randrange(9):
            case 0:
                data = data[:at]
            case 1:
                data = data[:at] + data[at + length :]
            case 2:
                data = (
                    data[:at]
                    + bytes(chance.randrange(256) for _ in range(chance.choice([1, 2, 8])))
                    + data[at + length :]
                )
            case 3:
                other = chance.choice(others)
                start = chance.randrange(len(other) + 1)
                data = data[:at] + other[start : start + chance.choice([5, 40, 200])] + data[at:]
            case 4:
                data = data[:at] + data[at : at + length] * chance.choice([2, 3, 50]) + data[at + length :]
            case 5:
                lines = data.split(b"\n")
                chance.shuffle(lines)
                data = b"\n".join(lines)
            case 6:
                lines = data.split(b"\n")
                line = chance.choice(lines)
                data = b"\n".join([*lines, line * chance.choice([1, 30])])
            case _:
                piece = chance.choice(_PIECES).encode("utf-8", "surrogatepass")
                data = data[:at] + piece + data[at + (length if chance.random() < 0.5 else 0) :]
    return data[:200_000]


def kinds(folder: Path) -> tuple[list[Kind], dict[str, bytes]]:
    """All kinds of files, with a whole one of each by its kind's name."""
    resources = Resources()
    shipped = resources.shipped

    turns = itertools.count()

    def keymap(path: Path) -> None:
        for lenient in (False, True):
            layers = keymap_reading.load(path, shipped.catalogue(), shipped.facts(), lenient=lenient)
        session = OpenWorkspace(path, kind="file", folder=str(folder))
        audit_questions.audit(session)
        assert layers

    def editor_file(name: str) -> Callable[[Path], None]:
        dialect = resources.dialects.load(name)

        def read(path: Path) -> None:
            found = resources.read_editor_file(dialect, path, LayerName(str(path), "x", "adopted", name))
            text = keymap_writing.dump(found.layer)
            again = keymap_reading.read(text, "x", shipped.catalogue(), shipped.facts(), "adopted")
            assert keymap_writing.entries_in(again) == keymap_writing.entries_in(found.layer), "it cannot be read back"

        return read

    def described(path: Path) -> None:
        fresh = Resources()
        dialect = fresh.dialects.load(str(path.parent))
        assert dialect.vocabulary
        assert dialect.default_layer
        if next(turns) % 10 == 0:  # it takes as long as all else together
            check_description(path.parent, fresh)

    def layout(path: Path) -> None:
        find_layout(str(path), folder, shipped.platform("linux"), resources.files, shipped)

    found = [
        Kind("keymap", "k.keys.toml", keymap),
        Kind("workspace", "ombix.toml", lambda path: assert_that(workspaces.load(path, resources.files, shipped))),
        Kind("dialect", "d/dialect.toml", described), Kind("commands", "d/commands.toml", described),
        Kind("defaults", "d/defaults.toml", described), Kind("symbols", "l.xkb", layout), Kind("keyboard", "l.xml", layout),
        *(Kind(name, f"file-{name}", editor_file(name)) for name in SAMPLES),
    ]  # fmt: skip
    rowboat = DATA / "demo" / "rowboat"
    whole = {
        "keymap": (DATA / "demo" / "crew.keys.toml").read_bytes(), "workspace": (DATA / "demo" / "ombix.toml").read_bytes(),
        **{name: (rowboat / f"{name}.toml").read_bytes() for name in ("dialect", "commands", "defaults")},
        "symbols": SYMBOLS, "keyboard": KEYBOARD, **{name: text.encode() for name, text in SAMPLES.items()},
    }  # fmt: skip
    return found, whole


def assert_that(value: object) -> None:
    """Raise AssertionError where there is nothing."""
    assert value


SYMBOLS = b"""default partial alphanumeric_keys
xkb_symbols "basic" { include "us(basic)"
  name[Group1] = "Pier"; key <AC01> { [ a, A, ae, AE ] }; key <AC02> { type[Group1] = "FOUR_LEVEL", [ s, S, U1E9E ] };
  replace key <AD01> { [ q, Q ] }; };
"""
KEYBOARD = b"""<?xml version="1.0" encoding="UTF-8"?>
<keyboard3 xmlns="https://schemas.unicode.org/cldr/45/keyboard3" locale="de" conformsTo="45">
<info name="Pier"/><keys><key id="a" output="a"/><key id="A" output="A"/></keys>
<layers formId="us"><layer modifiers="none"><row keys="a a"/></layer><layer modifiers="shift"><row keys="A"/></layer></layers>
</keyboard3>
"""


def fault(kind: Kind, data: bytes, folder: Path) -> tuple[str, str]:
    """Read one file: how that ended, and what was wrong."""
    path = folder / kind.file
    path.write_bytes(data)
    start = time.process_time()
    wrong = ""
    try:
        kind.read(path)
        end = "read"
    except OmbixError as error:
        end = "refused"
        if error.place is None:
            wrong = f"refused without a place: {error.what}"
        elif not error.advice:
            wrong = f"refused without an advice: {error.what}"
    except (Exception, RecursionError):
        end, wrong = "fell", traceback.format_exc(limit=-3)
    took = time.process_time() - start
    return end, wrong or (f"took {took:.1f} s" if took > SECONDS else "")


def main() -> None:
    """Try it."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 100_000
    seed = int(sys.argv[2]) if len(sys.argv) > 2 else 29
    resource.setrlimit(resource.RLIMIT_DATA, (MEMORY, MEMORY))
    chance, faults, ends, seen = random.Random(seed), 0, Counter[str](), Counter[str]()
    with tempfile.TemporaryDirectory(prefix="ombix-damage-") as name:
        folder = Path(name)
        shutil.copytree(DATA / "demo" / "rowboat", folder / "d")
        found, whole = kinds(folder)
        os.chdir(folder)
        others = list(whole.values())
        for kind in found:
            _end, wrong = fault(kind, whole[kind.name], folder)
            assert not wrong, (kind.name, wrong)
        for number in range(count):
            kind = found[number % len(found)]
            data = damaged(whole[kind.name], chance, others)
            end, wrong = fault(kind, data, folder)
            ends[end] += 1
            (folder / kind.file).write_bytes(whole[kind.name])
            if wrong:
                faults += 1
                said = wrong.split("\n")[-2] if "\n" in wrong else f"{kind.name}: {wrong[:80]}"
                seen[said] += 1
                if end == "fell" and seen.most_common()[-1][1] == 1 and len(seen) <= 40:
                    print(f"--- {kind.name}: {wrong}")
    for what, times in seen.most_common(60):
        print(f"{times} x {what}")
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    sums = ", ".join(f"{end} {number}" for end, number in ends.items())
    print(f"{count} damaged files: {sums}; peak {peak:.0f} MiB; {faults} faults")
    sys.exit(1 if faults else 0)


if __name__ == "__main__":
    main()
