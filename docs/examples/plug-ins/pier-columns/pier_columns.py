"""Key files in two columns: ten characters for the key, and behind them the command."""

from collections.abc import Iterable, Iterator

from ombix.core.errors import InputError, Place
from ombix.editors.description import Description
from ombix.editors.formats import FormFault, Heading, Statement

WIDTH = 10


def read(text: str, file: str, description: Description) -> Iterator[Statement]:
    """The statements of a file. Raises InputError for a line without a command."""
    for number, line in enumerate(text.split("\n"), 1):
        key, command = line[:WIDTH].strip(), line[WIDTH:].strip()
        if not line.strip():
            continue
        if not command:
            raise InputError("this line has no command", "Write it from column 11 on.", Place(file, number, 1), line)
        kind = "remove" if command == "-" else "bind"
        yield Statement(Place(file, number, 1), line, kind, key, command if kind == "bind" else "")


def write(items: Iterable[Statement | Heading], description: Description) -> str:
    """A file that says `items`."""
    rows = [one for one in items if not isinstance(one, Heading)]
    return "".join(f"{row.key:<{WIDTH}}{row.command or '-'}\n" for row in rows)


def check(description: Description) -> Iterator[FormFault]:
    """A description needs nothing more for files in columns."""
    yield from ()
