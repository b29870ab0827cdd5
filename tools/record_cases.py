"""Record what the editors do in random cases, to be held against the programs: python tools/record_cases.py [COUNT] [EDITOR…].

COUNT is that of the cases that end in each command, where the programs are sure. What is in tests/evidence/cases/ stays where
it is of the same version, and is written again after each part: a run that was stopped goes on. Seeds and versions stand in
each file.
"""

import gzip
import json
import sys
import time
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from conform import SHIPPED, commands_of

from ombix.editors.command_effects import manner_of
from ombix.editors.description_loading import Dialects
from ombix.evidence import effect_conformance
from ombix.evidence.effect_conformance import Case, Commands
from ombix.evidence.sandbox import Sandbox

FOLDER = Path(__file__).resolve().parent.parent / "tests" / "proving" / "cases"
FIRST_SEED = 20
LAST_SEED = 60
PART = 600
"""Cases that are pressed before the file is written again."""
WORKERS = 10
"""Editors at once, of each of two processes; one of those with a window, which work and do not wait."""

Row = list[object]


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
    program = commands.dialect.description.program
    workers = 1 if program is not None and program.window else WORKERS
    found = effect_conformance.run_many(many, commands, Sandbox((), ""), workers)
    texts: list[str | None] = []
    for case, one in zip(many, found, strict=True):
        if one is None:
            texts.append(effect_conformance.expected(case, commands).text)
        else:
            texts.append(one.found if isinstance(one, effect_conformance.Discrepancy) else None)
    return texts


def wanted(commands: Commands, each: int, rows: list[Row]) -> Iterator[Case]:
    """Cases that are still to be pressed, until there are enough for each command."""
    have = Counter(row[2][-1] for row in rows)  # type: ignore[index]
    known = {json.dumps(row[:-1]) for row in rows}
    for seed in range(FIRST_SEED, LAST_SEED):
        if all(have[name] >= each for name in commands.programs if commands.unsure[name] != "always"):
            return
        for one in effect_conformance.cases(commands, each * len(commands.programs), seed):
            key = json.dumps(one[1:])
            if have[one.commands[-1]] >= each or key in known or not effect_conformance.expected(one, commands).is_sure:
                continue
            known.add(key)
            have[one.commands[-1]] += 1
            yield one


def telling(commands: Commands, rows: list[Row]) -> Iterator[Case]:
    """Cases that tell a program from one that is changed in a word, where none of those that were recorded does."""
    known = [(Case(commands.section, *row[:-1]), row[-1]) for row in rows]  # type: ignore[arg-type]
    for name, other in effect_conformance.changed_programs(commands):
        some = [(case, text) for case, text in known if name in case.commands]
        if not any(
            effect_conformance.expected(case, commands).text == text != effect_conformance.expected(case, other).text
            for case, text in some
        ):
            yield from effect_conformance.telling_cases(commands, other, name, 3)


def record(editor: str, section: str, each: int) -> tuple[int, int]:
    """Press what is missing in a section; the number of cases and of those that differ."""
    started = time.monotonic()
    commands = commands_of(editor, section)
    version = commands.dialect.description.version
    file = FOLDER / f"{editor}-{section}.json.gz"
    rows: list[Row] = []
    if file.exists():
        before = json.loads(gzip.decompress(file.read_bytes()))
        rows = before["cases"] if before["version"] == version else []
        rows = [row for row in rows if all(name in commands.programs for name in row[2])]
    missing = list(wanted(commands, each, rows))
    missing += [one for one in telling(commands, rows) if one not in missing]
    with ProcessPoolExecutor(2) as pool:
        for begin in range(0, len(missing), PART):
            part = missing[begin : begin + PART]
            halves = [(editor, section, one) for one in (part[::2], part[1::2])]
            cases = [one for half in halves for one in half[2]]
            texts = [text for each_half in pool.map(pressed, halves) for text in each_half]
            rows += [[*case[1:], text] for case, text in zip(cases, texts, strict=True) if text is not None]
            document = {
                "editor": editor, "section": section, "version": version, "seeds": [FIRST_SEED, LAST_SEED], "cases": rows,
            }  # fmt: skip
            data = json.dumps(document, ensure_ascii=False, separators=(",", ":")).encode()
            file.write_bytes(gzip.compress(data, mtime=0))
    wrong = sum(effect_conformance.expected(Case(section, *row[:-1]), commands).text != row[-1] for row in rows)  # type: ignore[arg-type]
    print(f"{editor} {section}: {len(rows)} cases, {wrong} differ, {time.monotonic() - started:.0f} s", flush=True)
    return len(rows), wrong


def main() -> None:
    each = int(sys.argv[1]) if len(sys.argv) > 1 else 160
    FOLDER.mkdir(exist_ok=True)
    found = [record(editor, section, each) for editor, section in sections(sys.argv[2:])]
    print(f"{sum(one for one, _wrong in found)} cases, {sum(wrong for _one, wrong in found)} differ")


if __name__ == "__main__":
    main()
