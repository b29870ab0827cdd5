"""Reads a list of an editor's commands, or of its default keys, as programs and manuals have them: a line each, JSON, CSV, or a
table."""

import csv
import io
import json
import re
from collections.abc import Sequence

from msgspec import Struct

from ombix.editors.drafting.spellings import guess

_NAME = re.compile(r"[\w.:/+*!?-]+")
_BETWEEN = re.compile(r"\t+| {2,}|: +| +[-–—=] +")
_RULE = re.compile(r":?-{2,}:?")
_NAME_COLUMNS = frozenset({"command", "id", "name", "action", "key", "function", "cmd"})
_MOST_WORDS = 60


class Listed(Struct, frozen=True):
    """A row of a list: a command, what is said of it, and its keys, where they stand there."""

    command: str
    said: str = ""
    keys: tuple[str, ...] = ()


def read_list(text: str, known: frozenset[str] = frozenset()) -> list[Listed]:
    """The commands of a list; `known` are some that the editor has for sure. Empty where no list can be seen in it."""
    for rows in (_json(text), _yaml(text), _table(text), _csv(text), _lines(text, known)):
        if rows:
            found = _listed(rows, known)
            if found:
                return list({one.command: one for one in found}.values())
    return []


def _json(text: str) -> list[list[str]]:
    try:
        return _records(json.loads(text))
    except (ValueError, RecursionError):
        return []


def _yaml(text: str) -> list[list[str]]:
    """The rows of a list, or of a map whose values are maps; lines like `name: text` are read as such."""
    import yaml

    try:
        events = [type(event) for event in yaml.parse(text, Loader=yaml.SafeLoader)]
        has_groups = events.count(yaml.MappingStartEvent) + events.count(yaml.SequenceStartEvent) > 1
        return _records(yaml.safe_load(text)) if has_groups and yaml.AliasEvent not in events else []
    except (yaml.YAMLError, ValueError, RecursionError):
        return []


def _records(found: object) -> list[list[str]]:
    """The rows of a list of texts or maps, of a map of texts or maps, or of one of these in a map with nothing else in it."""
    if isinstance(found, dict):
        if len(found) == 1 and isinstance(inner := next(iter(found.values())), list | dict):
            return _records(inner)
        if any(isinstance(value, dict) for value in found.values()):
            maps = {str(name): value if isinstance(value, dict) else {} for name, value in found.items()}
            names = list(dict.fromkeys(name for value in maps.values() for name in value))
            return [[name, *(_cell(value.get(name)) for name in names)] for name, value in maps.items()]
        return [[str(name), _cell(value)] for name, value in found.items()]
    if not isinstance(found, list):
        return []
    if all(isinstance(one, str) for one in found):
        return [[one] for one in found]
    rows = [one for one in found if isinstance(one, dict)]
    names = list(dict.fromkeys(name for row in rows for name in row))
    return [[_cell(row.get(name)) for name in names] for row in rows]


def _cell(value: object) -> str:
    return value if isinstance(value, str) else ""


def _table(text: str) -> list[list[str]]:
    """The rows of the tables with upright strokes, as Markdown has them, without their heads."""
    lines = [line.strip() for line in text.splitlines()]
    rows: list[list[str]] = []
    for index, line in enumerate(lines):
        cells = [cell.strip().strip("`*") for cell in line.strip("|").split("|")]
        following = lines[index + 1].strip("|").split("|") if index + 1 < len(lines) else []
        is_head = bool(following) and all(_RULE.fullmatch(cell.strip()) for cell in following)
        if "|" in line and len(cells) > 1 and not is_head and not all(_RULE.fullmatch(cell) for cell in cells):
            rows.append(cells)
    return rows


def _csv(text: str) -> list[list[str]]:
    lines = [line for line in text.splitlines() if line.strip()]
    sign = next((one for one in (";", ",") if len(lines) > 1 and all(one in line for line in lines)), "")
    if not sign:
        return []
    rows = [[cell.strip() for cell in row] for row in csv.reader(io.StringIO("\n".join(lines)), delimiter=sign)]
    head = {cell.lower() for cell in rows[0]}
    return rows[1:] if head & _NAME_COLUMNS else rows


def _lines(text: str, known: frozenset[str]) -> list[list[str]]:
    """Lines with a name and what is said of it behind a sign or some blanks; or names alone."""
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    parted = [_BETWEEN.split(line, 1) for line in lines]
    pairs = [
        [first.strip("`*- "), rest]
        for first, *behind in parted
        for rest in behind
        if _NAME.fullmatch(first.strip("`*- "))
    ]
    if len(pairs) >= 0.6 * len(lines):
        return pairs
    alone = [[line.strip("`*- ")] for line in lines if _NAME.fullmatch(line.strip("`*- ")) or line in known]
    return alone if len(alone) >= 0.6 * len(lines) else []


def _listed(rows: Sequence[Sequence[str]], known: frozenset[str]) -> list[Listed]:
    """The rows by their columns: the one with the names, the one with keys, and the longest of the others."""
    width = min(len(row) for row in rows)
    columns = [[row[index] for row in rows] for index in range(width)]
    keys = next(
        (
            index
            for index, column in enumerate(columns)
            if width > 1 and guess([one for one in column if one]) is not None
        ),
        None,
    )
    names = [index for index in range(width) if index != keys]
    if not names:
        return []
    name = max(names, key=lambda index: (_nameness(columns[index], known), -index))
    if _nameness(columns[name], known) < 0.6:
        return []
    said = [index for index in names if index != name]
    about = max(said, key=lambda index: sum(map(len, columns[index])), default=None)
    return [
        Listed(
            row[name], " ".join(row[about].split()[:_MOST_WORDS]) if about is not None else "",
            (row[keys],) if keys is not None and row[keys] else (),
        )
        for row in rows if row[name]
    ]  # fmt: skip


def _nameness(column: Sequence[str], known: frozenset[str]) -> float:
    """How much a column is one of names: those that are known count most."""
    if not column:
        return 0.0
    named = sum(1 for one in column if _NAME.fullmatch(one)) / len(column)
    return named * len(set(column)) / len(column) + sum(1 for one in column if one in known) / len(column)
