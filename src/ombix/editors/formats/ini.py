"""Settings under headings in brackets, one `name = value` a line (INI): read into a tree, and laid out again."""

import re
from collections.abc import Iterator

from ombix.core.errors import InputError, Place
from ombix.editors.formats.trees.nodes import Field, Member, Node

_HEADING = re.compile(r"\s*\[([^\[\]]+)\]\s*")
# The first sign with a blank on both sides parts the two; so a key may be a sign itself.
_ENTRY = re.compile(r"\s*(?:(\S.*?)\s+=(?:\s+(.*?))?|([^=\s][^=]*?)\s*=\s*(.*?))\s*")
_COMMENTS = ("#", ";")


def parse(text: str, file: str) -> Node:
    """The tree of a file: a heading is a field with a map. Raises InputError for a line that is neither."""
    top = Node("map", place=Place(file, 1, 1))
    group = top
    for number, raw in enumerate(text.removeprefix("\ufeff").split("\n"), 1):
        line = raw.rstrip("\r")
        if not line.strip() or line.lstrip().startswith(_COMMENTS):
            continue
        place = Place(file, number, len(line) - len(line.lstrip()) + 1)
        if heading := _HEADING.fullmatch(line):
            known = next((one for one in top.fields if one.name == heading[1] and one.value.kind == "map"), None)
            if known is None:
                known = Field(heading[1], Node("map", place=place), place)
                top.fields.append(known)
            group = known.value
        elif "=" in line and (entry := _ENTRY.fullmatch(line)):
            value = Node("text", text=entry[2] or entry[4] or "", place=place)
            group.fields.append(Field(entry[1] or entry[3], value, place, line.strip()))
        else:
            raise InputError(
                "this is neither a heading nor an entry",
                "Write [heading] or name = value.",
                place,
                line,
                len(line.strip()),
            )
    return top


def whole(text: str) -> str:
    """A piece as a file of its own."""
    return text


def one_line(member: Member) -> str:
    """A member; what stands under a heading has its heading in the line above."""
    if isinstance(member, Field):
        if member.value.kind == "map":
            return "\n".join([f"[{member.name}]", *(one_line(one) for one in member.value.fields)])
        return f"{member.name} = {member.value.text}"
    return member.text


def lay_out(top: Node) -> str:
    """The text of a file."""
    plain = [one for one in top.fields if one.value.kind != "map"]
    lines = [*_entries(plain)]
    for one in top.fields:
        if one.value.kind == "map":
            lines += ["", f"[{one.name}]", *_entries(one.value.fields)]
    return "\n".join(lines).strip("\n") + "\n" if lines else ""


def _entries(fields: list[Field]) -> Iterator[str]:
    for index, one in enumerate(fields):
        if one.comment:
            yield from ([""] if index else [])
            yield f"# {one.comment}"
        yield one_line(one)
