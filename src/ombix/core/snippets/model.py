"""What a snippet is made of: texts, stops with default words or choices, variables, and transformations.

The grammar is that of the Language Server Protocol 3.17, "Snippet Syntax".
"""

from collections.abc import Iterator
from typing import Literal

from msgspec import Struct

from ombix.core.conditions import Scope
from ombix.core.errors import Place

CaseChange = Literal["upcase", "downcase", "capitalize"]
CASE_CHANGES: tuple[CaseChange, ...] = ("upcase", "downcase", "capitalize")

SELECTION = "TM_SELECTED_TEXT"
STANDARD_VARIABLES = {
    SELECTION: "what is selected",
    "TM_CURRENT_LINE": "the line of the cursor",
    "TM_CURRENT_WORD": "the word under the cursor",
    "TM_LINE_INDEX": "the number of the line, from 0",
    "TM_LINE_NUMBER": "the number of the line, from 1",
    "TM_FILENAME": "the name of the file",
    "TM_FILENAME_BASE": "the name of the file without its last ending",
    "TM_DIRECTORY": "the folder of the file",
    "TM_FILEPATH": "the whole path of the file",
}
"""The variables of the protocol, with what they stand for."""
FUNCTION, TYPE = "ENCLOSING_FUNCTION", "ENCLOSING_TYPE"
OWN_VARIABLES = {FUNCTION: "the name of the function around the cursor", TYPE: "the name of the type around the cursor"}
"""Those that are known here beside them."""
VARIABLES = {**STANDARD_VARIABLES, **OWN_VARIABLES}


class Text(Struct, frozen=True):
    """A text as it is."""

    text: str


class GroupFormat(Struct, frozen=True):
    """A group of a match in a transformation: its text with its case changed; or one text where it matched something, and
    another where not (None: the group's own text, and nothing)."""

    group: int
    case: CaseChange | None = None
    present: str | None = None
    absent: str | None = None


class Transformation(Struct, frozen=True):
    """What becomes of a value: each match of a pattern (a regular expression of ECMAScript), or only the first, is replaced."""

    pattern: str
    replacement: tuple[Text | GroupFormat, ...]
    options: str = ""


class TabStop(Struct, frozen=True):
    """A place to fill in, by its number; 0 is the last. `default` is what stands there at first, `choices` what is to be chosen
    from, and `change` what becomes of what is filled in."""

    number: int
    default: "tuple[Part, ...]" = ()
    choices: tuple[str, ...] = ()
    change: Transformation | None = None


class Variable(Struct, frozen=True):
    """A value from the surroundings, or default parts where it is not set."""

    name: str
    default: "tuple[Part, ...]" = ()
    change: Transformation | None = None


Part = Text | TabStop | Variable


class Snippet(Struct, frozen=True):
    """A text with gaps. `words` expand it where they stand before the cursor; `languages` are those that it is for (none
    named: all); `body` is how it is written."""

    name: str
    title: str
    body: str
    parts: tuple[Part, ...]
    place: Place
    words: tuple[str, ...] = ()
    languages: tuple[str, ...] = ()
    where: str = "always"
    scope: Scope | None = None
    """The conditions with a name that `where` may use."""

    @property
    def stops(self) -> tuple[int, ...]:
        """The numbers of its stops, in the order in which they are filled in."""
        numbers = {one.number for one in every_part(self.parts) if isinstance(one, TabStop)}
        return tuple(sorted(numbers, key=lambda number: (number == 0, number)))

    @property
    def variables(self) -> tuple[str, ...]:
        """The names of its variables."""
        return tuple(dict.fromkeys(one.name for one in every_part(self.parts) if isinstance(one, Variable)))


def every_part(parts: tuple[Part, ...]) -> Iterator[Part]:
    """All parts, also those that are default words of others."""
    for part in parts:
        yield part
        if isinstance(part, TabStop | Variable):
            yield from every_part(part.default)
