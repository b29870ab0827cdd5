"""JSON with comments: read into a tree, and laid out again."""

import json
import re
from collections.abc import Iterator

from ombix.editors.formats.trees.nodes import MAX_DEPTH, Field, Member, Node, group_of
from ombix.editors.formats.trees.scanning import Scanner

_TOKEN = re.compile(
    r"""(?P<space>[\s\ufeff]+)|(?P<comment>//[^\n]*|/\*.*?\*/)|(?P<mark>[{}\[\]:,])"""
    r"""|(?P<string>"(?:[^"\\\n]|\\.)*"|'(?:[^'\\\n]|\\.)*')|(?P<word>[^\s{}\[\]:,"'/]+)""",
    re.DOTALL,
)
_CLOSING = {"{": "}", "[": "]"}
_LINE = 100


def parse(text: str, file: str) -> Node:
    """The tree of a file. Raises InputError."""
    reader = _JsonReader(text, file, _TOKEN)
    top = reader.value(0)
    kind, token, position = reader.take()
    if token:
        reader.fail(f"unexpected {_kind_of(kind, token)} after the end of the {top.kind}", position, len(token))
    return top


def whole(text: str) -> str:
    """A piece as a file of its own."""
    return text if text[:1] in "{[" else "{" + text + "}"


def one_line(member: Member) -> str:
    """A member in one line."""
    if isinstance(member, Field):
        return f"{json.dumps(member.name, ensure_ascii=False)}: {one_line(member.value)}"
    if member.kind == "text":
        return json.dumps(member.text, ensure_ascii=False) if member.is_quoted else member.text
    opening = "{" if member.kind == "map" else "["
    inner = ", ".join(one.source or one_line(one) for one in member.members())
    return f"{opening} {inner} {_CLOSING[opening]}" if inner else opening + _CLOSING[opening]


def lay_out(top: Node) -> str:
    """The text of a file; groups stand behind what is no group, with a blank line before each."""
    opening = "{" if top.kind == "map" else "["
    return "\n".join([opening, *_members(top, "    "), _CLOSING[opening]]) + "\n"


def _members(group: Node, indent: str) -> Iterator[str]:
    members = sorted(group.members(), key=lambda one: isinstance(one, Field) and not one.source and _is_deep(one))
    for index, member in enumerate(members):
        comma = "," if index + 1 < len(members) else ""
        value = group_of(member)
        is_deep = _is_deep(member) and not member.source
        if index and (member.comment or (is_deep and isinstance(member, Field))):
            yield ""
        if member.comment:
            yield f"{indent}// {member.comment}"
        if not is_deep:
            yield f"{indent}{member.source or one_line(member)}{comma}"
            continue
        name = f"{json.dumps(member.name, ensure_ascii=False)}: " if isinstance(member, Field) else ""
        opening = "{" if value.kind == "map" else "["
        yield f"{indent}{name}{opening}"
        yield from _members(value, indent + "    ")
        yield f"{indent}{_CLOSING[opening]}{comma}"


def _is_deep(member: Member) -> bool:
    """Whether a member is laid out on several lines: a group, but for a record of texts, or of short groups, in a list."""
    value = group_of(member)
    if isinstance(member, Node) and value.kind == "map" and _is_short(value):
        return False
    is_record = value.kind == "map" and all(one.value.kind == "text" for one in value.fields)
    is_record = is_record and (isinstance(member, Node) or len(value.fields) > 1)
    return value.kind != "text" and bool(value.members()) and not (is_record and not _has_comment(value))


def _is_short(record: Node) -> bool:
    """Whether a record with lists of texts in it, in its groups too, fits in a line."""
    inner = [one.value for one in record.fields]
    parts = [part for one in inner for part in ([each.value for each in one.fields] if one.fields else [one])]
    is_plain = all(
        part.kind == "text" or (part.kind == "list" and all(item.kind == "text" for item in part.items))
        for part in parts
    )
    has_list = any(part.kind == "list" for part in parts)
    return is_plain and has_list and not _has_comment(record) and len(one_line(record)) <= _LINE


def _has_comment(value: Node) -> bool:
    return any(member.comment for member in value.members())


class _JsonReader(Scanner):
    def value(self, depth: int) -> Node:
        """The node of the next value."""
        kind, token, position = self.take()
        if depth > MAX_DEPTH:
            self.fail(f"more than {MAX_DEPTH} levels of nesting", position, 1, "No keymap needs that.")
        if token in ("{", "["):
            node = Node("map" if token == "{" else "list", place=self.place(position))
            self._members(node, token, position, depth)
            return node
        if kind == "string":
            return Node("text", text=self._unquote(token, position), place=self.place(position))
        if kind == "word":
            return Node("text", text=token, is_quoted=False, place=self.place(position))
        wanted = "a value" if depth else "{ at the start"
        return self.fail(f"expected {wanted}, not {_kind_of(kind, token)}", position, len(token))

    def _members(self, node: Node, opening: str, opened: int, depth: int) -> None:
        closing = _CLOSING[opening]
        while True:
            kind, token, position = self.peek()
            if token == closing:
                self.take()
                return
            if kind == "end":
                self.fail(f"the file ends before this {opening} is closed", opened, 1, f"Add the missing {closing}.")
            if token in ("}", "]"):
                self.fail(f"{token} closes nothing here", position, 1)
            if opening == "{":
                self._field(node, depth)
            else:
                node.items.append(self.value(depth + 1))
            kind, token, position = self.peek()
            if token == ",":
                self.take()
            elif token not in (closing, "") and token not in ("}", "]"):
                self.fail(f"expected , or {closing}, not {_kind_of(kind, token)}", position, len(token))

    def _field(self, node: Node, depth: int) -> None:
        kind, token, position = self.take()
        if kind == "mark":
            self.fail(f"expected a key in quotes, not {token}", position, len(token))
        name = self._unquote(token, position) if kind == "string" else token
        kind, mark, at = self.take()
        if mark != ":":
            self.fail(f"expected : after {token}, not {_kind_of(kind, mark)}", at, len(mark))
        value = self.value(depth + 1)
        source = self.text[position : self.end] if value.kind == "text" else ""
        node.fields.append(Field(name, value, self.place(position), source))

    def _unquote(self, token: str, position: int) -> str:
        body = token[1:-1]
        if token[0] == "'":
            body = body.replace("\\'", "'").replace('"', '\\"')
        try:
            return str(json.loads(f'"{body}"', strict=False))
        except ValueError:
            return self.fail("this text has a wrong escape in it", position, len(token), "Write a backslash as two.")


def _kind_of(kind: str, token: str) -> str:
    return "the end of the file" if kind == "end" else token if len(token) < 30 else token[:27] + "…"
