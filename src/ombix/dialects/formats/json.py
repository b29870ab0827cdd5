"""JSON with comments: one object, whose members are keys and commands, or sections with such members in them."""

import json
import re
from collections.abc import Iterable, Iterator
from typing import NoReturn

from ombix.core.errors import InputError, Place
from ombix.dialects.description import Description
from ombix.dialects.formats import Heading, Statement

_TOKEN = re.compile(
    r"""(?P<space>[\s\ufeff]+)|(?P<comment>//[^\n]*|/\*.*?\*/)|(?P<mark>[{}\[\]:,])"""
    r"""|(?P<string>"(?:[^"\\\n]|\\.)*"|'(?:[^'\\\n]|\\.)*')|(?P<word>[^\s{}\[\]:,"'/]+)""",
    re.DOTALL,
)
_MAX_DEPTH = 100


def read(text: str, file: str, description: Description) -> Iterator[Statement]:
    """The statements of a file. Raises InputError with the place of the first fault."""
    reader = _Reader(text, file)
    if reader.peek()[1] == "":
        return
    yield from reader.members(description)
    kind, token, position = reader.take()
    if token:
        reader.fail(f"unexpected {_kind_of(kind, token)} after the end of the object", position, len(token))


def write(items: Iterable[Statement | Heading], description: Description) -> str:
    """A file that says `items`; sections come last, each as an object of its own."""
    top: list[Statement | Heading] = []
    sections: dict[str, list[Statement | Heading]] = {}
    heading: Heading | None = None
    headed: set[str] = set()
    for item in items:
        if isinstance(item, Heading):
            heading = item
            headed.clear()
            continue
        home = top if item.section in ("", description.file.default_section) else sections.setdefault(item.section, [])
        if heading is not None and item.section not in headed:
            home.append(heading)
            headed.add(item.section)
        home.append(item)
    lines = ["{"]
    _write_members(top, "    ", bool(sections), lines)
    for index, (name, members) in enumerate(sections.items()):
        if len(lines) > 1:
            lines.append("")
        lines.append(f"    {json.dumps(name)}: {{")
        _write_members(members, "        ", False, lines)
        lines.append("    }," if index + 1 < len(sections) else "    }")
    lines.append("}")
    return "\n".join(lines) + "\n"


def _write_members(members: list[Statement | Heading], indent: str, more_follows: bool, lines: list[str]) -> None:
    last = max((index for index, item in enumerate(members) if isinstance(item, Statement)), default=-1)
    for index, item in enumerate(members):
        if isinstance(item, Heading):
            if index and lines[-1] != "{":
                lines.append("")
            lines.append(f"{indent}// {item.text}")
            continue
        comma = "," if more_follows or index < last else ""
        if item.kind == "keep":
            lines.append(f"{indent}{item.written}{comma}")
        else:
            key, command = (json.dumps(part, ensure_ascii=False) for part in (item.key, item.command))
            lines.append(f"{indent}{key}: {command}{comma}")


class _Reader:
    def __init__(self, text: str, file: str) -> None:
        self.text = text
        self.file = file
        self.tokens = self._tokens()
        self.ahead: tuple[str, str, int] | None = None

    def _tokens(self) -> Iterator[tuple[str, str, int]]:
        position = 0
        while position < len(self.text):
            match = _TOKEN.match(self.text, position)
            if match is None:
                rest = self.text[position : position + 1]
                if rest in "\"'":
                    self.fail("this text is never closed", position, 1, "Add the closing quote on the same line.")
                self.fail(f"unexpected character: {rest!r}", position, 1)
            position = match.end()
            kind = str(match.lastgroup)
            if kind not in ("space", "comment"):
                yield kind, match[0], match.start()
        yield "end", "", len(self.text)

    def peek(self) -> tuple[str, str, int]:
        if self.ahead is None:
            self.ahead = next(self.tokens)
        return self.ahead

    def take(self) -> tuple[str, str, int]:
        token = self.peek()
        if token[0] != "end":
            self.ahead = None
        return token

    def expect(self, mark: str, after: str) -> int:
        kind, token, position = self.take()
        if token != mark:
            self.fail(f"expected {mark} {after}, not {_kind_of(kind, token)}", position, len(token))
        return position

    def members(self, description: Description) -> Iterator[Statement]:
        start = self.expect("{", "at the start")
        yield from self._object(description, "", start)

    def _object(self, description: Description, section: str, opened: int) -> Iterator[Statement]:
        while True:
            kind, token, position = self.take()
            if token == "}":
                return
            if kind == "end":
                self.fail("the file ends before this { is closed", opened, 1, "Add the missing }.")
            key = self._name(kind, token, position)
            self.expect(":", f"after {token}")
            value_kind, value, value_position = self.take()
            if value == "{":
                if section or key not in description.sections:
                    end = self._skip("{", value_position)
                    note = f"{description.name} has no section {key}" if not section else "a section in a section"
                    yield Statement(self.place(position), self.text[position:end], "keep", note=note, is_fault=True)
                else:
                    yield from self._object(description, key, value_position)
            elif value == "[":
                end = self._skip("[", value_position)
                yield Statement(
                    self.place(position), self.text[position:end], "keep", note="a list is no command", is_fault=True
                )
            elif value_kind == "string":
                written = self.text[position : value_position + len(value)]
                command = self._unquote(value, value_position)
                yield Statement(self.place(position), written, "bind", key, command, section)
            elif value_kind == "word":
                written = self.text[position : value_position + len(value)]
                yield Statement(self.place(position), written, "keep", note=f"{value} is no command", is_fault=True)
            else:
                self.fail(
                    f"expected a command after {token}:, not {_kind_of(value_kind, value)}", value_position, len(value)
                )
            kind, mark, position = self.peek()
            if mark == ",":
                self.take()
            elif mark != "}":
                if kind == "end":
                    self.fail("the file ends before this { is closed", opened, 1, "Add the missing }.")
                self.fail(f"expected , or }} before {_kind_of(kind, mark)}", position, len(mark), "Add a comma.")

    def _skip(self, opening: str, start: int) -> int:
        stack = [opening]
        while stack:
            kind, token, position = self.take()
            if kind == "end":
                self.fail(f"the file ends before this {opening} is closed", start, 1)
            if token in ("{", "["):
                stack.append(token)
                if len(stack) > _MAX_DEPTH:
                    self.fail(f"more than {_MAX_DEPTH} levels of nesting", position, 1)
            elif token in ("}", "]") and stack.pop() != ("{" if token == "}" else "["):
                self.fail(f"{token} closes nothing here", position, 1)
        return position + 1

    def _name(self, kind: str, token: str, position: int) -> str:
        if kind == "string":
            return self._unquote(token, position)
        if kind == "word":
            return token
        return self.fail(f"expected a key in quotes, not {_kind_of(kind, token)}", position, len(token))

    def _unquote(self, token: str, position: int) -> str:
        body = token[1:-1]
        if token[0] == "'":
            body = body.replace("\\'", "'").replace('"', '\\"')
        try:
            return str(json.loads(f'"{body}"', strict=False))
        except ValueError:
            self.fail("this text has a wrong escape in it", position, len(token), "Write a backslash as two.")

    def place(self, position: int) -> Place:
        line = self.text.count("\n", 0, position) + 1
        return Place(self.file, line, position - self.text.rfind("\n", 0, position))

    def fail(self, what: str, position: int, width: int, advice: str = "") -> NoReturn:
        place = self.place(position)
        end = self.text.find("\n", position)
        start = self.text.rfind("\n", 0, position) + 1
        raise InputError(what, advice, place, self.text[start : end if end >= 0 else None], width)


def _kind_of(kind: str, token: str) -> str:
    return "the end of the file" if kind == "end" else token if len(token) < 30 else token[:27] + "…"
