"""Pieces of a sample that is a tree: the texts in them, and patterns drawn like them."""

from functools import lru_cache
from itertools import takewhile

from ombix.editors.formats.trees.nodes import Field, Member, Node, TreeSyntax, group_of
from ombix.editors.formats.trees.patterns import is_switch
from ombix.editors.split_modifiers import PARTING


@lru_cache(maxsize=64)
def texts_of(node: Node) -> dict[str, Node]:
    """The texts in a group, by the names of their fields or their numbers, without a word that begins it; and those of elements
    with nothing but a text in them."""
    found = {one.name: one.value for one in node.fields if is_text(one.value)}
    found |= {one.name: one.items[0] for one in pieces_of(node)}
    has_text = any(item.kind == "text" and item.is_quoted for item in node.items)
    for number, one in enumerate(node.items):
        is_word = one.kind == "text" and not (number == 0 and not one.is_quoted)
        if is_word or (has_text and one.kind == "list" and one.text):
            found[f"#{number}"] = one
    return found


def pieces_of(node: Node) -> list[Node]:
    """The elements in a group that have a text each and nothing else, where there are several with names of their own."""
    some = [
        item for item in node.items if item.name and not item.fields and [item.kind for item in item.items] == ["text"]
    ]
    names = {one.name for one in some}
    return some if len(names) == len(some) > 1 and names.isdisjoint(one.name for one in node.fields) else []


def first_word(node: Node) -> str:
    """The word that a group begins with."""
    first = node.items[0] if node.items else None
    return first.text if first is not None and first.kind == "text" and not first.is_quoted else ""


def with_variables(
    member: Member, row: dict[str, Node], named: dict[str, str], optional: dict[str, bool], order: list[str]
) -> Member:
    """A member with variables in place of its texts; an optional one that is not there may be a list. Fields
    stand in an order."""
    node = group_of(member)
    fields = [
        Field(one.name, text_like(one.value, named.get(one.name, one.value.text)))
        for one in node.fields
        if is_text(one.value)
    ]
    fields += [Field(one.name, Node(one.value.kind)) for one in node.fields if is_empty(one.value)]
    fields += [
        Field(name, Node("list", items=[Node("text", text=named[name])]) if is_list else Node("text", text=named[name]))
        for name, is_list in optional.items()
        if name not in row and not name.startswith("#") and name in named
    ]
    fields.sort(key=lambda one: order.index(one.name) if one.name in order else len(order))
    pieces = {id(one) for one in pieces_of(node)}
    items = []
    for number, one in enumerate(node.items):
        if is_text(one):
            items.append(text_like(one, named.get(f"#{number}", one.text)))
        elif id(one) in pieces:
            items.append(
                Node(one.kind, one.name, items=[text_like(one.items[0], named.get(one.name, one.items[0].text))])
            )
    made = Node(node.kind, node.name, fields=fields, items=items)
    return Field(member.name, made) if isinstance(member, Field) else made


def is_text(node: Node) -> bool:
    """Whether a node is a text, or a list of texts, which is read as one."""
    return node.kind == "text" or bool(node.text)


def is_empty(node: Node) -> bool:
    """Whether a node is a group with nothing in it."""
    return node.kind != "text" and not node.members()


def text_like(node: Node, text: str) -> Node:
    """A node like another one with another text; a list of texts as one with a variable for all of them."""
    if node.kind == "text":
        made = Node("text", text=text)
        return made if is_switch(made) else Node("text", text=text, is_quoted=node.is_quoted)
    return Node("list", items=[Node("text", text=one) for one in text.split(PARTING)])


def drawn(syntax: TreeSyntax, top: Node, path: list[Member], inner: Member, variables: dict[str, str]) -> str:
    """The pattern of a member in its place: only what leads to it, and what stands for something there."""
    for depth in reversed(range(len(path))):
        one = path[depth]
        node = group_of(one)
        child = path[depth + 1] if depth + 1 < len(path) else None
        fields = [
            Field(each.name, Node("text", text=variables[f"{depth}.{each.name}"]))
            for each in node.fields
            if f"{depth}.{each.name}" in variables
        ]
        has_parts = any(name.startswith(f"{depth}.#") for name in variables)
        items: list[Node] = []
        is_placed = isinstance(inner, Field)
        words = list(takewhile(lambda each: each.kind == "text" and not each.is_quoted, node.items))
        for number, each in enumerate(node.items if has_parts else words or node.items[:1]):
            if each.kind == "text" and (has_parts or not each.is_quoted):
                items.append(text_like(each, variables.get(f"{depth}.#{number}", each.text)))
            elif not is_placed and isinstance(inner, Node) and (each is child or child is None) and each.kind != "text":
                items.append(inner)
                is_placed = True
        if not is_placed and isinstance(inner, Node):
            items.append(inner)
        made = Node(node.kind, node.name, fields=[*fields, *([inner] if isinstance(inner, Field) else [])], items=items)
        inner = Field(variables.get(f"{depth}@", one.name), made) if isinstance(one, Field) else made
    whole = Node(
        top.kind,
        top.name,
        fields=[inner] if isinstance(inner, Field) else [],
        items=[inner] if isinstance(inner, Node) else [],
    )
    return syntax.lay_out(whole).strip()
