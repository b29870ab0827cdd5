"""Find the commands in a row that do what an action promises: python tools/find_ways.py EDITOR [SECTION] [LONGEST]."""

import sys
import time

from conform import SHIPPED, commands_of

from ombix.dialects.effects import manner_of
from ombix.dialects.loading import Dialects
from ombix.effects.language import program
from ombix.effects.searching import all_ways
from ombix.effects.sides import Manner, Side


def main() -> None:
    editor = sys.argv[1]
    dialect = Dialects(SHIPPED).load(editor)
    section = sys.argv[2] if len(sys.argv) > 2 else dialect.description.file.default_section
    commands = commands_of(editor, section)
    manner = manner_of(dialect, section)
    sure = {name: one for name, one in commands.programs.items() if not commands.unsure[name]}
    goals = {
        name: Side((program(action.effect),), Manner(manner.settings, selects=manner.selects))
        for name, action in SHIPPED.catalogue().actions.items() if action.effect
    }  # fmt: skip
    started = time.monotonic()
    for name, row in all_ways(goals, sure, manner, int(sys.argv[3]) if len(sys.argv) > 3 else 3):
        print(f"{name:36} {row} {time.monotonic() - started:.1f} s", flush=True)


if __name__ == "__main__":
    main()
