"""TOML with places: the usual reader for the values, and a scan of the text for where each key stands.

A file that is half written can be read all the same: `Document(…, recover=True)` leaves out the statements that are wrong,
and notes what is wrong with each.
"""

import re
from collections.abc import Iterator
from typing import Any, NamedTuple

import tomli

from ombix.core.errors import InputError, Place

Path = tuple[str, ...]
Places = dict[Path, Place]

MOST_ERRORS = 100
"""Faults of one file that are noted; behind them the file is given up."""

_AT = re.compile(r"(.*?)\s*\(at (?:line (\d+), column (\d+)|end of document)\)$", re.DOTALL)
_SIMPLE = re.compile(
    r"""\s*([A-Za-z0-9_-]+|"[^"\\]*")\s*=\s*((?:"[^"\\]*"|true|false|\d+|\[[^\[\]"'{#]*\])?)\s*(?:#.*)?$"""
)
_KEY_PART = re.compile(r"""\s*([A-Za-z0-9_-]+|"(?:[^"\\]|\\.)*"|'[^']*')\s*""")
# What a statement can begin with at the start of a line; inside brackets that were never closed it ends them.
_STATEMENT = re.compile(r"""\s*(?:\[\[?[A-Za-z0-9_"'.-]+(?:\]\]?)?\s*(?:#.*)?$|(?:[A-Za-z0-9_.-]+|"[^"\\]*")\s*=)""")
_HEADER_NAME = re.compile(r"""\s*\[\[?\s*([A-Za-z0-9_"'.-]+)""")
_MARK = re.compile(r"(?:<{7}|\|{7}|={7}|>{7})(?: |$)")
"""What version control writes around two sides of a conflict."""
_LONG_NUMBER = re.compile(r"[0-9][0-9_]{3000,}")
_ADVICE = {
    "invalid value": "A text stands in quotes, a list in square brackets.",
    "expected '=' after a key in a key/value pair": "Write name = value.",
    "cannot overwrite a value": "The name stands here twice: put both into one list.",
    "unterminated string": "Add the closing quote.",
    "unclosed array": "Add the closing bracket.",
    "unclosed inline table": "Add the closing brace.",
}


class Document:
    """A TOML file that was read: `table` has its values, `place` tells where a key stands, `errors` what was left out."""

    def __init__(self, text: str, file: str, recover: bool = False) -> None:
        self.file = file
        self.text = text
        self.errors: list[InputError] = []
        self.table: dict[str, Any] = {}
        self._places: Places | None = None
        try:
            self.table = tomli.loads(text)
        except ValueError as error:  # or a number with thousands of digits
            if not recover:
                raise self._syntax_error(error, text) from None
            self._recover()
        except RecursionError:
            raise InputError("the nesting is too deep", "No keymap needs that.", Place(file)) from None

    def place(self, *path: str) -> Place:
        """Where the key with this path stands, up to the end of its value; where that is not known, the nearest table
        above it."""
        if self._places is None:
            self._places = _scan(self.text, self.file)
        for length in range(len(path), 0, -1):
            found = self._places.get(path[:length])
            if found:
                return found
        return Place(self.file, 1, 1)

    def line(self, number: int) -> str:
        """A line of the text, counted from 1."""
        lines = self.text.split("\n")
        return lines[number - 1].rstrip("\r") if 0 < number <= len(lines) else ""

    def error(self, what: str, advice: str, *path: str, width: int = 0) -> InputError:
        """An error at a key."""
        place = self.place(*path)
        line = self.line(place.line)
        if not width:
            match = _KEY_PART.match(line, place.column - 1)
            width = len(match[1]) if match else 1
        return InputError(what, advice, place, line, width)

    def error_in_text(self, what: str, advice: str, text: str, start: int, end: int, *path: str) -> InputError:
        """An error inside the string `text` that stands somewhere behind a key."""
        place = self.place(*path)
        line = self.line(place.line)
        found = line.find(text, place.column - 1) if text else -1
        if found < 0:
            return InputError(what, advice, place, line, 1)
        first, last = found + start + 1, found + end + 1
        return InputError(what, advice, Place(self.file, place.line, first, place.line, last), line, end - start)

    def _syntax_error(self, error: ValueError, text: str, first_line: int = 1) -> InputError:
        """The reader's error with its place; `text` is what it read, which begins in line `first_line` of the file."""
        if not isinstance(error, tomli.TOMLDecodeError):
            long = _LONG_NUMBER.search(text)
            line = first_line + text.count("\n", 0, long.start() if long else 0)
            what = "a number has too many digits"
            return InputError(what, "No keymap needs that.", Place(self.file, line, 1), self.line(line)[:200])
        match = _AT.match(str(error))
        what = match[1] if match else str(error)
        what = what[:1].lower() + what[1:]
        if match and match[2]:
            line, column = int(match[2]) + first_line - 1, int(match[3])
        else:
            line = text.rstrip("\n").count("\n") + first_line
            column = len(self.line(line)) + 1
        if _MARK.match(self.line(line)):
            what = "a merge that was not finished stands here"
            place = Place(self.file, line, 1, line, len(self.line(line)) + 1)
            advice = "Keep one side and take the marks out; or have git merge it again: git checkout --merge FILE"
            return InputError(what, advice, place, self.line(line), 7)
        advice = next((text for start, text in _ADVICE.items() if what.startswith(start)), "See: docs/files.md")
        place = Place(self.file, line, column, line, column + 1)
        return InputError(f"this is not TOML: {what}", advice, place, self.line(line))

    # --- recovering

    def _recover(self) -> None:
        """Read statement by statement, and leave out those that are wrong."""
        kept: list[tuple[int, list[str]]] = []
        is_lost = False  # behind a heading that cannot be read
        for start, lines in split_statements(self.text):
            is_heading = lines[0].lstrip()[0] == "["
            if is_lost and not is_heading:
                continue
            text = "\n".join(lines)
            try:
                tomli.loads(text)
                is_lost = False
            except (ValueError, RecursionError) as error:
                self._note(error, text, start)
                repaired = repaired_heading(lines[0]) if is_heading else ""
                is_lost = is_heading and not repaired
                if not repaired:
                    continue
                lines = [repaired]
            kept.append((start, lines))
        while kept and len(self.errors) < MOST_ERRORS:
            text = _joined(kept)
            try:
                self.table = tomli.loads(text)
                break
            except ValueError as error:  # what is right by itself may contradict what stands before it
                self._note(error, text, 1)
                match = _AT.match(str(error))
                line = int(match[2]) if match and match[2] else kept[-1][0]
                kept.remove(max((one for one in kept if one[0] <= line), default=kept[0]))
        self._places = _scan(_joined(kept), self.file) if self.table else {}

    def _note(self, error: Exception, text: str, first_line: int) -> None:
        if len(self.errors) < MOST_ERRORS:
            if isinstance(error, ValueError):
                self.errors.append(self._syntax_error(error, text, first_line))
            else:
                self.errors.append(InputError("the nesting is too deep", "No keymap needs that.", Place(self.file)))


def repaired_heading(heading: str) -> str:
    """A heading that was not closed, closed; empty where it is no heading at all."""
    match = _HEADER_NAME.match(heading)
    repaired = f"[{match[1]}]" if match else ""
    try:
        tomli.loads(repaired)
    except ValueError:
        return ""
    return repaired


def _joined(statements: list[tuple[int, list[str]]]) -> str:
    """The statements, each in its own lines."""
    lines: list[str] = []
    for start, own in statements:
        lines += [""] * (start - 1 - len(lines)) + own
    return "\n".join(lines)


def split_statements(text: str) -> list[tuple[int, list[str]]]:
    """The statements of a text with the lines that they begin in; one that is not closed ends where another begins."""
    return list(statements_from(text.split("\n"), 0))


def statements_from(lines: list[str], index: int) -> Iterator[tuple[int, list[str]]]:
    """The statements from a line (an index) on; see `split_statements`."""
    while index < len(lines):
        if not lines[index].strip() or lines[index].lstrip()[0] == "#":
            index += 1
            continue
        end = index + 1
        if lines[index].lstrip()[0] != "[":
            end = _statement_end(lines, index)
        yield index + 1, lines[index:end]
        index = end


def _statement_end(lines: list[str], index: int) -> int:
    """The index of the line behind a statement."""
    depth, quote = 0, ""
    for end in range(index, len(lines)):
        if end > index and not quote and _STATEMENT.match(lines[end]):
            return end
        depth, quote = _open_after(lines[end], depth, quote)
        if depth <= 0 and not quote:
            return end + 1
    return index + 1 if quote else len(lines)


def _open_after(line: str, depth: int, quote: str) -> tuple[int, str]:
    """How many brackets, and which long quote, are open behind a line."""
    position = 0
    while True:
        if quote:
            close = line.find(quote, position)
            if close < 0:
                return depth, quote
            quote, position = "", close + 3
        match = _PIECE.search(line, position)
        if match is None or match[0][0] == "#":
            return depth, ""
        token, position = match[0], match.end()
        if token in ('"""', "'''"):
            quote = token
        elif token in "[{":
            depth += 1
        elif token in "]}":
            depth -= 1


# --- statements and places


class TomlStatement(NamedTuple):
    """A heading, or a key with its value: the lines from the first to the last (indexes), where it begins in the first, and from
    where to where (offsets in these) the value stands. A list of tables has the number of the table in its path; `table` is
    how many names of the path those of the heading above are."""

    is_heading: bool
    path: Path
    table: int
    line: int
    column: int
    end_line: int
    value_column: int
    end_column: int


def statements(text: str, file: str = "", places: Places | None = None) -> Iterator[TomlStatement]:
    """The statements of a text that is right TOML, in their order; the places of what stands in lists go to `places`."""
    table: Path = ()
    arrays: dict[Path, int] = {}
    lines = text.split("\n")
    index = 0
    simple = _SIMPLE.match
    items: Places = {} if places is None else places
    while index < len(lines):
        line = lines[index]
        match = simple(line)
        if match:
            path = (*table, match[1].strip('"'))
            yield TomlStatement(False, path, len(table), index, match.start(1), index, match.start(2), match.end(2))
            index += 1
            continue
        stripped = line.lstrip(" \t")
        if not stripped or stripped[0] in "#\r":
            index += 1
            continue
        column = len(line) - len(stripped)
        if stripped[0] == "[":
            brackets = 2 if stripped.startswith("[[") else 1
            table, end = _read_path(line, column + brackets)
            if brackets == 2:
                arrays[table] = arrays.get(table, -1) + 1
                table = (*table, str(arrays[table]))
            yield TomlStatement(True, table, len(table), index, column, index, 0, end + brackets)
            index += 1
            continue
        own, end = _read_path(line, column)
        values = _Values(lines, file, (*table, *own), items)
        values.skip(index, end + 1)
        start = len(line) - len(line[end + 1 :].lstrip(" \t"))
        yield TomlStatement(
            False, (*table, *own), len(table), index, column, values.end_line - 1, start, values.end_column - 1
        )
        index = values.next_index


def _scan(text: str, file: str) -> Places:
    """Path of each key to its place, up to the end of its value. The text is known to be right TOML."""
    places: Places = {}
    for is_heading, path, table, line, column, end_line, _start, end in statements(text, file, places):
        place = Place(file, line + 1, column + 1, end_line + 1, end + 1)
        for length in range(1 if is_heading else table + 1, len(path) + 1):
            places.setdefault(path[:length], place)
    return places


def _read_path(line: str, position: int) -> tuple[Path, int]:
    parts = []
    while match := _KEY_PART.match(line, position):
        part = match[1]
        parts.append(_unquote(part))
        position = match.end()
        if line[position : position + 1] != ".":
            break
        position += 1
    return tuple(parts), position


def _unquote(part: str) -> str:
    if part[0] == "'":
        return part[1:-1]
    if part[0] == '"':
        return str(tomli.loads(f"x = {part}")["x"]) if "\\" in part else part[1:-1]
    return part


# An item of an array that is an inline table on a line of its own, without another table or array in it.
_ITEM = re.compile(r"""\s*(\{(?:[^"'{}\[\]#]|"[^"\\]*")*\})\s*,?\s*$""")
_PIECE = re.compile(r'"""|\'\'\'|"(?:[^"\\\n]|\\.)*"|\'[^\'\n]*\'|#[^\n]*|[\[\]{}]')
_VALUE_END = re.compile(r"""(?:[^#"']|"(?:[^"\\]|\\.)*"|'[^']*')*""")


class _Values:
    """Goes over a value; the items of an array of values get places of their own."""

    def __init__(self, lines: list[str], file: str, path: Path, places: Places) -> None:
        self._lines = lines
        self._file = file
        self._path = path
        self._places = places
        self._item = 0
        self.next_index = self.end_line = self.end_column = 0

    def skip(self, index: int, position: int) -> None:
        """Find the end of the value that begins in a line (an index) at an offset."""
        depth = 0
        start: tuple[int, int] | None = None
        lines = self._lines
        first = index
        while index < len(lines):
            line = lines[index]
            if depth == 1 and index > first and not position and (match := _ITEM.match(line)):
                self._note((index, match.start(1)), (index, match.end(1)))
                index += 1
                continue
            while match := _PIECE.search(line, position):
                token = match[0]
                begin = (index, match.start())
                position = match.end()
                if token in ('"""', "'''"):
                    while (close := line.find(token, position)) < 0:
                        index += 1
                        if index >= len(lines):
                            self._end(index, 0)
                            return
                        line, position = lines[index], 0
                    position = close + 3
                    if depth == 1:
                        self._note(begin, (index, position))
                elif token[0] == "#":
                    position = len(line)
                elif token in "[{":
                    if depth == 1 and token == "{":
                        start = begin
                    depth += 1
                elif token in "]}":
                    depth -= 1
                    if depth == 1 and start is not None:
                        self._note(start, (index, position))
                        start = None
                    if depth <= 0:
                        self._end(index, position)
                        return
                elif depth == 1:
                    self._note(begin, (index, position))
            if depth <= 0:
                end = _VALUE_END.match(line)
                self._end(index, len((end[0] if end else line).rstrip()))
                return
            index += 1
            position = 0
        self._end(index, 0)

    def _note(self, begin: tuple[int, int], end: tuple[int, int]) -> None:
        line = begin[0] + 1
        end_line = line if end[0] == begin[0] else end[0] + 1  # one number for both, where it is the same
        place = Place(self._file, line, begin[1] + 1, end_line, end[1] + 1)
        self._places.setdefault((*self._path, str(self._item)), place)
        self._item += 1

    def _end(self, index: int, offset: int) -> None:
        self.next_index = index + 1
        self.end_line, self.end_column = min(index + 1, len(self._lines)), offset + 1
