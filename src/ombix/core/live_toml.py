"""TOML that is half written: read statement by statement, each once, so that a keystroke costs the statement that it changes."""

from typing import Any, NamedTuple

import tomli

from ombix.core.errors import InputError, Place
from ombix.core.text_changes import alike
from ombix.core.toml import MOST_ERRORS, Document, Path, repaired_heading, statements, statements_from


class _Read(NamedTuple):
    """A statement that was read by itself: its path below the heading (`None`: a heading), its value, places in it by path, and
    what is wrong with it (then `error` and the text that it stands for)."""

    is_heading: bool
    is_list: bool
    path: Path
    value: Any
    places: tuple[tuple[Path, Place], ...]
    error: ValueError | None = None


class Statements:
    """The statements of a text as it was before, and what each says: most of them are there again behind a keystroke."""

    def __init__(self) -> None:
        self.read: dict[str, _Read] = {}
        self._lines: list[str] = []
        self._found: list[tuple[int, list[str]]] = []

    def split(self, text: str) -> list[tuple[int, list[str]]]:
        """The statements of a text, with the lines (from 1) that they begin in."""
        lines = text.split("\n")
        old, known = self._lines, self._found
        first, same = alike(old, lines)
        behind, moved = len(lines) - same, len(lines) - len(old)
        kept = sum(start - 1 + len(own) <= first for start, own in known)
        found = known[: max(0, kept - 1)]  # the last one may go on now
        begin = found[-1][0] - 1 + len(found[-1][1]) if found else 0
        there = {start + moved: number for number, (start, _own) in enumerate(known)}
        for start, own in statements_from(lines, begin):
            if start > behind and start in there:
                found += [(each + moved, one) for each, one in known[there[start] :]]
                break
            found.append((start, own))
        self._lines, self._found = lines, found
        return found


def live_document(text: str, file: str, known: Statements) -> Document:
    """A document as it is written: a right one as it is, else what can be read of it; see `LiveDocument`."""
    try:
        return Document(text, file)
    except InputError:
        return LiveDocument(text, file, known)


class LiveDocument(Document):
    """A document as it is written; `known` has the statements that were read before.

    What is wrong is left out, and noted in `errors`, as `Document(…, recover=True)` does.
    """

    def __init__(self, text: str, file: str, known: Statements) -> None:
        self.file = file
        self.text = text
        self.errors: list[InputError] = []
        self.table: dict[str, Any] = {}
        self.statements: dict[Path, tuple[int, int]] = {}
        """The path of each statement to its first and last line, counted from 1."""
        self._known = known
        self._where: dict[Path, tuple[int, Place]] = {}
        self._read()

    def _read(self) -> None:
        section: Path = ()
        target: dict[str, Any] | None = self.table
        used: set[str] = set()
        read = self._known.read
        for start, lines in self._known.split(self.text):
            own = "\n".join(lines)
            used.add(own)
            one = read.get(own)
            if one is None:
                one = read[own] = _read(own)
            if one.error is not None:
                self._note(one.error, own, start)
                if lines[0].lstrip().startswith("[") and not one.path:
                    target = None  # a heading that cannot be read: what stands below it belongs nowhere
            if not one.path:
                continue
            if one.is_heading:
                section, target = self._enter(one, start)
            elif target is not None and self._put(target, one, section, start):
                pass
            else:
                continue
            here = section if one.is_heading else (*section, *one.path)
            self.statements.setdefault(here, (start, start + len(lines) - 1))
            for path, place in one.places:
                full = section if one.is_heading else (*section, *path)
                self._where.setdefault(full, (start - 1, place))
            for length in range(1, len(here)):
                self._where.setdefault(here[:length], (start - 1, one.places[0][1]))
        for gone in read.keys() - used if len(read) > 2 * len(used) + 100 else ():
            del read[gone]

    def _enter(self, one: _Read, start: int) -> tuple[Path, dict[str, Any] | None]:
        """The table that a heading begins."""
        table: Any = self.table
        path: Path = ()
        for name in one.path[:-1]:
            table = table.setdefault(name, {}) if isinstance(table, dict) else None
            path = (*path, name)
            if isinstance(table, list) and table:
                path = (*path, str(len(table) - 1))
                table = table[-1]
        last = one.path[-1]
        if not isinstance(table, dict):
            return one.path, None
        if one.is_list:
            rows = table.setdefault(last, [])
            if isinstance(rows, list):
                rows.append({})
                return (*path, last, str(len(rows) - 1)), rows[-1]
            found = None
        else:
            found = table.setdefault(last, {})
        if not isinstance(found, dict):
            self._twice(start)
            return (*path, last), None
        return (*path, last), found

    def _put(self, target: dict[str, Any], one: _Read, section: Path, start: int) -> bool:
        """Put a value into its table; not where there is one already."""
        table: Any = target
        for name in one.path[:-1]:
            table = table.setdefault(name, {}) if isinstance(table, dict) else None
        if not isinstance(table, dict) or one.path[-1] in table:
            self._twice(start)
            return False
        table[one.path[-1]] = one.value
        return True

    def _twice(self, start: int) -> None:
        if len(self.errors) < MOST_ERRORS:
            place = Place(self.file, start, 1, start, len(self.line(start)) + 1)
            advice = "The name stands here twice: put both into one list."
            self.errors.append(
                InputError("this is not TOML: cannot overwrite a value", advice, place, self.line(start))
            )

    def place(self, *path: str) -> Place:
        """Where the key with this path stands; see `Document.place`."""
        for length in range(len(path), 0, -1):
            found = self._where.get(path[:length])
            if found is not None:
                offset, (_file, line, column, end_line, end_column) = found
                return Place(self.file, line + offset, column, end_line + offset, end_column)
        return Place(self.file, 1, 1)


def _read(text: str) -> _Read:
    """Read a statement by itself."""
    is_heading = text.lstrip()[:1] == "["
    error: ValueError | None = None
    try:
        table = tomli.loads(text)
    except RecursionError:
        return _Read(is_heading, False, (), None, (), ValueError("the nesting is too deep"))
    except ValueError as wrong:
        error = wrong
        text = repaired_heading(text) if is_heading else ""
        if not text:
            return _Read(is_heading, False, (), None, (), error)
        table = tomli.loads(text)
    places: dict[Path, Place] = {}
    (one,) = statements(text, "", places)
    place = Place("", one.line + 1, one.column + 1, one.end_line + 1, one.end_column + 1)
    path = one.path
    is_list = is_heading and text.lstrip().startswith("[[")
    value: Any = table
    for name in path[: len(path) - is_list]:
        value = value[name]
    path = path[: len(path) - is_list]
    return _Read(is_heading, is_list, path, value, ((path, place), *places.items()), error)
