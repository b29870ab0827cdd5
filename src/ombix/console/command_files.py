"""Where commands stand: a file `NAME_command.py` in a room of the work, or beside what starts it; nothing else to register."""

import os
from collections.abc import Iterator

_SOURCE = os.path.dirname(os.path.dirname(__file__))  # noqa: PTH120
_ENDING = "_command.py"


def command_modules() -> dict[str, str]:
    """Command to the module that has it, without importing any."""
    return {
        file.removesuffix(_ENDING): f"ombix.{folder.replace('/', '.')}.{file.removesuffix('.py')}"
        for folder in _folders()
        for file in sorted(os.listdir(f"{_SOURCE}/{folder}"))  # noqa: PTH208
        if file.endswith(_ENDING)
    }


def _folders() -> Iterator[str]:
    with os.scandir(f"{_SOURCE}/work") as rooms:
        yield from sorted(f"work/{room.name}" for room in rooms if room.is_dir() and room.name[0] not in "._")
    yield from ("language", "cli")
