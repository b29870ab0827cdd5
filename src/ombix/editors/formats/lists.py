"""Lists in parentheses, in lists (S-expressions): read into a tree, and laid out again."""

import re
from collections.abc import Iterator

from ombix.editors.formats.trees.nodes import MAX_DEPTH, Member, Node
from ombix.editors.formats.trees.scanning import Scanner

_TOKEN = re.compile(
    r"""(?P<space>[\s\ufeff]+)|(?P<comment>;[^\n]*)|(?P<mark>[()])|(?P<string>"(?:[^"\\]|\\.)*")|(?P<word>[^\s()";]+)""",
    re.DOTALL,
)
_ESCAPES = {"n": "\n", "t": "\t", "r": "\r"}


def parse(text: str, file: str) -> Node:
    """The tree of a file: a list of its lists. Raises InputError."""
    reader = _ListReader(text, file, _TOKEN)
    top = Node("list", place=reader.place(0))
    while reader.peek()[0] != "end":
        top.items.append(reader.item(0))
    return top


def whole(text: str) -> str:
    """A piece as a file of its own."""
    return text


def one_line(member: Member) -> str:
    """A member in one line."""
    assert isinstance(member, Node)
    if member.kind == "text":
        return _quoted(member.text) if member.is_quoted else member.text
    return member.source or "(" + " ".join(one_line(item) for item in member.items) + ")"


def lay_out(top: Node) -> str:
    """The text of a file: a list that has lists in it has them below each other."""
    return "\n".join(_lines(top.items, "")) + "\n" if top.items else ""


def _lines(items: list[Node], indent: str) -> Iterator[str]:
    for index, item in enumerate(items):
        inner = [one for one in item.items if one.kind == "list"]
        is_group = len(inner) > 1 or any(one.comment for one in inner)
        if index and (item.comment or (is_group and not indent)):
            yield ""
        if item.comment:
            yield f"{indent}; {item.comment}"
        if not is_group or item.source:
            yield indent + one_line(item)
            continue
        words = [one_line(one) for one in item.items if one.kind == "text"]
        lines = list(_lines(inner, indent + "  "))
        yield f"{indent}({' '.join(words)}"
        yield from lines[:-1]
        yield lines[-1] + ")"


def _quoted(text: str) -> str:
    escaped = text.replace("\\", "\\\\").replace('"', '\\"')
    for letter, char in _ESCAPES.items():
        escaped = escaped.replace(char, "\\" + letter)
    return f'"{escaped}"'


class _ListReader(Scanner):
    def item(self, depth: int) -> Node:
        """The next word, text or list."""
        kind, token, position = self.take()
        place = self.place(position)
        if kind == "word":
            return Node("text", text=token, is_quoted=False, place=place)
        if kind == "string":
            text = re.sub(r"\\(.)", lambda match: _ESCAPES.get(match[1], match[1]), token[1:-1], flags=re.DOTALL)
            return Node("text", text=text, place=place)
        if token == ")":
            self.fail(") closes nothing here", position, 1)
        if depth > MAX_DEPTH:
            self.fail(f"more than {MAX_DEPTH} levels of nesting", position, 1, "No keymap needs that.")
        node = Node("list", place=place)
        while True:
            kind, token, _at = self.peek()
            if kind == "end":
                self.fail("the file ends before this ( is closed", position, 1, "Add the missing ).")
            if token == ")":
                self.take()
                node.source = "(" + " ".join(one_line(item) for item in node.items) + ")"
                return node
            node.items.append(self.item(depth + 1))
