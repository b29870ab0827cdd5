"""TOML: read into a tree, and laid out again."""

import json
import re
from collections.abc import Iterator
from datetime import date, datetime, time
from typing import Any

from ombix.core.errors import InputError, Place
from ombix.core.toml import Document
from ombix.editors.formats.trees.nodes import MAX_DEPTH, MOST_PARTS, Field, Member, Node, group_of, too_many_parts

_BARE = re.compile(r"[A-Za-z0-9_-]+")


def parse(text: str, file: str) -> Node:
    """The tree of a file. Raises InputError."""
    document = Document(text.removeprefix("\ufeff"), file)
    if _count(document.table) > MOST_PARTS:
        raise too_many_parts(Place(file, 1, 1))
    return _node(document.table, document, ())


def _count(value: Any) -> int:
    """The values in a value, groups among them; no more than one over MOST_PARTS are counted."""
    count = 0
    pending = [value]
    while pending and count <= MOST_PARTS:
        one = pending.pop()
        inner = one.values() if isinstance(one, dict) else one if isinstance(one, list) else ()
        groups = [each for each in inner if isinstance(each, dict | list)]
        count += 1 + len(inner) - len(groups)
        pending += groups
    return count


def _node(value: Any, document: Document, path: tuple[str, ...]) -> Node:
    place = document.place(*path) if path else Place(document.file, 1, 1)
    if len(path) > MAX_DEPTH:
        raise InputError(f"more than {MAX_DEPTH} levels of nesting", "No keymap needs that.", place)
    if isinstance(value, dict):
        fields = []
        for name, inner in value.items():
            node = _node(inner, document, (*path, name))
            fields.append(Field(name, node, node.place))
        return Node("map", fields=fields, place=place)
    if isinstance(value, list):
        items = [_node(inner, document, (*path, str(index))) for index, inner in enumerate(value)]
        return Node("list", items=items, place=place)
    if isinstance(value, str):
        return Node("text", text=value, place=place)
    if isinstance(value, bool):
        return Node("text", text=str(value).lower(), is_quoted=False, place=place)
    text = value.isoformat() if isinstance(value, datetime | date | time) else str(value)
    return Node("text", text=text, is_quoted=False, place=place)


def whole(text: str) -> str:
    """A piece as a file of its own."""
    return text


def one_line(member: Member) -> str:
    """A member in one line."""
    if isinstance(member, Field):
        return f"{_key(member.name)} = {one_line(member.value)}"
    if member.kind == "text":
        return (
            json.dumps(member.text, ensure_ascii=False).replace("\x7f", "\\u007f") if member.is_quoted else member.text
        )
    inner = ", ".join(one_line(one) for one in member.members())
    if member.kind == "map":
        return f"{{ {inner} }}" if inner else "{}"
    return f"[{inner}]"


def lay_out(top: Node) -> str:
    """The text of a file: first what stands in no table, then the tables."""
    return "\n".join(_table(top, ())).strip("\n") + "\n" if top.members() else ""


def _table(group: Node, path: tuple[str, ...]) -> Iterator[str]:
    fields = [one for one in group.fields if not _is_table(one.value) and not _is_list_of_tables(one.value)]
    for index, one in enumerate(fields):
        if one.comment:
            yield from ([""] if index else [])
            yield f"# {one.comment}"
        yield one_line(one)
    for one in group.fields:
        header = ".".join(_key(part) for part in (*path, one.name))
        if _is_table(one.value):
            has_own = any(not _is_table(each.value) and not _is_list_of_tables(each.value) for each in one.value.fields)
            if has_own or not one.value.fields:
                yield from ["", *([f"# {one.comment}"] if one.comment else []), f"[{header}]"]
            yield from _table(one.value, (*path, one.name))
        elif _is_list_of_tables(one.value):
            for index, item in enumerate(one.value.items):
                said = item.comment or ("" if index else one.comment)
                yield from ["", *([f"# {said}", ""] if said else []), f"[[{header}]]"]
                yield from (one_line(each) for each in item.fields)


def _is_table(node: Node) -> bool:
    return node.kind == "map"


def _is_list_of_tables(node: Node) -> bool:
    return node.kind == "list" and bool(node.items) and all(group_of(item).kind == "map" for item in node.items)


def _key(name: str) -> str:
    return name if _BARE.fullmatch(name) else json.dumps(name, ensure_ascii=False)
