"""Where commands stand: a file `NAME_command.py` in a room of the work, or beside what starts it; nothing else to register."""

import os
from collections.abc import Iterator, Sequence

_SOURCE = os.path.dirname(os.path.dirname(__file__))  # noqa: PTH120
_ENDING = "_command.py"


def command_modules() -> dict[str, str]:
    """Command to the module that has it, without importing any. A part of a command has two words: `use watch` is in
    `use_watch_command.py`."""
    return {
        file.removesuffix(_ENDING).replace("_", " "): f"ombix.{folder.replace('/', '.')}.{file.removesuffix('.py')}"
        for folder in _folders()
        for file in sorted(os.listdir(f"{_SOURCE}/{folder}"))  # noqa: PTH208
        if file.endswith(_ENDING)
    }


def called(words: Sequence[str]) -> tuple[str, int]:
    """The command that a call begins with, and how many of its words name it: two for a part of a command; where only one part
    has a word, that is enough. The first word where there is no such command."""
    known = command_modules()
    if len(words) > 1 and f"{words[0]} {words[1]}" in known:
        return f"{words[0]} {words[1]}", 2
    whole = [name for name in known if name.split()[1:] == [words[0]]]
    return (whole[0] if words[0] not in known and len(whole) == 1 else words[0]), 1


def _folders() -> Iterator[str]:
    with os.scandir(f"{_SOURCE}/work") as rooms:
        yield from sorted(f"work/{room.name}" for room in rooms if room.is_dir() and room.name[0] not in "._")
    yield from ("language", "cli")
