"""Make the table of ways that ships: python tools/make_ways.py [LONGEST [MORE]]. For each section of an editor in which text
is edited, all rows of up to LONGEST of its commands are tried for what each command of the other editors does, and rows of up
to MORE of those that are of use in most of them."""

import gzip
import json
import sys
import time
from collections import Counter
from concurrent.futures import ProcessPoolExecutor

from conform import SHIPPED, commands_of
from record_cases import sections

from ombix.editors.command_effects import EffectJudge, manner_of, settings_of
from ombix.editors.description_loading import Dialects
from ombix.editors.dialect import Dialect
from ombix.editors.known_command_rows import FILE, joined, key_of
from ombix.text.effects.command_row_search import all_ways
from ombix.text.effects.execution import CommandRun, EditorConventions
from ombix.text.effects.program_language import EffectProgram, program

LONGEST = int(sys.argv[1]) if len(sys.argv) > 1 else 3
MORE = int(sys.argv[2]) if len(sys.argv) > 2 else 5
FEW = 16
"""Commands of which the longer rows are made: those that stand in most of the shorter ways, and what moves by one."""
_STEPS = {"go left", "go right", "go up", "go down", "go line-start", "go line-end", "go line-after"}


def goals(target: Dialect, section: str) -> dict[str, CommandRun]:
    """What is looked for: what the commands and compositions of the other editors do, and what actions promise."""
    dialects, catalogue = Dialects(SHIPPED), SHIPPED.catalogue()
    found: dict[str, CommandRun] = {}
    for name in dialects.names():
        source = dialects.load(name)
        judge = EffectJudge(None, source, catalogue)
        rows = [(row.written or command, row) for command, row in source.vocabulary.commands.items()]
        rows += [(one.command, one) for some in source.vocabulary.compositions.values() for one in some]
        for written, row in rows if name != target.name else ():
            for home in source.edited_sections:
                side = judge.does(home, written) if home in source.vocabulary.sections_of(row) else None
                if side is not None and not side.unsure:
                    found[key_of(side, target, section)] = side
    own = EditorConventions(settings_of(target), selects=manner_of(target, section).selects)
    for action in catalogue.actions.values():
        if effect := action.program({}):
            side = CommandRun((program(effect),), own)
            found[key_of(side, target, section)] = side
    return found


def useful(found: dict[str, list[str]], sure: dict[str, EffectProgram]) -> dict[str, EffectProgram]:
    """The commands that longer rows are made of."""
    counts = Counter(name for row in found.values() for name in row)
    moves = [
        name
        for name, one in sure.items()
        if any(one.text.startswith(step) or f"{{ {step} }}" in one.text for step in _STEPS)
    ]
    names = list(dict.fromkeys([*moves, *(name for name, _times in counts.most_common())]))
    return {name: sure[name] for name in names[:FEW]}


def searched(work: tuple[str, str]) -> tuple[str, str, dict[str, list[str]]]:
    editor, section = work
    started = time.monotonic()
    target = Dialects(SHIPPED).load(editor)
    commands = commands_of(editor, section)
    rows = target.vocabulary.rows_of
    sure = {
        name: one for name, one in commands.programs.items()
        if not commands.unsure[name] and not any(row.fixed for row in rows(name))
    }  # fmt: skip
    wanted = goals(target, section)
    found = {
        key: list(row) for key, row in all_ways(wanted, sure, manner_of(target, section), LONGEST) if joined(row, target, section)
    }  # fmt: skip
    few = useful(found, sure)
    rest = {key: side for key, side in wanted.items() if key not in found}
    for key, row in all_ways(rest, few, manner_of(target, section), MORE, 14):
        if joined(row, target, section):
            found[key] = list(row)
    several = sum(len(row) > 1 for row in found.values())
    took = time.monotonic() - started
    return (
        f"{editor} {section}: {len(found)} of {len(wanted)} reached, {several} by several, {took:.0f} s",
        f"{editor} {section}",
        found,
    )


def main() -> None:
    every: dict[str, dict[str, list[str]]] = {}
    with ProcessPoolExecutor(2) as pool:
        for said, home, found in pool.map(searched, sections([])):
            print(said, flush=True)
            every[home] = dict(sorted(found.items()))
    data = json.dumps(every, ensure_ascii=False, separators=(",", ":")).encode()
    FILE.write_bytes(gzip.compress(data, mtime=0))
    print(f"{sum(map(len, every.values()))} ways, {FILE.stat().st_size >> 10} KiB")


if __name__ == "__main__":
    main()
