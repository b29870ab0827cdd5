"""The shape of a sample that is a tree: JSON, TOML, INI, XML, YAML, records, lists in parentheses."""

import importlib
import itertools
import re
from collections import Counter
from collections.abc import Iterator
from functools import lru_cache

from msgspec.structs import replace

from ombix.core.errors import InputError, OmbixError
from ombix.dialects.file_description import FileForm
from ombix.dialects.formats import records as records_syntax
from ombix.dialects.formats.trees.nodes import PARTING, Field, Member, Node, TreeSyntax, fold_lists, group_of
from ombix.dialects.formats.trees.patterns import Pattern
from ombix.dialects.keys_apart import NO, YES
from ombix.drafting.apart import ModifiersApart, joined, modifiers_apart, put_together, signs_of
from ombix.drafting.line_shapes import line_form
from ombix.drafting.shapes import REMOVALS, Shape, ShapeForm, ShownBinding, columns_of, is_condition, is_nothing
from ombix.drafting.spellings import guess
from ombix.drafting.tree_drawing import drawn, first_word, is_text, pieces_of, text_like, texts_of, with_variables

FORMS = ("xml", "json", "lists", "records", "toml", "ini", "yaml")
"""Those that a text is tried as, in this order."""
_NAMED_COMMAND = re.compile(r"\{command\}\"?\s*[:=]|\[[^\]\n]*\{command\}")
_FEWEST = 2
_RECORDS = 20
"""More groups than these with the same names in them are records: the names are no keys and no commands."""
_LATER = re.compile(r"(?i)second|then|next|after|chord.?2|key.?2")
"""The name of what is pressed behind the first keys."""
_NO_TEXT = Node("text")
_COMMENT = {"xml": "", "json": "//", "lists": ";", "toml": "#", "ini": "#", "yaml": "#", "records": "#"}


Cells = dict[str, str]
"""What stands around a piece: the name of the field at a depth (`2@`), and the texts beside it there (`2.name`, `2.#1`)."""


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
        fold_lists(top)
        shape = _shape(name, syntax, top, known)
        if shape is not None:
            return shape
    return None


def _may_be(form: str, text: str) -> bool:
    lines = [line.strip() for line in text.lstrip("\ufeff").splitlines() if line.strip()]
    said = [line for line in lines if not line.startswith(("//", ";", "#", "/*", "*"))] or [""]
    first = said[0]
    return {
        "records": _may_be_records(text), "xml": first.startswith("<"),
        "json": first[:1] in ("{", "[") and lines[-1][-1:] in ("}", "]"),
        "lists": first.startswith("("),
        "toml": "=" in text and ('"' in text or "'" in text), "ini": "=" in text, "yaml": ":" in text,
    }[form]  # fmt: skip


def _may_be_records(text: str) -> bool:
    """Whether it is of records of which some begin with the same name."""
    try:
        names = [one.fields[0].name for one in records_syntax.parse(text, "").items]
    except InputError:
        return False
    return len(set(names)) < len(names)


def _shape(name: str, syntax: TreeSyntax, top: Node, known: frozenset[str]) -> Shape | None:
    forms: dict[str, ShapeForm] = {}
    records: list[ShownBinding] = []
    assigns = False
    used: set[int] = set()
    others: list[str] = []
    for found, is_by_name in (
        (_numbered_texts(syntax, top, known, used), False),
        (_named_by_keys(syntax, top, known, used), True),
        (_records(syntax, top, known, used), False),
    ):
        for form, record in found:
            if not _can_be_drawn(form, syntax):
                others.append(f"{record.key} {record.command}".strip())
                continue
            forms.setdefault(f"{form.means} {form.pattern}", form)
            records.append(record)
            is_first = 0 <= form.pattern.find("{command}") < form.pattern.find("{key}")
            is_name = is_by_name or _NAMED_COMMAND.search(form.pattern) is not None
            assigns = assigns or (is_first and is_name and form.means == "bind")
    spelling = guess([one.key for one in records if not is_nothing(one.key)])
    if spelling is None or not any(form.means == "bind" for form in forms.values()):
        return None
    sections = list(dict.fromkeys(one.section for one in records if one.section))
    # What says the most comes first: a shorter form fits what a longer one does, too.
    ordered = sorted(forms.values(), key=lambda form: -form.pattern.count("{where}") - form.pattern.count("{section}"))
    return Shape(name, ordered, records, spelling, _COMMENT[name], sections, assigns, others=others)


@lru_cache(maxsize=256)
def _can_be_drawn(form: ShapeForm, syntax: TreeSyntax) -> bool:
    """Whether a form is a pattern: a variable cannot stand for a number or a word like null everywhere."""
    try:
        Pattern(FileForm(form.pattern, "remove" if form.means == "remove" else "bind"), syntax)
    except InputError:
        return False
    return True


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


_Found = Iterator[tuple[ShapeForm, ShownBinding]]


def _named_by_keys(syntax: TreeSyntax, top: Node, known: frozenset[str], used: set[int]) -> _Found:
    """Groups in which names of fields are keys and their values commands, or the other way round; they are noted in `used`."""
    chosen: list[list[Member]] = []
    small: list[list[Member]] = []
    is_key_first = True
    behind: list[list[Member]] = []
    paths = [path for path in _groups(top) if id(group_of(path[-1]) if path else top) not in used]
    alike = Counter(tuple(one.name for one in _rows(top, path)) for path in paths)
    names = Counter(one.name for path in paths for one in _rows(top, path))
    for path in paths:
        rows = _rows(top, path)
        if path and isinstance(path[-1], Field) and _is_key(path[-1].name):
            behind.append(path)
            continue
        if alike[tuple(one.name for one in rows)] > _RECORDS:
            continue
        if len(rows) < _FEWEST:
            small += [path] if rows else []
            continue
        columns = columns_of(["", ""], [(one.name, one.value.text) for one in rows], known)
        if columns is None or columns.command is None:
            continue
        if columns.key and max(names[one.name] for one in rows) > max(2, len(paths) // 3):
            continue  # the same names in many groups are no commands
        is_key_first = columns.key == 0
        chosen.append(path)
    by_kind: dict[tuple[str, ...], list[Field]] = {}
    for path in small:
        by_kind.setdefault(_kind(path), []).extend(_rows(top, path))
    for each, rows in by_kind.items() if not chosen else ():  # alone they tell nothing
        columns = columns_of(["", ""], [(one.name, one.value.text) for one in rows], known)
        if len(rows) >= _FEWEST and columns is not None and columns.command is not None:
            is_key_first = columns.key == 0
            commands = {one.value.text if is_key_first else one.name for one in rows}
            if len(commands) < 0.6 * len(rows):
                continue  # what is the same in most of them is no command
            chosen += [path for path in small if _kind(path) == each]
    if not chosen:
        return
    kinds, known_ones = {_kind(path) for path in chosen}, {id(path) for path in chosen}
    for path in small:
        if id(path) in known_ones:
            continue
        keys = [one.name if is_key_first else one.value.text for one in _rows(top, path)]
        if _kind(path) in kinds and guess(keys * _FEWEST) is not None:
            chosen.append(path)
    alike_paths = {kind: [path for path in chosen if _kind(path) == kind] for kind in kinds}
    around_of = {kind: _around(some, len(some) == 1) for kind, some in alike_paths.items()}
    # Keys behind another one are the rest of a sequence.
    outer = {id(group_of(path[-1]) if path else top): _kind(path) for path in chosen}
    for path in behind if is_key_first else ():
        kind = outer.get(id(group_of(path[-2]) if len(path) > 1 else top))
        rows = _rows(top, path)
        if kind is not None and rows and all(_is_key(one.name) for one in rows):
            chosen.append(path)
            around_of[_kind(path)] = {**around_of[kind], f"{len(path) - 1}@": "{first}"}
    order = {id(path): number for number, path in enumerate(paths)}
    for path in sorted(chosen, key=lambda path: order[id(path)]):
        around = around_of[_kind(path)]
        used.add(id(group_of(path[-1]) if path else top))
        variables, said = _around_it(path, around)
        first = f"{said['{first}']} " if "{first}" in said else ""
        for one in _rows(top, path):
            key, command = (one.name, one.value.text) if is_key_first else (one.value.text, one.name)
            key = first + key
            gone = is_nothing(command)
            inner = Field(
                "{key}" if is_key_first else "{command}",
                text_like(one.value, one.value.text if gone else "{command}" if is_key_first else "{key}"),
            )
            pattern = drawn(syntax, top, path, inner, variables)
            form = ShapeForm(pattern, "remove" if gone else "bind")
            yield form, ShownBinding(key, "" if gone else command, said.get("{where}", ""), said.get("{section}", ""))


def _numbered_texts(syntax: TreeSyntax, top: Node, known: frozenset[str], used: set[int]) -> _Found:
    """Groups in which names are numbers, and each text is a binding; they are noted in `used`."""
    found: list[tuple[list[Member], str]] = []
    for path in _groups(top):
        rows = _rows(top, path)
        if name := _numbered([[one] for one in rows]):
            found.append((path, name))
    around = _around([path for path, _name in found], len(found) == 1) if found else {}
    for path, name in found:
        texts = [one.value.text for one in _rows(top, path)]
        lines = line_form("", list(enumerate(texts)), known)
        if lines is None:
            continue
        used.add(id(group_of(path[-1]) if path else top))
        variables, said = _around_it(path, around)
        pattern = drawn(syntax, top, path, Field(name, Node("text", text=lines[0].pattern)), variables)
        for _at, one in lines[1]:
            yield ShapeForm(pattern, "bind"), replace(one, section=one.section or said.get("{section}", ""))


def _around_it(path: list[Member], around: dict[str, str]) -> tuple[dict[str, str], dict[str, str]]:
    """The variables around a group, by the names of what they stand for, and what each stands for there."""
    cells = {name: text for name, text in _cells(path).items() if name in around}
    return {name: around[name] for name in cells}, {around[name]: text for name, text in cells.items()}


def _is_key(name: str) -> bool:
    """Whether a name is a key by itself; a word for one may be something else."""
    return (len(name) == 1 and not name.isdigit()) or guess([name] * _FEWEST) is not None


def _rows(top: Node, path: list[Member]) -> list[Field]:
    group = group_of(path[-1]) if path else top
    return [one for one in group.fields if is_text(one.value)]


def _kind(path: list[Member]) -> tuple[str, ...]:
    """What is the same of pieces that stand in the same way, whatever the names of the fields around them are."""
    return tuple(
        f"field {REMOVALS.fullmatch(one.name) is not None}" if isinstance(one, Field)
        else f"{one.kind} {one.name} {first_word(one)}"
        for one in path
    )  # fmt: skip


def _cells(path: list[Member]) -> Cells:
    """What stands around the innermost group of a path."""
    found: Cells = {}
    for depth, one in enumerate(path):
        if isinstance(one, Field):
            found[f"{depth}@"] = one.name
        if depth + 1 < len(path):
            found |= {f"{depth}.{name}": node.text for name, node in texts_of(group_of(one)).items()}
    return found


def _around(paths: list[list[Member]], is_alone: bool, taken: frozenset[str] = frozenset()) -> dict[str, str]:
    """The variables for what differs around pieces that stand in the same way: a condition, and a section."""
    rows = [_cells(path) for path in paths]
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


def _records(syntax: TreeSyntax, top: Node, known: frozenset[str], used: set[int]) -> _Found:
    """Groups of which each is a binding, by itself or with what is around it."""
    groups: dict[tuple[str, ...], list[list[Member]]] = {}
    pieces: set[int] = set()
    """The groups that are texts of the one around them, which comes before them."""
    for path in _walk(top, []):
        node = group_of(path[-1])
        texts = texts_of(node)
        pieces.update(map(id, (*pieces_of(node), *texts.values())))
        is_keys = isinstance(path[-1], Field) and is_text(node)  # a list of them
        if texts and not is_keys and id(node) not in pieces and id(node) not in used:
            groups.setdefault(_kind(path), []).append(path)
    bound: dict[tuple[str, ...], dict[str, str]] = {}
    later: list[list[list[Member]]] = []
    for paths in groups.values():
        found = _read_records(syntax, top, paths, known)
        if found is not None:
            bound[_kind(paths[0][:-1])] = found[1]
            yield from found[0]
        elif not isinstance(paths[0][-1], Field):
            later.append(paths)
    for paths in later if bound else ():
        rows = [_own(path) for path in paths]
        spelt = [name for name in _own_names(paths) if _is_spelt(name, rows)]
        if len(spelt) == 1 and all(spelt[0] in row for row in rows):
            yield from _forms_of(
                syntax, top, paths, {spelt[0]: "{key}"}, bound.get(_kind(paths[0][:-1])) or _around(paths, False)
            )  # fmt: skip


def _own(path: list[Member]) -> Cells:
    return {name: node.text for name, node in texts_of(group_of(path[-1])).items()}


def _read_records(
    syntax: TreeSyntax, top: Node, paths: list[list[Member]], known: frozenset[str]
) -> tuple[_Found, dict[str, str]] | None:
    """Groups that stand in the same way, read as bindings: with all parts in them, or with the command around them; and what the
    parts around them are."""
    depth = len(paths[0]) - 1
    numbered = _numbered(paths)
    is_field = isinstance(paths[0][-1], Field) and not numbered
    for with_around in (False, True):
        if is_field and not with_around:
            continue
        around: list[Cells] = [_cells(path) if with_around else {} for path in paths]
        rows = [_own(path) | cells for path, cells in zip(paths, around, strict=True)]
        apart = modifiers_apart(rows, _own_names(paths))
        rows = put_together(rows, apart)
        names = list(dict.fromkeys(name for row in rows for name in row))
        if with_around:  # what is the same everywhere stays as it is
            names = [name for name in names if len({row.get(name) for row in rows}) > 1]
        table = [[row.get(name) for name in names] for row in rows]
        columns = columns_of([name.rpartition(".")[2] for name in names], table, known)
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
        more = _around(paths, False, taken)
        more.pop(f"{depth}@", None)
        more |= {f"{depth}@": numbered} if numbered else {}
        if columns.section is not None and not with_around and "{section}" not in more.values():
            own[names[columns.section]] = "{section}"
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


def _numbered(paths: list[list[Member]]) -> str:
    """The name of groups that are numbered, with a variable for the number; empty where they are not."""
    parts = [re.fullmatch(r"(.*?)\d+", one.name) for *_around, one in paths if isinstance(one, Field)]
    before = {match[1] if match is not None else None for match in parts}
    names = [one.name for *_around, one in paths]
    is_numbered = len(parts) == len(names) and len(before) == 1 and None not in before and len(set(names)) == len(names)
    return f"{before.pop()}{{number}}" if is_numbered and len(names) >= _FEWEST else ""


def _own_names(paths: list[list[Member]]) -> list[str]:
    return list(dict.fromkeys(name for path in paths for name in _own(path)))


def _is_spelt(name: str, rows: list[Cells]) -> bool:
    return guess([row[name] for row in rows if name in row] * _FEWEST) is not None


def _forms_of(
    syntax: TreeSyntax, top: Node, paths: list[list[Member]], own: dict[str, str], around: dict[str, str],
    apart: ModifiersApart | None = None,
) -> _Found:  # fmt: skip
    """The forms of groups whose texts, and what is around them, are these parts; and what each group says."""
    part_of = {part: name for name, part in own.items()} | {part: name for name, part in around.items()}
    optional = {
        name: any(texts_of(group_of(path[-1])).get(name, _NO_TEXT).kind == "list" for path in paths)
        for name, part in own.items() if part not in ("{key}", "{command}", "{section}")
    }  # fmt: skip
    order = _own_names(paths)
    for path in paths:
        row = _cells(path) | _own(path)
        if part_of["{key}"] not in row or part_of.get("{first}", part_of["{key}"]) not in row or _is_off(path):
            continue
        command = row.get(part_of.get("{command}", ""), "")
        prefix = _prefix(command)
        gone = is_nothing(command)
        named = {name: part for name, part in own.items() if not (gone and part == "{command}")}
        if prefix and part_of["{command}"] in named:
            named[part_of["{command}"]] = f"{prefix}{{command}}"
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
            said.get("{where}", ""), said.get("{section}", ""),
        )  # fmt: skip


def _is_off(path: list[Member]) -> bool:
    """Whether a group says that it does not hold."""
    said = {name.lower(): text.lower() for name, text in _own(path).items()}
    return any(said.get(name) in NO for name in ("enabled", "active")) or said.get("disabled") in YES


def _prefix(command: str) -> str:
    """The signs before a command that is quoted as lists quote words."""
    return next((sign for sign in ("#'", "'") if command.startswith(sign)), "")
