"""Bindings of a sample that is a tree, each a group by itself or with what is around it."""

import itertools
import re
from itertools import pairwise

from ombix.editors.drafting.modifier_columns import ModifiersApart, joined, modifiers_apart, put_together, signs_of
from ombix.editors.drafting.sample_shape import (
    ShapeForm,
    ShownBinding,
    columns_of,
    is_condition,
    is_nothing,
    of_other_platforms,
)
from ombix.editors.drafting.spellings import guess
from ombix.editors.drafting.tree_drawing import drawn, is_text, pieces_of, texts_of, with_variables
from ombix.editors.drafting.tree_walk import (
    FEWEST,
    Cells,
    FoundForms,
    cells_of,
    kind_of,
    numbered_name,
    walk,
    what_is_around,
)
from ombix.editors.formats.trees.nodes import Field, Member, Node, TreeSyntax, group_of
from ombix.editors.split_modifiers import NO, PARTING, YES

_LATER = re.compile(r"(?i)second|then|next|after|chord.?2|key.?2")
"""The name of what is pressed behind the first keys."""
_NO_TEXT = Node("text")


def records_in(syntax: TreeSyntax, top: Node, known: frozenset[str], used: set[int]) -> FoundForms:
    """Groups of which each is a binding, by itself or with what is around it."""
    groups: dict[tuple[str, ...], list[list[Member]]] = {}
    pieces: set[int] = set()
    """The groups that are texts of the one around them, which comes before them."""
    for path in walk(top, []):
        node = group_of(path[-1])
        texts = texts_of(node)
        pieces.update(map(id, (*pieces_of(node), *texts.values())))
        is_keys = isinstance(path[-1], Field) and is_text(node)  # a list of them
        if texts and not is_keys and id(node) not in pieces and id(node) not in used:
            groups.setdefault(kind_of(path), []).append(path)
    bound: dict[tuple[str, ...], dict[str, str]] = {}
    later: list[list[list[Member]]] = []
    for paths in groups.values():
        found = _read_records(syntax, top, paths, known)
        if found is not None:
            bound[kind_of(paths[0][:-1])] = found[1]
            yield from found[0]
        elif not isinstance(paths[0][-1], Field):
            later.append(paths)
    for paths in later if bound else ():
        rows = [_own(path) for path in paths]
        spelt = [name for name in _own_names(paths) if _is_spelt(name, rows)]
        if len(spelt) == 1 and all(spelt[0] in row for row in rows):
            yield from _forms_of(
                syntax, top, paths, {spelt[0]: "{key}"}, bound.get(kind_of(paths[0][:-1])) or what_is_around(paths, False)
            )  # fmt: skip


def _own(path: list[Member]) -> Cells:
    return {name: node.text for name, node in texts_of(group_of(path[-1])).items()}


def _read_records(
    syntax: TreeSyntax, top: Node, paths: list[list[Member]], known: frozenset[str]
) -> tuple[FoundForms, dict[str, str]] | None:
    """Groups that stand in the same way, read as bindings: with all parts in them, or with the command around them; and what the
    parts around them are."""
    depth = len(paths[0]) - 1
    numbered = numbered_name(paths)
    is_field = isinstance(paths[0][-1], Field) and not numbered
    for with_around in (False, True):
        if is_field and not with_around:
            continue
        around: list[Cells] = [cells_of(path) if with_around else {} for path in paths]
        rows = [_own(path) | cells for path, cells in zip(paths, around, strict=True)]
        apart = modifiers_apart(rows, _own_names(paths))
        rows = put_together(rows, apart)
        names = list(dict.fromkeys(name for row in rows for name in row))
        if with_around:  # what is the same everywhere stays as it is
            names = [name for name in names if len({row.get(name) for row in rows}) > 1]
        called = _named_before(paths)
        names = [name for name in names if called.get(name) != name]
        aside = of_other_platforms([name for name in names if name in _own_names(paths) and _is_spelt(name, rows)])
        names = [name for name in names if name not in aside]
        table = [[row.get(name) for name in names] for row in rows]
        columns = columns_of([called.get(name, name.rpartition(".")[2]) for name in names], table, known)
        if columns is None or columns.command is None or columns.key == columns.command:
            continue
        key, command = names[columns.key], names[columns.command]
        inner = list(_own(paths[0]))
        is_named = with_around and key == f"{depth}@"  # keys are the names of what they do
        if (not is_named and key not in _own_names(paths)) or (with_around and is_named != (command in inner)):
            continue
        if with_around and len({row.get(command) for row in rows}) < 0.5 * len(rows):
            continue
        parts = {key: "{key}", command: "{command}"}
        for index, part in ((columns.where, "{where}"), (columns.title, "{title}")):
            if index is not None and names[index] not in parts and not names[index][:1].isdigit():
                parts[names[index]] = part
        taken = frozenset(parts)
        outside = {name: part for name, part in parts.items() if with_around and name in around[0]}
        own = {name: part for name, part in parts.items() if name not in outside}
        more = what_is_around(paths, False, taken)
        more.pop(f"{depth}@", None)
        more |= {f"{depth}@": numbered} if numbered else {}
        if columns.section is not None and not with_around and "{section}" not in more.values():
            own[names[columns.section]] = "{section}"
        own |= dict.fromkeys(aside, "{else}")
        # Keys in two places are not understood.
        others = {name for name in _own_names(paths) if name not in own and _is_spelt(name, rows)}
        plain = [path for path in paths if others.isdisjoint(_own(path))]
        apart = apart if apart is not None and apart.key == key else None
        own |= apart.parts if apart is not None else {}
        forms = _forms_of(syntax, top, plain, own, {**more, **outside}, apart)
        if len(others) == 1 and plain and key in own and (later := others.pop()) and _LATER.search(later):
            behind = [path for path in paths if later in _own(path)]
            parts = {name: "{first}" if part == "{key}" else part for name, part in own.items()} | {later: "{key}"}
            forms = itertools.chain(forms, _forms_of(syntax, top, behind, parts, {**more, **outside}))
        return forms, more
    return None


def _named_before(paths: list[list[Member]]) -> dict[str, str]:
    """What conditions in lists are called by a word with a colon before them (`:when`); such a word itself by its own name."""
    found: dict[str, str] = {}
    for path in paths:
        for one, behind in pairwise(texts_of(group_of(path[-1])).items()):
            word = one[1].text
            if one[0].startswith("#") and word[:1] == ":" and is_condition(word[1:], ()):
                found |= {one[0]: one[0], behind[0]: word[1:]}
    return found


def _own_names(paths: list[list[Member]]) -> list[str]:
    return list(dict.fromkeys(name for path in paths for name in _own(path)))


def _is_spelt(name: str, rows: list[Cells]) -> bool:
    return guess([row[name] for row in rows if name in row] * FEWEST) is not None


def _forms_of(
    syntax: TreeSyntax, top: Node, paths: list[list[Member]], own: dict[str, str], around: dict[str, str],
    apart: ModifiersApart | None = None,
) -> FoundForms:  # fmt: skip
    """The forms of groups whose texts, and what is around them, are these parts; and what each group says."""
    part_of = {part: name for name, part in own.items()} | {part: name for name, part in around.items()}
    optional = {
        name: any(texts_of(group_of(path[-1])).get(name, _NO_TEXT).kind == "list" for path in paths)
        for name, part in own.items() if part not in ("{key}", "{command}", "{section}")
    }  # fmt: skip
    order = _own_names(paths)
    for path in paths:
        row = cells_of(path) | _own(path)
        if part_of["{key}"] not in row or part_of.get("{first}", part_of["{key}"]) not in row or _is_off(path):
            continue
        command = row.get(part_of.get("{command}", ""), "")
        prefix = _prefix(command)
        gone = is_nothing(command)
        named = {name: part for name, part in own.items() if not (gone and part == "{command}")}
        where = row.get(part_of.get("{where}", ""), "")
        quote = _prefix(where)
        for part, sign in (("{command}", prefix), ("{where}", quote)):
            if sign and part_of[part] in named:
                named[part_of[part]] = sign + part
        inner = with_variables(path[-1], texts_of(group_of(path[-1])), named, optional, order)
        there = {
            name: f"{prefix}{{command}}" if part == "{command}" else part
            for name, part in around.items()
            if name in row
        }
        if f"{len(path) - 1}@" in there and isinstance(inner, Field):
            inner = Field(there[f"{len(path) - 1}@"], inner.value)
        pattern = drawn(syntax, top, path[:-1], inner, there)
        said = {part: row[name] for part, name in part_of.items() if name in row}
        keys = joined(row, apart) if apart is not None else said["{key}"]
        if first := said.get("{first}", ""):
            keys = f"{first}{PARTING if ' ' in first else ' '}{keys}"
        yield ShapeForm(pattern, "remove" if gone else "bind", **signs_of(apart)), ShownBinding(
            keys, "" if gone else command.removeprefix(prefix),
            where.removeprefix(quote), said.get("{section}", ""),
        )  # fmt: skip


def _is_off(path: list[Member]) -> bool:
    """Whether a group says that it does not hold."""
    said = {name.lower(): text.lower() for name, text in _own(path).items()}
    return any(said.get(name) in NO for name in ("enabled", "active")) or said.get("disabled") in YES


def _prefix(command: str) -> str:
    """The signs before a command that is quoted as lists quote words."""
    return next((sign for sign in ("#'", "'") if command.startswith(sign)), "")
