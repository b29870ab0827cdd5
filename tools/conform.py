"""Hold the programs of the editors' commands against the editors: python tools/conform.py EDITOR [SECTION] [COUNT] [SEED]."""

import collections
import sys
import time
from concurrent.futures import ProcessPoolExecutor

from ombix.data.shipped import Shipped
from ombix.dialects.loading import Dialects
from ombix.proving import conforming
from ombix.proving.conforming import Case, Commands, Difference
from ombix.proving.sandbox import Sandbox
from ombix.core.conditions import Space

SHIPPED = Shipped()
WORKERS = 10
"""Editors at once, of each of two processes."""


def commands_of(editor: str, section: str) -> Commands:
    dialect = Dialects(SHIPPED).load(editor)
    space = Space(SHIPPED.facts().extended(dialect.facts, []))
    return conforming.commands_of(dialect, section, SHIPPED.catalogue(), space, dialect.terminal)


def part(work: tuple[str, str, list[Case], bool]) -> list[Difference | str | None]:
    editor, section, many, shrinks = work
    commands = commands_of(editor, section)
    sandbox = Sandbox((), "")
    if shrinks:
        return [conforming.shrunk(conforming.Difference(case, "", ""), commands, sandbox, WORKERS) for case in many]
    return conforming.run_many(many, commands, sandbox, WORKERS)


def main() -> None:
    editor = sys.argv[1]
    section = sys.argv[2] if len(sys.argv) > 2 else ""
    count = int(sys.argv[3]) if len(sys.argv) > 3 else 500
    seed = int(sys.argv[4]) if len(sys.argv) > 4 else 1
    dialect = Dialects(SHIPPED).load(editor)
    section = section or dialect.description.file.default_section
    commands = commands_of(editor, section)
    started = time.monotonic()
    many = [one for one in conforming.cases(commands, count, seed)]
    half = len(many) // 2
    with ProcessPoolExecutor(2) as pool:
        found = [*pool.map(part, [(editor, section, many[:half], False), (editor, section, many[half:], False)])]
        results = [one for each in found for one in each]
        wrong = [one for one in results if isinstance(one, Difference)]
        failed = [one for one in results if isinstance(one, str)]
        culprits = collections.Counter(name for one in wrong for name in set(one.case.commands))
        alone = [one for one in wrong if len(one.case.commands) == 1 and one.case.tail == "type"]
        print(f"{editor} {section}: {len(commands.programs)} commands, {len(many)} cases, {len(wrong)} differ, {len(failed)} failed, {time.monotonic() - started:.0f} s")
        for name, times in culprits.most_common(12):
            print(f"  {times:4} {name!r} {commands.programs[name].text}")
        for said, times in collections.Counter(failed).most_common(5):
            print(f"  {times:4} {said}")
        picked = {}
        for one in sorted(wrong, key=lambda one: (len(one.case.commands), len(one.case.text))):
            picked.setdefault(one.case.commands[-1], one)
        few = list(picked.values())[:10]
        shrunk = [one for each in pool.map(part, [(editor, section, [one.case for one in few[:5]], True), (editor, section, [one.case for one in few[5:]], True)]) for one in each]
        for one in shrunk:
            print("  ", one if one.expected or one.found else f"(flaky) {one.case}")


if __name__ == "__main__":
    main()
