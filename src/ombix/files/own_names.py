"""Names of a file's own (of conditions, macros, snippets): where they are defined and used, and how they are renamed."""

import re
from collections.abc import Iterator
from typing import Literal, NamedTuple

from ombix.core.toml import TomlStatement, statements

NameKind = Literal["condition", "macro", "snippet"]
TABLES: dict[NameKind, str] = {"condition": "where", "macro": "macro", "snippet": "snippet"}
"""Kind of a name to the table that defines it."""

_STRING = r""""(?:[^"\\\n]|\\.)*"|'[^'\n]*'"""
_WHERE = re.compile(rf"\bwhere\s*=\s*({_STRING})")
_STRINGS = re.compile(_STRING)
_WORDS = re.compile(r"[A-Za-z0-9_][A-Za-z0-9_.+#-]*|[(),]")
_BARE = re.compile(r"[A-Za-z0-9_-]+")
_PLAYED: dict[NameKind, re.Pattern[str]] = {
    "macro": re.compile(rf"\b(?:play\s*=\s*|means\s*=\s*(?=[\"']macro ))({_STRING})"),
    "snippet": re.compile(rf"\b(?:insert\s*=\s*|means\s*=\s*(?=[\"']snippet ))({_STRING})"),
}


class NameUse(NamedTuple):
    """Where a name stands in a text, without quotes: from an offset to another."""

    kind: NameKind
    name: str
    start: int
    end: int
    is_definition: bool = False


def uses(text: str) -> Iterator[NameUse]:
    """All names in a text that is right TOML, in its order; of conditions all words that may be names."""
    starts = [0]
    for line in text.split("\n"):
        starts.append(starts[-1] + len(line) + 1)
    for statement in statements(text):
        yield from sorted(_uses_in(text, statement, starts), key=lambda use: use.start)


def _uses_in(text: str, one: TomlStatement, starts: list[int]) -> Iterator[NameUse]:
    first = starts[one.line] + one.column
    path = one.path
    for kind, table in TABLES.items():
        if path[0] == table and len(path) > 1 and (one.is_heading or one.table < 2):
            yield from _defined(text, kind, path[1], first)
    if one.is_heading:
        return
    start, end = starts[one.line] + one.value_column, starts[one.end_line] + one.end_column
    if (path[0] == "where" and len(path) == 2) or path[0] == "never" or path[-1] == "where":
        for match in _STRINGS.finditer(text, start, end):
            yield from _words(text, match.start() + 1, match.end() - 1)
    else:
        for match in _WHERE.finditer(text, start, end):
            yield from _words(text, match.start(1) + 1, match.end(1) - 1)
    for each, pattern in _PLAYED.items():
        for match in pattern.finditer(text, first if path[-1] in ("play", "insert", "means") else start, end):
            skipped = len(each) + 1 if match[0].startswith("means") else 0
            begin = match.start(1) + 1 + skipped
            yield NameUse(each, text[begin : match.end(1) - 1], begin, match.end(1) - 1)


def _defined(text: str, kind: NameKind, name: str, first: int) -> Iterator[NameUse]:
    """The name in a key or a heading that begins at an offset."""
    line_end = text.find("\n", first)
    found = re.compile(rf"[\"']?{re.escape(name)}[\"']?").search(
        text, first + (0 if text[first] not in "[" else 1), line_end if line_end >= 0 else len(text)
    )
    table = re.compile(rf"\s*\[*\s*{TABLES[kind]}\s*\.\s*").match(text, first)
    if table is not None:
        found = re.compile(rf"[\"']?{re.escape(name)}[\"']?").match(text, table.end())
    if found is not None:
        quoted = found[0][0] in "\"'"
        yield NameUse(kind, name, found.start() + quoted, found.end() - quoted, True)


def _words(text: str, start: int, end: int) -> Iterator[NameUse]:
    """The words of a condition that may be names: not those that are values of a fact."""
    previous, listed = "", False
    for match in _WORDS.finditer(text, start, end):
        word = match[0]
        if word == "(" and previous == "in":
            listed = True
        elif word == ")":
            listed = False
        is_value = listed or previous == "is"
        if word not in ("and", "or", "not", "is", "in", "(", ")", ",") and not is_value:
            yield NameUse("condition", word, match.start(), match.end())
        previous = previous if word == "not" and previous == "is" else word


def uses_of(text: str, kind: NameKind, name: str) -> list[NameUse]:
    """Where one name stands."""
    return [use for use in uses(text) if use.kind == kind and use.name == name]


def with_name(text: str, kind: NameKind, old: str, new: str) -> str:
    """The text with another name in place of one."""
    found: list[str] = []
    at = 0
    for one in uses_of(text, kind, old):
        is_bare = one.is_definition and text[one.start - 1] not in "\"'" and not _BARE.fullmatch(new)
        found += [text[at : one.start], f'"{new}"' if is_bare else new]
        at = one.end
    return "".join([*found, text[at:]])


def is_word(text: str) -> bool:
    """Whether a text can be the name of a condition."""
    return _WORDS.fullmatch(text) is not None and text not in ("and", "or", "not", "is", "in", "(", ")", ",")
