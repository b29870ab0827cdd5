"""The shape of a sample that is a tree: JSON, TOML, INI, XML, YAML, records, lists in parentheses."""

import importlib
import re
from collections import Counter
from functools import lru_cache

from msgspec.structs import replace

from ombix.core.errors import InputError, OmbixError
from ombix.editors.drafting.line_shapes import line_form
from ombix.editors.drafting.sample_shape import (
    Shape,
    ShapeForm,
    ShownBinding,
    are_platforms,
    columns_of,
    common_start,
    is_nothing,
    of_other_platforms,
)
from ombix.editors.drafting.spellings import guess
from ombix.editors.drafting.tree_drawing import drawn, text_like
from ombix.editors.drafting.tree_records import records_in
from ombix.editors.drafting.tree_walk import (
    FEWEST,
    FoundForms,
    kind_of,
    numbered_name,
    paths_of_groups,
    rows_of,
    said_around,
    what_is_around,
)
from ombix.editors.file_description import FileForm
from ombix.editors.formats import records as records_syntax
from ombix.editors.formats.trees.nodes import Field, Member, Node, TreeSyntax, fold_lists, group_of
from ombix.editors.formats.trees.patterns import Pattern

FORMS = ("xml", "json", "lists", "records", "toml", "ini", "yaml")
"""Those that a text is tried as, in this order."""
_NAMED_COMMAND = re.compile(r"\{command\}\"?\s*[:=]|\[[^\]\n]*\{command\}")
_RECORDS = 20
"""More groups than these with the same names in them are records: the names are no keys and no commands."""
_FOR_KEYS = re.compile(r"(?i)[._-](?:shortcuts?|keys?|accel(?:erator)?s?|bindings?|hotkeys?|chords?)$")
"""The end of a name whose value are keys."""
_STRICT = ("xml", "json", "toml")
"""Forms of files that are named after them, and of which there is one way to write them."""
_TABLE = re.compile(r"(?m)^\[\[?[\w.-]+\]\]?[ \t]*$")
"""A line that only TOML has, or INI."""
_COMMENT = {"xml": "", "json": "//", "lists": ";", "toml": "#", "ini": "#", "yaml": "#", "records": "#"}


def tree_shape(text: str, known: frozenset[str], form: str = "") -> Shape | None:
    """The form of a file that is a tree; None where it is none, or no keys stand in it."""
    for name in (form,) if form else FORMS:
        if not _may_be(name, text):
            continue
        syntax = _syntax(name)
        try:
            top = syntax.parse(text, "the sample")
        except (OmbixError, RecursionError):
            continue
        fold_lists(top)
        shape = _shape(name, syntax, top, known)
        if shape is not None:
            return shape
    return None


def is_strictly(form: str, text: str, file: str) -> bool:
    """Whether a text is of a form that is written in one way. Raises InputError for the place at which one that begins and ends
    like it is broken."""
    if form not in _STRICT or not _may_be(form, text):
        return False
    _syntax(form).parse(text, file)
    return True


def refuse_broken(text: str, file: str) -> None:
    """Raises InputError for the place at which a text that begins and ends like a tree is none."""
    for name in (*_STRICT, "lists"):
        if _may_be(name, text) and (name != "toml" or _TABLE.search(text)):
            _syntax(name).parse(text, file)


def _syntax(form: str) -> TreeSyntax:
    syntax: TreeSyntax = importlib.import_module(f"ombix.editors.formats.{form}")
    return syntax


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
        names = [item.fields[0].name for item in records_syntax.parse(text, "").items]
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
        (records_in(syntax, top, known, used), False),
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
    spelling = guess([record.key for record in records if not is_nothing(record.key)])
    if spelling is None or not any(form.means == "bind" for form in forms.values()):
        return None
    sections = list(dict.fromkeys(record.section for record in records if record.section))
    if len(sections) > 1 and (aside := of_other_platforms(sections)) and len(aside) == len(sections) - 1:
        (own,) = set(sections) - set(aside)
        forms, records, sections = _of_one_platform(forms, own, aside), [
            replace(record, section="") for record in records if record.section in ("", own)
        ], []  # fmt: skip
    # What says the most comes first: a shorter form fits what a longer one does, too.
    ordered = sorted(forms.values(), key=lambda form: -form.pattern.count("{where}") - form.pattern.count("{section}"))
    return Shape(name, ordered, records, spelling, _COMMENT[name], sections, assigns, others=others)


def _of_one_platform(forms: dict[str, ShapeForm], own: str, aside: list[str]) -> dict[str, ShapeForm]:
    """The forms of what stands in a group for each platform: those of one, and what of the others is left as it is."""
    found: dict[str, ShapeForm] = {}
    for form in forms.values():
        for name in (own, *aside) if "{section}" in form.pattern else (own,):
            means = form.means if name == own else "keep"
            one = replace(
                form,
                pattern=form.pattern.replace("{section}", name),
                means=means,
                note="" if name == own else f"the keys for {name}, which are not read",
            )
            found[f"{means} {one.pattern}"] = one
    return found


@lru_cache(maxsize=256)
def _can_be_drawn(form: ShapeForm, syntax: TreeSyntax) -> bool:
    """Whether a form is a pattern: a variable cannot stand for a number or a word like null everywhere."""
    try:
        Pattern(FileForm(form.pattern, "remove" if form.means == "remove" else "bind"), syntax)
    except InputError:
        return False
    return True


def _named_by_keys(syntax: TreeSyntax, top: Node, known: frozenset[str], used: set[int]) -> FoundForms:
    """Groups in which names of fields are keys and their values commands, or the other way round; they are noted in `used`."""
    chosen: list[list[Member]] = []
    small: list[list[Member]] = []
    is_key_first = True
    behind: list[list[Member]] = []
    paths = [path for path in paths_of_groups(top) if id(group_of(path[-1]) if path else top) not in used]
    alike = Counter(tuple(one.name for one in rows_of(top, path)) for path in paths)
    names = Counter(one.name for path in paths for one in rows_of(top, path))
    for path in paths:
        rows = rows_of(top, path)
        if path and isinstance(path[-1], Field) and _is_key(path[-1].name):
            behind.append(path)
            continue
        if alike[tuple(row.name for row in rows)] > _RECORDS or are_platforms([row.name for row in rows]):
            continue
        if len(rows) < FEWEST:
            small += [path] if rows else []
            continue
        columns = columns_of(["", ""], [(row.name, row.value.text) for row in rows], known)
        if columns is None or columns.command is None:
            continue
        if columns.key and max(names[row.name] for row in rows) > max(2, len(paths) // 3):
            continue  # the same names in many groups are no commands
        is_key_first = columns.key == 0
        chosen.append(path)
    by_kind: dict[tuple[str, ...], list[Field]] = {}
    for path in small:
        by_kind.setdefault(kind_of(path), []).extend(rows_of(top, path))
    for each, rows in by_kind.items() if not chosen else ():  # alone they tell nothing
        columns = columns_of(["", ""], [(row.name, row.value.text) for row in rows], known)
        if len(rows) >= FEWEST and columns is not None and columns.command is not None:
            is_key_first = columns.key == 0
            commands = {row.value.text if is_key_first else row.name for row in rows}
            if len(commands) < 0.6 * len(rows):
                continue  # what is the same in most of them is no command
            chosen += [path for path in small if kind_of(path) == each]
    if not chosen:
        return
    kinds, known_ones = {kind_of(path) for path in chosen}, {id(path) for path in chosen}
    spelling = guess([one.name if is_key_first else one.value.text for path in chosen for one in rows_of(top, path)])
    for path in small:
        if id(path) in known_ones:
            continue
        keys = [one.name if is_key_first else one.value.text for one in rows_of(top, path)]
        if kind_of(path) in kinds and spelling is not None and all(map(spelling.reads, keys)):
            chosen.append(path)
    alike_paths = {kind: [path for path in chosen if kind_of(path) == kind] for kind in kinds}
    around_of = {kind: what_is_around(some, len(some) == 1) for kind, some in alike_paths.items()}
    # Keys behind another one are the rest of a sequence.
    outer = {id(group_of(path[-1]) if path else top): kind_of(path) for path in chosen}
    for path in behind if is_key_first else ():
        kind = outer.get(id(group_of(path[-2]) if len(path) > 1 else top))
        rows = rows_of(top, path)
        if kind is not None and rows and all(_is_key(row.name) for row in rows):
            chosen.append(path)
            around_of[kind_of(path)] = {**around_of[kind], f"{len(path) - 1}@": "{first}"}
    order = {id(path): number for number, path in enumerate(paths)}
    before, after = (
        ("", "") if is_key_first else _around_commands([one.name for path in chosen for one in rows_of(top, path)])
    )
    for path in sorted(chosen, key=lambda path: order[id(path)]):
        around = around_of[kind_of(path)]
        used.add(id(group_of(path[-1]) if path else top))
        variables, said = said_around(path, around)
        first = f"{said['{first}']} " if "{first}" in said else ""
        for one in rows_of(top, path):
            key, command = (one.name, one.value.text) if is_key_first else (one.value.text, one.name)
            key = first + key
            command = command.removeprefix(before).removesuffix(after)
            gone = is_nothing(command)
            inner = Field(
                "{key}" if is_key_first else f"{before}{{command}}{after}",
                text_like(one.value, one.value.text if gone else "{command}" if is_key_first else "{key}"),
            )
            pattern = drawn(syntax, top, path, inner, variables)
            form = ShapeForm(pattern, "remove" if gone else "bind")
            yield form, ShownBinding(key, "" if gone else command, said.get("{where}", ""), said.get("{section}", ""))


def _around_commands(names: list[str]) -> tuple[str, str]:
    """What stands around the commands in names like `action.save.shortcut`, which say that their values are keys."""
    behind = common_start([name[::-1] for name in names])[::-1]
    if len(names) <= FEWEST or (match := _FOR_KEYS.search(behind)) is None:
        return "", ""
    before = re.match(r".*[._-]", common_start(names))
    return before[0] if before is not None else "", match[0]


def _numbered_texts(syntax: TreeSyntax, top: Node, known: frozenset[str], used: set[int]) -> FoundForms:
    """Groups in which names are numbers, and each text is a binding; they are noted in `used`."""
    found: list[tuple[list[Member], str]] = []
    for path in paths_of_groups(top):
        rows = rows_of(top, path)
        if name := numbered_name([[row] for row in rows]):
            found.append((path, name))
    around = what_is_around([path for path, _name in found], len(found) == 1) if found else {}
    for path, name in found:
        texts = [one.value.text for one in rows_of(top, path)]
        lines = line_form("", list(enumerate(texts)), known)
        if lines is None:
            continue
        used.add(id(group_of(path[-1]) if path else top))
        variables, said = said_around(path, around)
        pattern = drawn(syntax, top, path, Field(name, Node("text", text=lines[0].pattern)), variables)
        for _at, one in lines[1]:
            yield ShapeForm(pattern, "bind"), replace(one, section=one.section or said.get("{section}", ""))


def _is_key(name: str) -> bool:
    """Whether a name is a key by itself; a word for one may be something else."""
    return (len(name) == 1 and not name.isdigit()) or guess([name] * FEWEST) is not None
