"""The table of ways that ships: commands in a row that do in one editor what a command of another one does, as they were
found by trying all short rows."""

import gzip
import hashlib
import json
from collections.abc import Sequence
from functools import lru_cache
from pathlib import Path

from ombix.core.keymap.outcomes import Only
from ombix.data.shipped import DATA
from ombix.editors.command_effects import manner_of
from ombix.editors.dialect import Dialect
from ombix.editors.known_comparisons import described
from ombix.text.effects.execution import CommandRun

FILE = DATA / "ways.json.gz"


def way_to(goal: CommandRun, target: Dialect, section: str) -> str:
    """What is written in a section of an editor so that it does the same as `goal`; empty where no way is known."""
    names = _table(FILE).get(f"{target.name} {section}", {}).get(key_of(goal, target, section), ())
    return joined(names, target, section) if names else ""


def ways_in(target: Dialect, section: str) -> list[str]:
    """All rows of commands that the table has for a section of an editor, as they are written."""
    rows = {tuple(names) for names in _table(FILE).get(f"{target.name} {section}", {}).values()}
    return [joined(names, target, section) for names in sorted(rows) if len(names) > 1]


def joined(names: Sequence[str], target: Dialect, section: str) -> str:
    """Commands in a row as they are written; empty where the editor cannot have them so."""
    if len(names) == 1:
        return names[0]
    return target.vocabulary.macro_text([Only(target.name, name) for name in names], section) or ""


def key_of(goal: CommandRun, target: Dialect, section: str) -> str:
    """What a way is found by: a digest of what is to be done, and where."""
    said = json.dumps([described(goal), target.name, section, described(CommandRun((), manner_of(target, section)))])
    return hashlib.blake2b(said.encode(), digest_size=9).hexdigest()


@lru_cache(maxsize=4)
def _table(file: Path) -> dict[str, dict[str, list[str]]]:
    try:
        found: dict[str, dict[str, list[str]]] = json.loads(gzip.decompress(file.read_bytes()))
    except OSError:
        return {}
    return found
