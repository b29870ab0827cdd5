"""TOML with places: the usual reader for the values, and a scan of the text for where each key stands."""

import re
from typing import Any

import tomli

from ombix.core.errors import InputError, Place

Path = tuple[str, ...]

_AT = re.compile(r"(.*?)\s*\(at (?:line (\d+), column (\d+)|end of document)\)$", re.DOTALL)
_SIMPLE = re.compile(
    r"""\s*([A-Za-z0-9_-]+|"[^"\\]*")\s*=\s*(?:"[^"\\]*"|true|false|\d+|\[[^\[\]"'{#]*\])?\s*(?:#.*)?$"""
)
_KEY_PART = re.compile(r"""\s*([A-Za-z0-9_-]+|"(?:[^"\\]|\\.)*"|'[^']*')\s*""")


class Document:
    """A TOML file that was read: `table` has its values, `place` tells where a key stands."""

    def __init__(self, text: str, file: str) -> None:
        self.file = file
        self.text = text
        try:
            self.table: dict[str, Any] = tomli.loads(text)
        except tomli.TOMLDecodeError as error:
            raise self._syntax_error(error) from None
        except RecursionError:
            raise InputError("the nesting is too deep", "No keymap needs that.", Place(file)) from None
        self._places: dict[Path, tuple[int, int]] | None = None

    def place(self, *path: str) -> Place:
        """Where the key with this path stands; where that is not known, the nearest table above it."""
        if self._places is None:
            self._places = _scan(self.text)
        found = self._places.get(path)
        if found:
            return Place(self.file, *found)
        for length in range(len(path) - 1, 0, -1):
            found = self._places.get(path[:length])
            if found:
                return Place(self.file, *found)
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
        return InputError(what, advice, Place(self.file, place.line, found + start + 1), line, end - start)

    def _syntax_error(self, error: tomli.TOMLDecodeError) -> InputError:
        match = _AT.match(str(error))
        what = match[1] if match else str(error)
        what = what[:1].lower() + what[1:]
        if match and match[2]:
            line, column = int(match[2]), int(match[3])
        else:
            line = self.text.rstrip("\n").count("\n") + 1
            column = len(self.line(line)) + 1
        return InputError(f"this is not TOML: {what}", "", Place(self.file, line, column), self.line(line))


def _scan(text: str) -> dict[Path, tuple[int, int]]:
    """Path of each key to its line and column, both from 1. The text is known to be right TOML."""
    places: dict[Path, tuple[int, int]] = {}
    table: Path = ()
    arrays: dict[Path, int] = {}
    lines = text.split("\n")
    index = 0
    simple = _SIMPLE.match
    while index < len(lines):
        line = lines[index]
        match = simple(line)
        if match:
            key = match[1]
            places.setdefault((*table, key.strip('"')), (index + 1, match.start(1) + 1))
            index += 1
            continue
        stripped = line.lstrip(" \t")
        if not stripped or stripped[0] in "#\r":
            index += 1
            continue
        column = len(line) - len(stripped)
        if stripped[0] == "[":
            double = stripped.startswith("[[")
            path, _end = _read_path(line, column + (2 if double else 1))
            if double:
                arrays[path] = arrays.get(path, -1) + 1
                path = (*path, str(arrays[path]))
            table = path
            for length in range(1, len(path) + 1):
                places.setdefault(path[:length], (index + 1, column + 1))
            index += 1
            continue
        path, end = _read_path(line, column)
        full = (*table, *path)
        for length in range(len(table) + 1, len(full) + 1):
            places.setdefault(full[:length], (index + 1, column + 1))
        index = _skip_value(lines, index, line.find("=", end) + 1, full, places)
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
_ITEM = re.compile(r"""\s*(\{)(?:[^"'{}\[\]#]|"[^"\\]*")*\}\s*,?\s*$""")
_PIECE = re.compile(r'"""|\'\'\'|"(?:[^"\\\n]|\\.)*"|\'[^\'\n]*\'|#[^\n]*|[\[\]{}]')


def _skip_value(lines: list[str], index: int, position: int, path: Path, places: dict[Path, tuple[int, int]]) -> int:
    """The index of the line behind a value; the items of an array of values get places of their own."""
    depth = 0
    item = 0
    while index < len(lines):
        line = lines[index]
        if depth == 1 and not position and (match := _ITEM.match(line)):
            places.setdefault((*path, str(item)), (index + 1, match.start(1) + 1))
            item += 1
            index += 1
            continue
        while match := _PIECE.search(line, position):
            token = match[0]
            position = match.end()
            if token in ('"""', "'''"):
                while (close := line.find(token, position)) < 0:
                    index += 1
                    if index >= len(lines):
                        return index
                    line, position = lines[index], 0
                position = close + 3
            elif token[0] == "#":
                position = len(line)
            elif token in "[{":
                if depth == 1 and token == "{":
                    places.setdefault((*path, str(item)), (index + 1, match.start() + 1))
                    item += 1
                depth += 1
            elif token in "]}":
                depth -= 1
            elif depth == 1:
                places.setdefault((*path, str(item)), (index + 1, match.start() + 1))
                item += 1
        index += 1
        position = 0
        if depth <= 0:
            return index
    return index
