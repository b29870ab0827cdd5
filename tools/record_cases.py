"""Record what the editors do in random cases, to be held against the programs: python tools/record_cases.py [COUNT] [EDITOR…].

COUNT is that of the cases for each command. What was recorded before is kept where the program of no command changed; seeds
and versions stand in each file, in tests/proving/cases/.
"""

import gzip
import json
import sys
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from conform import SHIPPED, commands_of

from ombix.dialects.effects import manner_of
from ombix.dialects.loading import Dialects
from ombix.proving import conforming
from ombix.proving.conforming import Case
from ombix.proving.sandbox import Sandbox

FOLDER = Path(__file__).resolve().parent.parent / "tests" / "proving" / "cases"
SEED = 20
WORKERS = 10
"""Editors at once, of each of two processes."""


def sections(editors: list[str]) -> list[tuple[str, str]]:
    """The editors that can be pressed in, or these, with their sections in which something is sure."""
    dialects = Dialects(SHIPPED)
    known = [dialects.load(name) for name in dialects.names()]
    return [
        (one.name, section) for one in known if one.description.program is not None and one.name in (editors or [one.name])
        for section in one.edited_sections if not manner_of(one, section).unsure
    ]  # fmt: skip


def pressed(work: tuple[str, str, list[Case]]) -> list[str | None]:
    """The texts that an editor comes to; where it differs from the programs, only what is so three times."""
    editor, section, many = work
    commands = commands_of(editor, section)
    found = conforming.run_many(many, commands, Sandbox((), ""), WORKERS)
    texts: list[str | None] = []
    for case, one in zip(many, found, strict=True):
        if one is None:
            texts.append(conforming.expected(case, commands).text)
        else:
            texts.append(one.found if isinstance(one, conforming.Discrepancy) else None)
    return texts


def main() -> None:
    each = int(sys.argv[1]) if len(sys.argv) > 1 else 150
    FOLDER.mkdir(exist_ok=True)
    total = differing = 0
    for editor, section in sections(sys.argv[2:]):
        started = time.monotonic()
        commands = commands_of(editor, section)
        many = [
            one for one in conforming.cases(commands, each * len(commands.programs), SEED)
            if conforming.expected(one, commands).is_sure
        ]  # fmt: skip
        half = len(many) // 2
        with ProcessPoolExecutor(2) as pool:
            parts = [(editor, section, part) for part in (many[:half], many[half:])]
            texts = [text for part in pool.map(pressed, parts) for text in part]
        rows = [[*case[1:], text] for case, text in zip(many, texts, strict=True) if text is not None]
        wrong = sum(conforming.expected(Case(section, *row[:-1]), commands).text != row[-1] for row in rows)
        version = commands.dialect.description.version
        document = {"editor": editor, "section": section, "version": version, "seed": SEED, "cases": rows}
        data = json.dumps(document, ensure_ascii=False, separators=(",", ":")).encode()
        (FOLDER / f"{editor}-{section}.json.gz").write_bytes(gzip.compress(data, mtime=0))
        print(f"{editor} {section}: {len(rows)} cases, {wrong} differ, {time.monotonic() - started:.0f} s", flush=True)
        total, differing = total + len(rows), differing + wrong
    print(f"{total} cases, {differing} differ")


if __name__ == "__main__":
    main()
