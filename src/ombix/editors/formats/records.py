"""Records: a name and its value a line, and an empty line behind each record; read into a tree, and laid out again."""

import re

from ombix.core.errors import InputError, Place
from ombix.editors.formats.trees.nodes import MOST_PARTS, Field, Member, Node, group_of, too_many_parts

_ENTRY = re.compile(r"\s*(\w[\w .-]*?)\s*([:=])(?:\s+(.*?))?\s*|\s*(\w[\w.-]*)([:=])(\S.*?)\s*")
_BETWEEN = re.compile(r"\s*(?:[-=*_~]{3,})?\s*")
"""What stands between records: nothing, or a line of one sign."""
_COMMENTS = ("#", ";", "//")
_SIGN = ":"


def parse(text: str, file: str) -> Node:
    """The tree of a file: a list of maps; the `name` of a map is the sign between its names and values. Raises InputError for a
    line that is no entry, or whose name stands twice in its record."""
    top = Node("list", place=Place(file, 1, 1))
    record: Node | None = None
    known: set[str] = set()
    for number, raw in enumerate(text.removeprefix("\ufeff").split("\n"), 1):
        line = raw.rstrip("\r")
        if _BETWEEN.fullmatch(line):
            record = None
            continue
        if line.lstrip().startswith(_COMMENTS):
            continue
        place = Place(file, number, len(line) - len(line.lstrip()) + 1)
        entry = _ENTRY.fullmatch(line)
        if entry is None:
            raise InputError("this is no entry", "Write name: value.", place, line, len(line.strip()))
        name, sign, value = (entry[1], entry[2], entry[3] or "") if entry[1] else (entry[4], entry[5], entry[6])
        if record is None:
            record, known = Node("map", sign, place=place), set()
            top.items.append(record)
        if number > MOST_PARTS:
            raise too_many_parts(place)
        if name in known:
            raise InputError(
                f"{name} stands twice in this record", "Begin another one behind an empty line.", place, line, len(name)
            )
        if sign != record.name:
            raise InputError(
                f"here stands {sign} and above it {record.name}", "Write the same sign.", place, line, len(line.strip())
            )
        known.add(name)
        record.fields.append(Field(name, Node("text", text=value, place=place), place, line.strip()))
    for item in top.items:
        item.source = "\n".join(field.source for field in item.fields)
    return top


def whole(text: str) -> str:
    """A piece as a file of its own."""
    return text


def one_line(member: Member) -> str:
    """A record, which is a line for each of its entries; or an entry."""
    if isinstance(member, Field):
        return _entry(member, _SIGN)
    if member.kind == "text":
        return member.text
    if member.kind == "list":
        return "\n\n".join(map(one_line, member.items))
    return "\n".join(_entry(one, member.name or _SIGN) for one in member.fields)


def _entry(field: Field, sign: str) -> str:
    value = group_of(field).text
    between = f"{sign} " if sign == ":" else f" {sign} "
    return f"{field.name}{between}{value}".rstrip()


def lay_out(top: Node) -> str:
    """The text of a file."""
    pieces = [f"# {item.comment}\n{one_line(item)}" if item.comment else one_line(item) for item in top.items]
    return "\n\n".join(pieces) + "\n" if pieces else ""
