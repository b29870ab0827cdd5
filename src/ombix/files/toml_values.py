"""Texts of TOML values (arrays and inline tables), changed member by member: what is not named stays as it is, to the byte."""

import re
from typing import NamedTuple

_STRING = re.compile(r'"""(?:[^\\]|\\.)*?"""|\'\'\'.*?\'\'\'|"(?:[^"\\\n]|\\.)*"|\'[^\'\n]*\'', re.DOTALL)
_COMMENT = re.compile(r"#[^\n]*")
_BLANK = re.compile(r"[ \t\r\n]*")
_FIELD = re.compile(r"""\s*("[^"]*"|'[^']*'|[\w-]+)\s*=\s*""")


class Span(NamedTuple):
    """Where a member stands in a value's text."""

    start: int
    end: int


def members(text: str) -> list[Span]:
    """Where the members of an array or of an inline table stand, without blanks and comments around them."""
    found: list[Span] = []
    start, end, depth = -1, -1, 0
    at = 1
    while at < len(text):
        char = text[at]
        token = _STRING.match(text, at) or _COMMENT.match(text, at) if char in "\"'#" else None
        if token is not None:
            if char != "#":
                start, end = (at if start < 0 else start), token.end()
            at = token.end()
            continue
        if char in "[{":
            depth += 1
        elif char in "]}":
            depth -= 1
            if depth < 0:
                break
        if char == "," and depth == 0:
            found.append(Span(start, end))
            start = -1
        elif not char.isspace():
            start, end = (at if start < 0 else start), at + 1
        at += 1
    if start >= 0:
        found.append(Span(start, end))
    return found


def parts(text: str) -> list[str]:
    """The texts of the members."""
    return [text[start:end] for start, end in members(text)]


def with_part(text: str, index: int, part: str) -> str:
    """The value with another member in place of one."""
    start, end = members(text)[index]
    return text[:start] + part + text[end:]


def with_one_more(text: str, part: str) -> str:
    """The value with a member behind the last one, written as that one is: on a line of its own, with a comma behind it."""
    spans = members(text)
    if not spans:
        return f"{text[0]} {part} {text[-1]}" if text[0] == "{" else f"{text[0]}{part}{text[-1]}"
    last = spans[-1]
    comma = _comma_behind(text, last.end)
    line_start = text.rfind("\n", 0, last.start)
    own_line = line_start >= 0 and not text[line_start : last.start].strip()
    if not own_line:
        if comma >= 0:
            return f"{text[: comma + 1]} {part},{text[comma + 1 :]}"
        return f"{text[: last.end]}, {part}{text[last.end :]}"
    indent = text[line_start + 1 : last.start]
    rest = comma + 1 if comma >= 0 else last.end
    line_end = text.find("\n", rest)
    behind = rest if line_end < 0 or _BLANK.sub("", _COMMENT.sub("", text[rest:line_end])) else line_end
    ending = "," if comma >= 0 else ""
    between = text[last.end : rest] if comma >= 0 else ","
    return f"{text[: last.end]}{between}{text[rest:behind]}\n{indent}{part}{ending}{text[behind:]}"


def without_part(text: str, index: int) -> str:
    """The value without a member; comments beside it stay."""
    spans = members(text)
    start, end = spans[index]
    comma = _comma_behind(text, end)
    if index == len(spans) - 1 and comma < 0:
        if index == 0:
            return text[:start].rstrip(" ") + text[end:].lstrip(" ")
        before = _comma_behind(text, spans[index - 1].end)
        between = text[before + 1 : start]
        if not between.strip() and "\n" not in between:  # on the same line
            return text[:before] + text[end:]
        return text[:before] + between.rstrip(" \t").removesuffix("\n").removesuffix("\r") + text[end:]
    stop = (comma if comma >= 0 else end - 1) + 1
    line_start, line_end = text.rfind("\n", 0, start), text.find("\n", stop)
    if line_start >= 0 and line_end >= 0 and not text[line_start:start].strip() and not text[stop:line_end].strip():
        return text[:line_start] + text[line_end:]
    if index == len(spans) - 1:  # the one before it has a comma already
        return text[: start - (len(text[:start]) - len(text[:start].rstrip(" \t")))] + text[stop:]
    skipped = re.compile(r"[ \t]*").match(text, stop)
    return text[:start] + text[skipped.end() if skipped else stop :]


def _comma_behind(text: str, at: int) -> int:
    """Where the comma behind a member stands; below 0 where there is none."""
    while at < len(text) - 1:
        if text[at] == ",":
            return at
        comment = _COMMENT.match(text, at)
        at = comment.end() if comment else at + 1
    return -1


# --- inline tables


def field(text: str, name: str) -> tuple[int, str] | None:
    """Which member of an inline table a field is, and the text of its value; None where there is none."""
    for index, part in enumerate(parts(text)):
        match = _FIELD.match(part)
        if match is not None and match[1].strip("\"'") == name:
            return index, part[match.end() :]
    return None


def with_field(text: str, name: str, value: str) -> str:
    """The inline table with a field: in place of the one that it has, or behind the last."""
    found = field(text, name)
    if found is None:
        return with_one_more(text, f"{name} = {value}")
    index, old = found
    part = parts(text)[index]
    return with_part(text, index, part[: len(part) - len(old)] + value)


def without_field(text: str, name: str) -> str:
    """The inline table without a field."""
    found = field(text, name)
    return text if found is None else without_part(text, found[0])


def quoted_like(old: str, content: str) -> str:
    """A string with other content, in the quotes of the old one where they can hold it."""
    if old.startswith("'") and not old.startswith("'''") and "'" not in content:
        return f"'{content}'"
    escaped = content.replace("\\", "\\\\").replace('"', '\\"')
    return f'"{escaped}"'
