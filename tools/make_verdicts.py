"""Make the table of comparisons that ships, of all that ports between the known editors, and of the actions to each of them,
compare under usual settings: python tools/make_verdicts.py. Needed whenever a program or the language of effects changes."""

import gzip
import json
import multiprocessing
import sys
import tempfile
from itertools import permutations

from ombix.data.shipped import Shipped
from ombix.editors import command_effects, known_comparisons
from ombix.editors.description_loading import Dialects
from ombix.editors.everyday_models import everyday_models
from ombix.text.effects.everyday_comparison import everyday_difference
from ombix.text.effects.execution import CommandRun
from ombix.text.effects.program_comparison import Comparison, compare
from ombix.work.carry import carry_questions
from ombix.workspace.open_workspace import OpenWorkspace

FOUND: dict[str, known_comparisons.Row] = {}
DIFFERENT: dict[str, tuple[CommandRun, CommandRun]] = {}
"""The sides that are not the same."""


def noted(one: CommandRun, other: CommandRun) -> Comparison:
    """Compare, and note what was found."""
    found = compare(one, other)
    key = known_comparisons.key_of(one, other)
    if key not in FOUND:
        FOUND[key] = known_comparisons.as_row(found)
        if not found.is_equal:
            DIFFERENT[key] = (one, other)
    return found


def counted(key: str) -> tuple[str, known_comparisons.Row | None]:
    """How two sides that are not the same differ in everyday use, as it stands in the table."""
    return key, known_comparisons.as_everyday_row(everyday_difference(*DIFFERENT[key], everyday_models()))


def keymap(catalogue_actions: dict[str, object]) -> str:
    """A keymap with each action that does something to a text, on keys of two chords."""
    lines = ["format = 1", 'name = "all"']
    letters = "abcdefghijklmnopqrstuvwxyz"
    for number, name in enumerate(sorted(catalogue_actions)):
        domain, _, verb = name.partition(".")
        keys = f"F9 {letters[number // 26]} {letters[number % 26]}"
        lines += [f"[bind.{domain}.{verb}]", f'press = "{keys}"', 'where = "pane is text"']
    return "\n".join(lines) + "\n"


def main() -> None:
    command_effects.compared = noted
    command_effects.counted = lambda one, other: None  # it comes out of the table that is made here
    shipped = Shipped()
    names = Dialects(shipped).names()
    with tempfile.TemporaryDirectory() as folder:
        for source, target in permutations(names, 2):
            carry_questions.make_ports(OpenWorkspace(folder=folder, state=f"{folder}/state"), target, source=source)
        with open(f"{folder}/ombix.toml", "w") as file:
            file.write('format = 1\nkeymap = "all.keys.toml"\n')
        with open(f"{folder}/all.keys.toml", "w") as file:
            known = {row.action for name in names for row in Dialects(shipped).load(name).vocabulary.commands.values()}
            known |= {action for name in names for action in Dialects(shipped).load(name).vocabulary.compositions}
            actions = shipped.catalogue().actions
            file.write(keymap({name: one for name, one in actions.items() if one.effect or name in known}))
        for target in names:
            carry_questions.make_ports(OpenWorkspace(folder=folder, state=f"{folder}/state"), target)
    # Programs cannot be sent to other processes, which have them by being forked.
    with multiprocessing.get_context("fork").Pool() as pool:
        for key, row in pool.imap_unordered(counted, DIFFERENT, 20):
            FOUND[key].append(row)
    data = json.dumps(dict(sorted(FOUND.items())), ensure_ascii=False, separators=(",", ":")).encode()
    known_comparisons.FILE.write_bytes(gzip.compress(data, mtime=0))
    print(f"{len(FOUND)} comparisons, {known_comparisons.FILE.stat().st_size >> 10} KiB")


if __name__ == "__main__":
    sys.exit(main())
