"""The values of a snippet's variables: from the text around the cursor, and the name of its file."""

import re
from collections.abc import Mapping, Sequence
from pathlib import PurePath
from typing import NamedTuple

from ombix.core.snippets.model import FUNCTION, SELECTION, TYPE

_WORD = re.compile(r"\w+")
_MOST_LINES = 5000
"""Lines before the cursor that are looked through for what is around it."""


class Enclosing(NamedTuple):
    """How a language begins a function and a type: patterns of whole lines, whose group `name` is the name."""

    function: Sequence[str]
    type: Sequence[str]


class Language(NamedTuple):
    """A language: how the names of its files end, and what it begins functions and types with."""

    name: str
    endings: tuple[str, ...]
    enclosing: Enclosing


def values(
    text: str, cursor: int, selection: tuple[int, int], file: str = "", language: Enclosing | None = None
) -> Mapping[str, str | None]:
    """The variables' values at a cursor (an offset from 0), None where one is not set; `file` is the path, empty for none."""
    start = text.rfind("\n", 0, cursor) + 1
    end = text.find("\n", cursor)
    line = text[start : end if end >= 0 else len(text)]
    index = text.count("\n", 0, start)
    path = PurePath(file) if file else None
    return {
        SELECTION: text[slice(*selection)] or None,
        "TM_CURRENT_LINE": line,
        "TM_CURRENT_WORD": next((one[0] for one in _WORD.finditer(line) if one.start() <= cursor - start <= one.end()), None),
        "TM_LINE_INDEX": str(index),
        "TM_LINE_NUMBER": str(index + 1),
        "TM_FILENAME": path.name if path else None,
        "TM_FILENAME_BASE": path.stem if path else None,
        "TM_DIRECTORY": str(path.parent) if path else None,
        "TM_FILEPATH": str(path) if path else None,
        FUNCTION: _around(text, cursor, language.function if language else ()),
        TYPE: _around(text, cursor, language.type if language else ()),
    }  # fmt: skip


def _around(text: str, cursor: int, patterns: Sequence[str]) -> str | None:
    """The name in the nearest line before the cursor that begins what stands around it: it is indented less than all
    non-blank lines behind it, up to the cursor's."""
    shapes = [re.compile(pattern) for pattern in patterns]
    lines = text[:cursor].split("\n")[-_MOST_LINES:]
    after = text[cursor:].split("\n", 1)[0]
    lines[-1] += after
    least: int | None = None
    for number, line in enumerate(reversed(lines)):
        if not line.strip():
            continue
        indentation = len(line) - len(line.lstrip())
        is_own = number == 0
        if is_own or least is None or indentation < least:
            found = next((match for shape in shapes if (match := shape.match(line))), None)
            if found is not None:
                return found["name"]
        is_bracket = line.lstrip()[:1] in "{})]"
        if not is_bracket or is_own:
            least = indentation if least is None else min(least, indentation)
    return None


def indentation_at(text: str, cursor: int) -> str:
    """The blanks that the line of a cursor begins with, up to the cursor."""
    start = text.rfind("\n", 0, cursor) + 1
    found = re.match(r"[ \t]*", text[start:cursor])
    return found[0] if found else ""
