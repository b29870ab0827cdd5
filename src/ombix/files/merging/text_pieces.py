"""A TOML text in pieces: statements with the comments right above them, headings, and comments that stand by themselves."""

import re
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from ombix.core.toml import TomlStatement, statements
from ombix.files.merging.file_units import ROWS, Unit, depth_of, row_units, unit_of

Path = tuple[str, ...]
_MAY_BE_COARSE = re.compile(r"(?m)^[ \t]*(?:\[[ \t]*(?:bind|only)[ \t]*\]|[^\[\]{}#=]*=[ \t]*\{)")


@dataclass(slots=True)
class Piece:
    """A piece: `unit` is that of which it is a part (none: comments, and headings above several), `table` what the heading that it
    stands under names, `path` its own. The value of a statement stands from `start` to `end`: its line in `lines`, its column."""

    kind: Literal["statement", "heading", "comment"]
    unit: Unit = ()
    path: Path = ()
    table: Path = ()
    blanks: int = 0
    """Blank lines before it."""
    above: list[str] = field(default_factory=list)
    lines: list[str] = field(default_factory=list)
    start: tuple[int, int] = (0, 0)
    end: tuple[int, int] = (0, 0)

    @property
    def name(self) -> tuple[Any, ...]:
        """What it is known by on the other side."""
        if self.kind == "comment":
            return ("comment", *self.lines)
        if self.kind == "heading":
            return ("heading", self.unit or self.path)
        return ("statement", self.unit, self.path[depth_of(self.path[0]) :])

    @property
    def value_text(self) -> str:
        """The text of a statement's value."""
        (first, column), (last, end) = self.start, self.end
        if first == last:
            return self.lines[first][column:end]
        return "\n".join([self.lines[first][column:], *self.lines[first + 1 : last], self.lines[last][:end]])

    @property
    def behind(self) -> str:
        """What stands behind the value on its last line: blanks and a comment."""
        return self.lines[self.end[0]][self.end[1] :]

    def with_value(self, text: str, behind: str | None = None) -> "Piece":
        """The statement with another value, and what stands behind it."""
        rest = self.behind if behind is None else behind
        head, tail = self.lines[: self.start[0]], self.lines[self.end[0] + 1 :]
        new = (self.lines[self.start[0]][: self.start[1]] + text + rest).split("\n")
        last = len(head) + len(new) - 1
        return Piece(
            self.kind, self.unit, self.path, self.table, self.blanks, list(self.above), [*head, *new, *tail],
            self.start, (last, len(new[-1]) - len(rest)),
        )  # fmt: skip

    def copy(self) -> "Piece":
        """Another piece like it."""
        return Piece(
            self.kind, self.unit, self.path, self.table, self.blanks, list(self.above), list(self.lines), self.start, self.end,
        )  # fmt: skip


def coarse_in(text: str) -> Iterator[Path]:
    """The paths under which a text has one table for several units, like `where = { … }`."""
    if not _MAY_BE_COARSE.search(text):
        return
    for statement in statements(text.replace("\r\n", "\n")):
        if not statement.is_heading and not _unit_at(statement, {}):
            yield statement.path


def pieces_of(text: str, table: Mapping[str, Any]) -> list[Piece]:
    """The pieces of a text, with the values that it was read to."""
    lines = text.replace("\r\n", "\n").split("\n")
    rows = {key: row_units(key, table[key]) for key in ROWS if isinstance(table.get(key), list)}
    found: list[Piece] = []
    gathering = _Gathering(lines)
    section: Path = ()
    for statement in statements(text.replace("\r\n", "\n")):
        loose, above, blanks = gathering.before(statement.line)
        found += [Piece("comment", table=section, blanks=count, lines=group) for count, group in loose]
        unit = _unit_at(statement, rows)
        if statement.is_heading:
            section = unit if statement.path[0] in ROWS else statement.path
            piece = Piece(
                "heading", unit, statement.path, section, blanks, above, lines[statement.line : statement.end_line + 1]
            )
        else:
            piece = Piece(
                "statement", unit or unit_of(statement.path), statement.path, section, blanks, above,
                lines[statement.line : statement.end_line + 1],
                (0, statement.value_column), (statement.end_line - statement.line, statement.end_column),
            )  # fmt: skip
        found.append(piece)
        gathering.taken(statement.end_line + 1)
    loose, above, blanks = gathering.before(len(lines))
    groups = [*loose, *([(blanks, above)] if above else [])]
    found += [Piece("comment", table=section, blanks=count, lines=group) for count, group in groups]
    return found


def _unit_at(one: TomlStatement, rows: Mapping[str, list[Unit]]) -> Unit:
    """The unit of a statement or a heading; none for what several units stand in."""
    path = one.path
    if path[0] in ROWS:
        return rows[path[0]][int(path[1])] if len(path) > 1 and path[0] in rows else (path[0],)
    return unit_of(path) if len(path) >= depth_of(path[0]) else ()


def coarser(pieces: Iterable[Piece], coarse: Iterable[Unit]) -> None:
    """Have what stands under one of these paths be of one unit."""
    for whole in sorted(coarse, key=len, reverse=True):
        for piece in pieces:
            if piece.kind != "comment" and piece.path[: len(whole)] == whole:
                piece.unit = whole


def text_of(pieces: Iterable[Piece], end: str = "\n") -> str:
    """The pieces as a text, with these line ends."""
    lines: list[str] = []
    for piece in pieces:
        lines += [""] * (piece.blanks if lines else 0) + piece.above + piece.lines
    return "".join(f"{line}{end}" for line in lines)


class _Gathering:
    """The comments and blank lines between statements."""

    def __init__(self, lines: list[str]) -> None:
        self._lines = lines
        self._at = 0

    def taken(self, index: int) -> None:
        """Go on behind a statement."""
        self._at = index

    def before(self, index: int) -> tuple[list[tuple[int, list[str]]], list[str], int]:
        """Groups of comments that stand by themselves, each with the blank lines before it; then the comments right above the
        statement in a line, and the blank lines before these."""
        groups: list[tuple[int, list[str]]] = []
        blanks, group = 0, list[str]()
        for line in self._lines[self._at : index]:
            if line.strip():
                group.append(line)
                continue
            if group:
                groups.append((blanks, group))
                blanks, group = 0, []
            blanks += 1
        return groups, group, blanks
