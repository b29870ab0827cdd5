"""What stands at a place of a keymap or workspace file, half written or not: a heading, a name, keys, a condition, an action."""

import re
from typing import Literal, NamedTuple

from ombix.data.platform_names import PLATFORMS

SpotKind = Literal[
    "", "heading", "name", "keys", "condition", "action", "macro", "snippet", "file", "layout", "platform", "terminal", "desktop",
    "keyboard", "editor", "rule",
]  # fmt: skip

_HEADING = re.compile(r"\s*\[+\s*([^\]\r\n]*)\]*")
_PART = re.compile(r"""\s*([A-Za-z0-9_-]+|"[^"]*"|'[^']*')\s*\.?""")
_NAME = re.compile(r"""\s*((?:[A-Za-z0-9_.-]+|"[^"]*"|'[^']*')*)""")
_KEY = re.compile(r"""([A-Za-z0-9_-]+|"[^"]*"|'[^']*')\s*=\s*$""")
_STRING = re.compile(r"""\"(?:[^"\\]|\\.)*"?|'[^']*'?|#.*""")
_KEY_FIELDS = ("press", "also", *PLATFORMS)
_BY_FIELD: dict[str, SpotKind] = {
    **dict.fromkeys(_KEY_FIELDS, "keys"), "where": "condition", "do": "action", "means": "action", "play": "macro",
    "insert": "snippet", "extends": "file", "never": "condition", "keymap": "file", "layers": "file", "layout": "layout",
    "platform": "platform", "terminal": "terminal", "desktop": "desktop", "keyboard": "keyboard", "dialect": "editor",
    "rule": "rule",
}  # fmt: skip


class TextSpot(NamedTuple):
    """A place: `path` are the names above it (of the heading and of what it is the value of), `field` the field of the value that
    it stands in (empty: none). `text` is the string, or the name, from `start` to `end` (columns of its line, from 0)."""

    kind: SpotKind
    path: tuple[str, ...]
    field: str
    text: str
    start: int
    end: int

    @property
    def action(self) -> str:
        """The action whose entry this is; empty for another."""
        return ".".join(self.path[1:3]) if self.path[:1] == ("bind",) and len(self.path) >= 3 else ""


def spot_at(lines: list[str], line: int, column: int) -> TextSpot:
    """What stands at a place: its line and column, from 0."""
    text = lines[line] if line < len(lines) else ""
    column = min(column, len(text))
    heading = _HEADING.fullmatch(text.split("#", 1)[0].rstrip())
    above = _table_above(lines, line)
    if heading is not None and _statement_line(lines, line) == line:
        return TextSpot("heading", (), "", heading[1].strip(), heading.start(1), heading.end(1))
    first = _statement_line(lines, line)
    name = _NAME.match(lines[first]) if first < len(lines) else None
    parts = _parts(name[1]) if name is not None else ()
    path = (*above, *parts)
    string = _string_at(text, column)
    if string is None:
        if first == line and name is not None and column <= name.end():
            return TextSpot("name", above, "", name[1], name.start(1), name.end(1))
        return TextSpot("", path, "", "", column, column)
    start, end = string
    field = _field_before(lines, first, line, start, parts[-1] if parts else "")
    kind = _kind(path, field)
    if text[start] in "\"'":
        start, end = start + 1, end - (1 if end - start > 1 and text[end - 1] == text[start] else 0)
    if first == line and name is not None and start <= name.end() and path[:1] == ("unbind",):
        return TextSpot("keys", above, "", text[start:end], start, end)
    return TextSpot(kind, path, field, text[start:end], start, end)


def _kind(path: tuple[str, ...], field: str) -> SpotKind:
    last = path[-1] if path else ""
    table = path[0] if path else ""
    if table == "where" and len(path) == 2:
        return "condition"
    if table in ("bind", "only") and not field:
        return "keys" if len(path) == 3 else _BY_FIELD.get(last, "")
    if table in ("layout", "keyboard"):
        return "layout" if table == "layout" else "keyboard"
    return _BY_FIELD.get(field or last, "")


def _table_above(lines: list[str], line: int) -> tuple[str, ...]:
    """The names of the heading that a line stands under."""
    for number in range(min(line, len(lines)) - 1, -1, -1):
        if lines[number].lstrip().startswith("[") and _statement_line(lines, number) == number:
            found = _HEADING.match(lines[number])
            return _parts(found[1]) if found is not None else ()
    return ()


def _parts(text: str) -> tuple[str, ...]:
    return tuple(match[1].strip("\"'") for match in _PART.finditer(text))


_FAR = 400
"""Lines that a statement can go over, for what is looked at here."""


def _statement_line(lines: list[str], line: int) -> int:
    """The line in which the statement begins that a line is of."""
    depth = 0
    for number in range(line - 1, max(-1, line - _FAR), -1):
        bare = _STRING.sub("", lines[number])
        if depth == 0 and (
            not bare.strip() or (bare.lstrip().startswith("[") and "=" not in bare and bare.rstrip().endswith("]"))
        ):
            return line
        depth += bare.count("[") + bare.count("{") - bare.count("]") - bare.count("}")
        if depth > 0 and "=" in bare:
            return number
        if depth <= 0 and "=" in bare:
            return line
    return line


def _string_at(text: str, column: int) -> tuple[int, int] | None:
    """From where to where the string goes that a column is in, with its quotes; None where it is in none."""
    for match in _STRING.finditer(text):
        if text[match.start()] == "#":
            return None
        closed = match.end() - match.start() > 1 and text[match.end() - 1] == text[match.start()]
        if match.start() < column < match.end() + (not closed):
            return match.span()
    return None


def _field_before(lines: list[str], first: int, line: int, column: int, whole: str) -> str:
    """The field of an inline table that a value is of; empty for the value of the statement itself."""
    text = "\n".join([*lines[first:line], lines[line][:column]])
    bare = _STRING.sub(lambda match: match[0] if match[0][0] != "#" else "", text)
    depth = 0
    index = len(bare)
    while index > 0:
        index -= 1
        char = bare[index]
        if char in "]}":
            depth += 1
        elif char == "[" and depth == 0:
            continue
        elif char in "[{":
            depth -= 1
            if depth < 0:
                return ""
        elif char == "=" and depth == 0:
            found = _KEY.search(bare[: index + 1])
            name = found[1].strip("\"'") if found is not None else ""
            is_inner = "{" in bare[: found.start()] if found is not None else False
            return name if is_inner or name != whole.split(".")[-1] else ""
        elif char == "," and depth == 0 and bare[:index].count("[") == bare[:index].count("]"):
            before = bare[:index]
            if before.count("{") > before.count("}"):
                return ""
    return ""
