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
    groups = _KeyedGroups(top, known, used)
    groups.choose()
    if groups.chosen:
        yield from groups.forms(syntax)


class _KeyedGroups:
    """The groups of a tree whose fields are bindings.

    Those are chosen first that tell by themselves which side the keys are on; the small ones, which do not, only join what is
    known by then, as a group of two fields could mean anything.
    """

    def __init__(self, top: Node, known: frozenset[str], used: set[int]) -> None:
        self._top = top
        self._known = known
        self._used = used
        self._paths = [path for path in paths_of_groups(top) if id(self._group(path)) not in used]
        self._small: list[list[Member]] = []
        self._behind_keys: list[list[Member]] = []
        self._is_key_first = True
        self.chosen: list[list[Member]] = []

    def _group(self, path: list[Member]) -> Node:
        return group_of(path[-1]) if path else self._top

    def _key(self, row: Field) -> str:
        return row.name if self._is_key_first else row.value.text

    def _keys(self, path: list[Member]) -> list[str]:
        return [self._key(row) for row in rows_of(self._top, path)]

    def choose(self) -> None:
        """Find the groups, and on which side of their fields the keys are."""
        self._choose_large()
        if not self.chosen:
            self._choose_kinds()
        if self.chosen:
            self._choose_alike()

    def _choose_large(self) -> None:
        """Groups of enough fields to tell which of the two sides are keys."""
        alike = Counter(tuple(row.name for row in rows_of(self._top, path)) for path in self._paths)
        names = Counter(row.name for path in self._paths for row in rows_of(self._top, path))
        for path in self._paths:
            rows = rows_of(self._top, path)
            if path and isinstance(path[-1], Field) and _is_key(path[-1].name):
                self._behind_keys.append(path)
                continue
            if alike[tuple(row.name for row in rows)] > _RECORDS or are_platforms([row.name for row in rows]):
                continue
            if len(rows) < FEWEST:
                self._small += [path] if rows else []
                continue
            columns = columns_of(["", ""], [(row.name, row.value.text) for row in rows], self._known)
            if columns is None or columns.command is None:
                continue
            if columns.key and max(names[row.name] for row in rows) > max(2, len(self._paths) // 3):
                continue  # the same names in many groups are no commands
            self._is_key_first = columns.key == 0
            self.chosen.append(path)

    def _choose_kinds(self) -> None:
        """Small groups, all those of a kind together: alone they tell nothing."""
        by_kind: dict[tuple[str, ...], list[Field]] = {}
        for path in self._small:
            by_kind.setdefault(kind_of(path), []).extend(rows_of(self._top, path))
        for kind, rows in by_kind.items():
            columns = columns_of(["", ""], [(row.name, row.value.text) for row in rows], self._known)
            if len(rows) < FEWEST or columns is None or columns.command is None:
                continue
            self._is_key_first = columns.key == 0
            commands = {row.value.text if self._is_key_first else row.name for row in rows}
            if len(commands) >= 0.6 * len(rows):  # what is the same in most of them is no command
                self.chosen += [path for path in self._small if kind_of(path) == kind]

    def _choose_alike(self) -> None:
        """Small groups of the kinds that were chosen, whose keys are spelt as those are."""
        kinds, chosen = {kind_of(path) for path in self.chosen}, {id(path) for path in self.chosen}
        spelling = guess([key for path in self.chosen for key in self._keys(path)])
        for path in self._small:
            if id(path) in chosen or kind_of(path) not in kinds or spelling is None:
                continue
            if all(map(spelling.reads, self._keys(path))):
                self.chosen.append(path)

    def _surroundings(self) -> dict[tuple[str, ...], dict[str, str]]:
        """What is said around the chosen groups, by their kinds; groups behind a key join, as the rest of its sequence."""
        kinds = {kind_of(path) for path in self.chosen}
        paths_by_kind = {kind: [path for path in self.chosen if kind_of(path) == kind] for kind in kinds}
        found = {kind: what_is_around(paths, len(paths) == 1) for kind, paths in paths_by_kind.items()}
        outer = {id(self._group(path)): kind_of(path) for path in self.chosen}
        for path in self._behind_keys if self._is_key_first else ():
            kind = outer.get(id(self._group(path[:-1])))
            rows = rows_of(self._top, path)
            if kind is not None and rows and all(_is_key(row.name) for row in rows):
                self.chosen.append(path)
                found[kind_of(path)] = {**found[kind], f"{len(path) - 1}@": "{first}"}
        return found

    def forms(self, syntax: TreeSyntax) -> FoundForms:
        """The forms of the chosen groups and what they bind, in the order of the file."""
        around = self._surroundings()
        order = {id(path): number for number, path in enumerate(self._paths)}
        names = [row.name for path in self.chosen for row in rows_of(self._top, path)]
        before, after = ("", "") if self._is_key_first else _around_commands(names)
        for path in sorted(self.chosen, key=lambda path: order[id(path)]):
            self._used.add(id(self._group(path)))
            variables, said = said_around(path, around[kind_of(path)])
            first = f"{said['{first}']} " if "{first}" in said else ""
            for row in rows_of(self._top, path):
                command = row.value.text if self._is_key_first else row.name
                command = command.removeprefix(before).removesuffix(after)
                gone = is_nothing(command)
                value = row.value.text if gone else "{command}" if self._is_key_first else "{key}"
                name = "{key}" if self._is_key_first else f"{before}{{command}}{after}"
                pattern = drawn(syntax, self._top, path, Field(name, text_like(row.value, value)), variables)
                yield (
                    ShapeForm(pattern, "remove" if gone else "bind"),
                    ShownBinding(
                        first + self._key(row),
                        "" if gone else command,
                        said.get("{where}", ""),
                        said.get("{section}", ""),
                    ),
                )


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
