"""Hold the programs of the editors' commands against the editors: python tools/conform.py EDITOR [SECTION] [COUNT] [SEED] [LINE…].

Lines are settings that the editor's file begins with."""

import sys
import time
from collections import Counter
from concurrent.futures import ProcessPoolExecutor

from ombix.data.shipped import Shipped
from ombix.editors.description_loading import Dialects
from ombix.evidence import effect_conformance
from ombix.evidence.effect_conformance import Case, Commands, Discrepancy
from ombix.evidence.sandbox import Sandbox

SHIPPED = Shipped()
WORKERS = 10
"""Editors at once, of each of two processes; of those with a window, which work and do not wait, fewer."""


def commands_of(editor: str, section: str) -> Commands:
    """The commands of an editor, with the settings of the call."""
    return effect_conformance.commands_of(
        Dialects(SHIPPED).load(editor), section, SHIPPED.catalogue(), tuple(sys.argv[5:])
    )


def part(work: tuple[str, str, list[Case], bool]) -> list[Discrepancy | str | None]:
    editor, section, many, shrinks = work
    commands = commands_of(editor, section)
    sandbox = Sandbox((), "")
    program = commands.dialect.description.program
    workers = 1 if program is not None and program.window else WORKERS
    if shrinks:
        return [
            effect_conformance.shrunk(effect_conformance.Discrepancy(case, "", ""), commands, sandbox, workers)
            for case in many
        ]
    return effect_conformance.run_many(many, commands, sandbox, workers)


def main() -> None:
    editor = sys.argv[1]
    dialect = Dialects(SHIPPED).load(editor)
    section = sys.argv[2] if len(sys.argv) > 2 else dialect.description.file.default_section
    count, seed = (int(word) for word in (*sys.argv[3:5], "500", "1")[:2])
    commands = commands_of(editor, section)
    started = time.monotonic()
    many = list(effect_conformance.cases(commands, count, seed))
    half = len(many) // 2
    with ProcessPoolExecutor(2) as pool:
        halves = [(editor, section, one, False) for one in (many[:half], many[half:])]
        results = [one for each in pool.map(part, halves) for one in each]
        wrong = [one for one in results if isinstance(one, Discrepancy)]
        failed = Counter(one for one in results if isinstance(one, str))
        took = time.monotonic() - started
        print(f"{editor} {section}: {len(commands.programs)} commands, {len(many)} cases, {took:.0f} s")
        print(f"  {len(wrong)} differ, {failed.total()} could not be pressed")
        for said, times in failed.most_common(5):
            print(f"  {times:4} {said}")
        culprits = Counter(name for one in wrong for name in set(one.case.commands))
        for name, times in culprits.most_common(12):
            print(f"  {times:4} {name!r} {commands.programs[name].text}")
        by_last = {one.case.commands[-1]: one.case for one in sorted(wrong, key=_size, reverse=True)}
        few = list(by_last.values())[-10:]
        for each in pool.map(part, [(editor, section, one, True) for one in (few[:5], few[5:])]):
            for one in each:
                print(
                    "  ", one if isinstance(one, Discrepancy) and (one.expected or one.found) else f"only once: {one}"
                )


def _size(one: Discrepancy) -> tuple[int, int]:
    return len(one.case.commands), len(one.case.text)


if __name__ == "__main__":
    main()
