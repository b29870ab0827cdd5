"""The shape of a sample that is a tree: JSON, TOML, INI, XML, lists in parentheses."""

import importlib
from collections.abc import Iterator

from msgspec import Struct

from ombix.core.errors import OmbixError
from ombix.dialects.formats.trees.nodes import Field, Member, Node, TreeSyntax, group_of
from ombix.drafting.shapes import Columns, Shape, ShapeForm, ShownBinding, columns_of, is_nothing
from ombix.drafting.spellings import guess

FORMS = ("xml", "json", "lists", "toml", "ini")
"""Those that a text is tried as, in this order."""
_FEWEST = 2
_COMMENT = {"xml": "", "json": "//", "lists": ";", "toml": "#", "ini": "#"}
_COMMAND_FIRST = ("command", "key")


class _Group(Struct):
    """Nodes of one kind: where they stand (their members from the top), and the texts in them by name or number."""

    paths: list[list[Member]]
    rows: list[dict[str, Node]]
    sections: list[str]


def tree_shape(text: str, known: frozenset[str], form: str = "") -> Shape | None:
    """The form of a file that is a tree; None where it is none, or no keys stand in it."""
    for name in (form,) if form else FORMS:
        if not _may_be(name, text):
            continue
        syntax: TreeSyntax = importlib.import_module(f"ombix.dialects.formats.{name}")
        try:
            top = syntax.parse(text, "the sample")
        except (OmbixError, RecursionError):
            continue
        shape = _shape(name, syntax, top, known)
        if shape is not None:
            return shape
    return None


def _may_be(form: str, text: str) -> bool:
    lines = [line.strip() for line in text.lstrip("\ufeff").splitlines() if line.strip()]
    said = [line for line in lines if not line.startswith(("//", ";", "#", "/*", "*"))] or [""]
    first = said[0]
    return {
        "xml": first.startswith("<"), "json": first[:1] in ("{", "[") and lines[-1][-1:] in ("}", "]"),
        "lists": first.startswith("("),
        "toml": "=" in text and ('"' in text or "'" in text), "ini": "=" in text,
    }[form]  # fmt: skip


def _shape(name: str, syntax: TreeSyntax, top: Node, known: frozenset[str]) -> Shape | None:
    forms: list[ShapeForm] = []
    records: list[ShownBinding] = []
    sections: list[str] = []
    assigns = False
    for found in (_named_by_keys(syntax, top, known), _records(syntax, top, known)):
        for form, some in found:
            if form not in forms:
                forms.append(form)
            records += some
            assigns = assigns or (
                form.means == "bind"
                and form.pattern.find("{command}") < form.pattern.find("{key}")
                and not some[0].where
                and name in ("ini",)
            )
            sections += [one.section for one in some if one.section and one.section not in sections]
    spelling = guess([one.key for one in records])
    if spelling is None or not any(form.means == "bind" for form in forms):
        return None
    return Shape(name, forms, records, spelling, _COMMENT[name], list(dict.fromkeys(sections)), assigns)


def _walk(member: Member, path: list[Member]) -> Iterator[list[Member]]:
    """All members of a tree with a group, each with those around it, the outermost first."""
    for one in group_of(member).members():
        if group_of(one).kind != "text":
            here = [*path, one]
            yield here
            yield from _walk(one, here)


def _groups(top: Node) -> Iterator[list[Member]]:
    """The top itself, as an empty path, and all groups in it."""
    yield []
    yield from _walk(top, [])


def _named_by_keys(
    syntax: TreeSyntax, top: Node, known: frozenset[str]
) -> Iterator[tuple[ShapeForm, list[ShownBinding]]]:
    """Groups in which names of fields are keys and their values commands, or the other way round."""
    found: dict[str, tuple[ShapeForm, list[ShownBinding]]] = {}
    for path in _groups(top):
        group = group_of(path[-1]) if path else top
        rows = [(one.name, one.value) for one in group.fields if one.value.kind == "text"]
        if len(rows) < _FEWEST:
            continue
        columns = columns_of(["", ""], [(name, value.text) for name, value in rows], known)
        if columns is None or columns.command is None:
            continue
        is_section = bool(path) and isinstance(path[-1], Field)
        section = path[-1].name if is_section and isinstance(path[-1], Field) else ""
        for name, value in rows:
            key, command = (name, value.text) if columns.key == 0 else (value.text, name)
            gone = is_nothing(command)
            inner = Field(
                "{key}" if columns.key == 0 else "{command}",
                Node(
                    "text",
                    text=value.text if gone else "{command}" if columns.key == 0 else "{key}",
                    is_quoted=value.is_quoted,
                ),
            )
            pattern = _pattern(syntax, top, path, inner, is_section)
            form = ShapeForm(pattern, "remove" if gone else "bind")
            found.setdefault(f"{form.means} {pattern}", (form, []))[1].append(
                ShownBinding(key, "" if gone else command, section=section)
            )
    yield from found.values()


def _records(syntax: TreeSyntax, top: Node, known: frozenset[str]) -> Iterator[tuple[ShapeForm, list[ShownBinding]]]:
    """Groups of which each is a binding."""
    groups: dict[tuple[str, ...], _Group] = {}
    for path in _walk(top, []):
        node = group_of(path[-1])
        row = _texts(node)
        if not row or isinstance(path[-1], Field):
            continue
        section = next((one.name for one in path if isinstance(one, Field) and isinstance(one.value, Node)), "")
        kept = tuple(
            f"field {one.name}" if isinstance(one, Field) else f"item {one.kind} {one.name} {_head(one)}"
            for one in path
        )
        group = groups.setdefault(kept, _Group([], [], []))
        group.paths.append(path)
        group.rows.append(row)
        group.sections.append(section)
    bound = False
    later: list[_Group] = []
    for group in groups.values():
        names = list(dict.fromkeys(name for row in group.rows for name in row))
        texts = [[row[name].text if name in row else None for name in names] for row in group.rows]
        columns = columns_of(names, texts, known)
        if columns is None or columns.command is None:
            later.append(group)
            continue
        bound = True
        yield from _record_forms(syntax, top, group, names, columns)
    for group in later if bound else ():
        names = list(dict.fromkeys(name for row in group.rows for name in row))
        spelt = [name for name in names if guess([row[name].text for row in group.rows if name in row] * 2) is not None]
        if len(spelt) == 1:
            yield from _record_forms(syntax, top, group, names, Columns(names.index(spelt[0]), None))


def _record_forms(
    syntax: TreeSyntax, top: Node, group: _Group, names: list[str], columns: Columns
) -> Iterator[tuple[ShapeForm, list[ShownBinding]]]:
    parts = {
        names[index]: part
        for part, index in (
            ("{key}", columns.key), ("{command}", columns.command), ("{where}", columns.where), ("{title}", columns.title),
        ) if index is not None
    }  # fmt: skip
    has_where = [name for name, part in parts.items() if part in ("{where}", "{title}")]
    found: dict[str, tuple[ShapeForm, list[ShownBinding]]] = {}
    for path, row in zip(group.paths, group.rows, strict=True):
        command = _cell(row, names, columns.command)
        if names[columns.key] not in row:
            continue
        gone = is_nothing(command)
        named = {name: part for name, part in parts.items() if not (gone and part == "{command}")}
        inner = _with_variables(path[-1], row, named, has_where)
        pattern = _pattern(syntax, top, path[:-1], inner, False)
        where = _cell(row, names, columns.where)
        form = ShapeForm(pattern, "remove" if gone else "bind")
        record = ShownBinding(row[names[columns.key]].text, "" if gone else command, where)
        found.setdefault(f"{form.means} {pattern}", (form, []))[1].append(record)
    yield from found.values()


def _cell(row: dict[str, Node], names: list[str], index: int | None) -> str:
    """The text of a column in a row; empty where there is none."""
    return row[names[index]].text if index is not None and names[index] in row else ""


def _texts(node: Node) -> dict[str, Node]:
    """The texts in a group, by the names of their fields or their numbers, without a word that begins it."""
    found = {one.name: one.value for one in node.fields if one.value.kind == "text"}
    for number, one in enumerate(node.items):
        if one.kind == "text" and not (number == 0 and not one.is_quoted):
            found[f"#{number}"] = one
    return found


def _head(node: Node) -> str:
    first = node.items[0] if node.items else None
    return first.text if first is not None and first.kind == "text" and not first.is_quoted else ""


def _with_variables(member: Member, row: dict[str, Node], named: dict[str, str], optional: list[str]) -> Member:
    """A member with variables in the place of its texts."""
    node = group_of(member)
    fields = [
        Field(one.name, _text(one.value, named.get(one.name, one.value.text)))
        for one in node.fields
        if one.value.kind == "text"
    ]
    fields += [
        Field(name, Node("text", text=named[name]))
        for name in optional
        if name not in row and not name.startswith("#") and name in named
    ]
    items = [
        _text(one, named.get(f"#{number}", one.text)) for number, one in enumerate(node.items) if one.kind == "text"
    ]
    made = Node(node.kind, node.name, fields=fields, items=items)
    return Field(member.name, made) if isinstance(member, Field) else made


def _text(node: Node, text: str) -> Node:
    return Node("text", text=text, is_quoted=node.is_quoted)


def _pattern(syntax: TreeSyntax, top: Node, path: list[Member], inner: Member, is_section: bool) -> str:
    """The pattern of a member in its place: only what leads to it, with the name of the innermost group as a section."""
    for index, one in enumerate(reversed(path)):
        node = group_of(one)
        head = [_text(each, each.text) for each in node.items[:1] if each.kind == "text" and not each.is_quoted]
        made = Node(
            node.kind, node.name, fields=[inner] if isinstance(inner, Field) else [],
            items=[*head, *([inner] if isinstance(inner, Node) else [])],
        )  # fmt: skip
        name = "{section}" if is_section and index == 0 else one.name
        inner = Field(name, made) if isinstance(one, Field) else made
    whole = Node(
        top.kind,
        top.name,
        fields=[inner] if isinstance(inner, Field) else [],
        items=[inner] if isinstance(inner, Node) else [],
    )
    return syntax.lay_out(whole).strip()
