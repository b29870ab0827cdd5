"""YAML: read into a tree, and laid out again. Tags are passed over: nothing in a file makes an object."""

import re
from collections.abc import Iterator
from typing import Any

from ombix.core.errors import InputError, Place
from ombix.editors.formats.trees.nodes import (
    MAX_DEPTH,
    MOST_PARTS,
    Field,
    Kind,
    Member,
    Node,
    group_of,
    too_many_parts,
)

_WORDS = {"": "null", "~": "null", "null": "null", "true": "true", "false": "false"}
"""What is no text where it stands without quotes, in small letters (YAML 1.2, core schema)."""
_PLAIN = re.compile(r"[A-Za-z_./][\w./+-]*(?: [\w./+-]+)*", re.ASCII)
"""Texts that need no quotes, whatever is around them."""
_NOT_PLAIN = frozenset(["y", "yes", "n", "no", "on", "off", "true", "false", "null"])
"""Words that some readers of YAML take for no text."""
_ESCAPED = re.compile('[\x00-\x1f"\\\\\x7f-\xa0\u2028\u2029\ud800-\udfff\ufeff\ufffe\uffff]')


def parse(text: str, file: str) -> Node:
    """The tree of a file. Raises InputError."""
    import yaml

    builder = _Builder(text, file)
    try:
        for event in yaml.parse(text.removeprefix("\ufeff"), Loader=yaml.SafeLoader):
            builder.take(event)
    except yaml.MarkedYAMLError as error:
        mark = error.problem_mark or error.context_mark
        place = builder.place(mark) if mark is not None else Place(file, 1, 1)
        raise builder.error(f"this is not YAML: {error.problem or error.context}", place) from None
    except yaml.reader.ReaderError as error:
        line = text.count("\n", 0, error.position) + 1
        raise builder.error("this is not YAML: a character that it cannot have", Place(file, line, 1)) from None
    return builder.top if builder.top is not None else Node("map", place=Place(file, 1, 1))


class _Builder:
    """A tree that is put together, event by event."""

    def __init__(self, text: str, file: str) -> None:
        self.top: Node | None = None
        self._lines, self._file = text.split("\n"), file
        self._open: list[tuple[Node, Place]] = []
        """The groups around, with the places at which the names of their last fields stand."""
        self._names: list[str | None] = []
        """Of each of them: the name of a field whose value comes next."""
        self._known: list[set[str]] = []
        """And the names of all its fields."""
        self._anchors: dict[str, tuple[Node, int]] = {}
        self._begun: list[tuple[str | None, int]] = []
        self._parts = 0

    def place(self, mark: Any) -> Place:
        return Place(self._file, mark.line + 1, mark.column + 1)

    def error(self, what: str, place: Place, advice: str = "") -> InputError:
        line = self._lines[place.line - 1] if place.line <= len(self._lines) else ""
        advice = advice or "Look at the indentation, the quotes and the signs before this place."
        return InputError(what, advice, place, line.rstrip("\r"), 1)

    def take(self, event: Any) -> None:
        """Add what an event says."""
        import yaml

        place = self.place(event.start_mark)
        if isinstance(event, yaml.MappingStartEvent | yaml.SequenceStartEvent):
            kind: Kind = "map" if isinstance(event, yaml.MappingStartEvent) else "list"
            if len(self._open) >= MAX_DEPTH:
                raise self.error(f"more than {MAX_DEPTH} levels of nesting", place, "No keymap needs that.")
            self._count(1, place)
            self._begun.append((event.anchor, self._parts))
            self._open.append((Node(kind, place=place), place))
            self._names.append(None)
            self._known.append(set())
        elif isinstance(event, yaml.MappingEndEvent | yaml.SequenceEndEvent):
            node, place = self._open.pop()
            self._names.pop()
            self._known.pop()
            anchor, before = self._begun.pop()
            if anchor is not None:
                self._anchors[anchor] = node, self._parts - before + 1
            self._put(node, place)
        elif isinstance(event, yaml.ScalarEvent):
            self._count(1, place)
            self._scalar(event, place)
        elif isinstance(event, yaml.AliasEvent):
            if event.anchor not in self._anchors:
                raise self.error(f"nothing is called &{event.anchor} before this", place)
            node, size = self._anchors[event.anchor]
            self._count(size, place)  # as often as it is read
            self._put(node, place)
        elif isinstance(event, yaml.DocumentStartEvent) and self.top is not None:
            raise self.error("a second document begins here", place, "Keep one in a file.")

    def _count(self, more: int, place: Place) -> None:
        self._parts += more
        if self._parts > MOST_PARTS:
            raise too_many_parts(place)

    def _scalar(self, event: Any, place: Place) -> None:
        word = _WORDS.get(event.value.lower()) if event.style is None and event.tag is None else None
        is_name = bool(self._open) and self._open[-1][0].kind == "map" and self._names[-1] is None
        if word is not None and not is_name:
            node = Node("text", text=word, is_quoted=False, place=place)
        else:
            node = Node("text", text=event.value, place=place)
        if event.anchor is not None:
            self._anchors[event.anchor] = node, 1
        self._put(node, place)

    def _put(self, node: Node, place: Place) -> None:
        if not self._open:
            self.top = node
            return
        group, _begun = self._open[-1]
        name = self._names[-1]
        if group.kind == "list":
            group.items.append(node)
        elif name is not None:
            if name in self._known[-1]:
                raise self.error(f"{name} stands twice here", self._open[-1][1], "Keep one of the two.")
            self._known[-1].add(name)
            group.fields.append(Field(name, node, self._open[-1][1]))
            self._names[-1] = None
        elif node.kind != "text":
            raise self.error("a group stands where a name is wanted", place)
        else:
            self._names[-1] = node.text
            self._open[-1] = group, place


def whole(text: str) -> str:
    """A piece as a file of its own."""
    return text


def one_line(member: Member) -> str:
    """A member in one line."""
    if isinstance(member, Field):
        return f"{_quoted(member.name)}: {one_line(member.value)}"
    if member.kind == "text":
        return _quoted(member.text) if member.is_quoted else member.text
    inner = ", ".join(one_line(one) for one in member.members())
    opening, closing = ("{", "}") if member.kind == "map" else ("[", "]")
    return f"{opening} {inner} {closing}" if inner else opening + closing


def lay_out(top: Node) -> str:
    """The text of a file, in blocks; a group of groups stands behind an empty line."""
    return "\n".join(_members(top, "")).strip("\n") + "\n" if top.members() else ""


def _members(group: Node, indent: str) -> Iterator[str]:
    for index, member in enumerate(group.members()):
        value = group_of(member)
        is_block = value.kind != "text" and bool(value.members())
        if index and (member.comment or (isinstance(member, Field) and is_block)):
            yield ""
        if member.comment:
            yield f"{indent}# {member.comment}"
        if not is_block:
            yield indent + (one_line(member) if isinstance(member, Field) else f"- {one_line(member)}")
            continue
        if isinstance(member, Field):
            yield f"{indent}{_quoted(member.name)}:"
            yield from _members(value, indent + "  ")
            continue
        first, *others = _members(value, indent + "  ")
        yield f"{indent}- {first.lstrip()}" if not first.lstrip().startswith("#") else f"{indent}-\n{first}"
        yield from others


def _quoted(text: str) -> str:
    """A text, in quotes where it needs them."""
    if _PLAIN.fullmatch(text) and text.lower() not in _NOT_PLAIN:
        return text
    return f'"{_ESCAPED.sub(lambda match: _escape(match[0]), text)}"'


def _escape(char: str) -> str:
    code = ord(char)
    known = {'"': '\\"', "\\": "\\\\", "\n": "\\n", "\t": "\\t", "\r": "\\r"}
    return known.get(char) or (f"\\x{code:02x}" if code < 0x100 else f"\\u{code:04x}")
