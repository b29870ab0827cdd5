"""Walks through a sample that is a tree: its groups, what stands in and around them, and what that stands for."""

import re
from collections.abc import Iterator

from ombix.editors.drafting.sample_shape import REMOVALS, ShapeForm, ShownBinding, is_condition
from ombix.editors.drafting.spellings import guess
from ombix.editors.drafting.tree_drawing import first_word, is_text, texts_of
from ombix.editors.formats.trees.nodes import Field, Member, Node, group_of

Cells = dict[str, str]
"""What stands around a piece: the name of the field at a depth (`2@`), and the texts beside it there (`2.name`, `2.#1`)."""
FEWEST = 2
"""So many names tell what they are."""
FoundForms = Iterator[tuple[ShapeForm, ShownBinding]]


def walk(member: Member, path: list[Member]) -> Iterator[list[Member]]:
    """All members of a tree with a group, each with those around it, the outermost first."""
    for one in group_of(member).members():
        if group_of(one).kind != "text":
            here = [*path, one]
            yield here
            yield from walk(one, here)


def paths_of_groups(top: Node) -> Iterator[list[Member]]:
    """The top itself, as an empty path, and all groups in it."""
    yield []
    yield from walk(top, [])


def rows_of(top: Node, path: list[Member]) -> list[Field]:
    """The names with texts in the innermost group of a path."""
    group = group_of(path[-1]) if path else top
    return [one for one in group.fields if is_text(one.value)]


def kind_of(path: list[Member]) -> tuple[str, ...]:
    """What is the same of pieces that stand in the same way, whatever the names of the fields around them are."""
    return tuple(
        f"field {REMOVALS.fullmatch(one.name) is not None}" if isinstance(one, Field)
        else f"{one.kind} {one.name} {first_word(one)}"
        for one in path
    )  # fmt: skip


def cells_of(path: list[Member]) -> Cells:
    """What stands around the innermost group of a path."""
    found: Cells = {}
    for depth, one in enumerate(path):
        if isinstance(one, Field):
            found[f"{depth}@"] = one.name
        if depth + 1 < len(path):
            found |= {f"{depth}.{name}": node.text for name, node in texts_of(group_of(one)).items()}
    return found


def what_is_around(paths: list[list[Member]], is_alone: bool, taken: frozenset[str] = frozenset()) -> dict[str, str]:
    """The variables for what differs around pieces that stand in the same way: a condition, and a section."""
    rows = [cells_of(path) for path in paths]
    values: dict[str, list[str]] = {}
    for row in rows:
        for name, text in row.items():
            values.setdefault(name, []).append(text)
    differing = {
        name: texts for name, texts in values.items()
        if name not in taken and (len(set(texts)) > 1 or len(texts) < len(rows)) and guess(texts * 2) is None
    }  # fmt: skip
    found: dict[str, str] = {}
    for name, texts in differing.items():
        if "." in name and is_condition(name.partition(".")[2], texts) and "{where}" not in found.values():
            found[name] = "{where}"
    named = [name for name in differing if name.endswith("@")][::-1]
    # Names of their own for each would tell pieces from each other, and no sections.
    texts = [name for name in differing if name not in found and len(set(values[name])) <= max(3, len(rows) // 4)]
    section = next((name for name in (*named, *texts) if name not in found), "")
    if not section and is_alone and paths[0] and isinstance(paths[0][-1], Field):
        section = f"{len(paths[0]) - 1}@"
    return found | ({section: "{section}"} if section else {})


def said_around(path: list[Member], around: dict[str, str]) -> tuple[dict[str, str], dict[str, str]]:
    """The variables around a group, by the names of what they stand for, and what each stands for there."""
    cells = {name: text for name, text in cells_of(path).items() if name in around}
    return {name: around[name] for name in cells}, {around[name]: text for name, text in cells.items()}


def numbered_name(paths: list[list[Member]]) -> str:
    """The name of groups that are numbered, with a variable for the number; empty where they are not."""
    parts = [re.fullmatch(r"(.*?)\d+", one.name) for *what_is_around, one in paths if isinstance(one, Field)]
    before = {match[1] if match is not None else None for match in parts}
    names = [one.name for *what_is_around, one in paths]
    is_numbered = len(parts) == len(names) and len(before) == 1 and None not in before and len(set(names)) == len(names)
    return f"{before.pop()}{{number}}" if is_numbered and len(names) >= FEWEST else ""
