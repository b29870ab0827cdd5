"""Files that are trees, read by patterns: which piece is a binding, what is around it, and what no pattern has."""

from collections.abc import Iterator

from msgspec import Struct

from ombix.core.errors import InputError, Place, did_you_mean
from ombix.editors.description import Description
from ombix.editors.file_description import FileForm
from ombix.editors.formats import Statement, said_where
from ombix.editors.formats.trees.nodes import Field, Found, Member, Node, TreeSyntax, fold_lists, group_of
from ombix.editors.formats.trees.patterns import Pattern, match, match_head, patterns
from ombix.editors.split_modifiers import put_together

_KINDS = {"map": "names with values", "list": "a list", "text": "a text"}


class _Live(Struct, frozen=True):
    """A pattern that fits so far, down to the group at `depth` of its path (-1: the whole file)."""

    pattern: Pattern
    depth: int
    found: Found


def read(text: str, file: str, description: Description, syntax: TreeSyntax) -> Iterator[Statement]:
    """The statements of a file. Raises InputError with the place of the first fault of its syntax."""
    if not text.strip("\ufeff \t\r\n"):
        return
    top = syntax.parse(text, file)
    known = patterns(tuple(description.file.forms), syntax)
    kinds = {pattern.kind for pattern in known}
    if kinds and top.kind not in kinds:
        raise InputError(
            f"expected {_KINDS['map' if 'map' in kinds else 'list']}, not {_KINDS[top.kind]}",
            "Check that this is the file you mean.",
            Place(file, 1, 1),
        )
    fold_lists(top)
    walk = _Walk(description, syntax, any(pattern.form.means == "inherit" for pattern in known))
    found = list(walk.members(top, [_Live(one, -1, {}) for one in known], set(), []))
    yield from _parents_first(found)


class _Walk(Struct):
    description: Description
    syntax: TreeSyntax
    has_free_names: bool

    def members(self, group: Node, live: list[_Live], used: set[int], around: list[Member]) -> Iterator[Statement]:
        for member in group.members():
            if id(member) not in used:
                yield from self._member(member, live, around)

    def _member(self, member: Member, live: list[_Live], around: list[Member]) -> Iterator[Statement]:
        going: list[_Live] = []
        used: set[int] = set()
        heads: set[int] = set()
        for one in live:
            step = one.pattern.path[one.depth + 1]
            is_last = one.depth + 2 == len(one.pattern.path)
            if is_last and one.pattern.form.means != "inherit":
                found = match(step, member, one.found)
                if found is not None and self._is_known(found):
                    yield self._statement(one.pattern.form, found, member, around)
                    return
                continue
            child = step if is_last else one.pattern.path[one.depth + 2]
            head = match_head(step, child, member, one.found)
            if head is None or not self._is_known(head[0]):
                continue
            used.update(head[1])
            heads.update(head[1] if one.pattern.form.means != "inherit" else ())
            if is_last:
                yield self._statement(one.pattern.form, head[0], member, around)
            going.append(_Live(one.pattern, one.depth + 1, head[0]))
        on = [one for one in going if one.depth + 1 < len(one.pattern.path)]
        if not going:
            yield self._kept(member, live, around)
            return
        yield from self.members(group_of(member), on, used, [*around, head_of(member, heads)])

    def _is_known(self, found: Found) -> bool:
        if self.has_free_names or "section" not in found:
            return True
        description = self.description
        known = (*description.sections, *description.tables, *description.prefixes, description.file.every_section)
        return found["section"] in known

    def _statement(self, form: FileForm, found: Found, member: Member, around: list[Member]) -> Statement:
        section = found.get("section") or form.section
        written = self._written(member, around) if form.means == "keep" else member.source or self._one_line(member)
        if form.means == "inherit":
            note = f"{section} takes over {found['other']}"
            return Statement(member.place, self._one_line(head_of(member)), "inherit", found["other"], "", section,
                             note=note)  # fmt: skip
        if form.means == "include":
            whole = self._written(member, around)
            return Statement(member.place, written, "include", found["file"], note=form.note, whole=whole)
        command = found.get("string") or found.get("command") or ""
        assert form.means != "open"
        keys = put_together(found, self.description.keys)
        return Statement(
            member.place, written, form.means, keys, command, section, "string" in found, form.note,
            said_where(form, found.get("where", ""), self.description), found.get("title", ""), platform=found.get("platform", ""),
            whole=self._written(member, around),
        )  # fmt: skip

    def _kept(self, member: Member, live: list[_Live], around: list[Member]) -> Statement:
        written = self._written(member, around)
        value = group_of(member)
        is_sign = member is value and not any(map(str.isalpha, member.name))  # of a record
        name = _first_word(value) if is_sign else member.name
        if name in self.description.file.settings:
            return Statement(member.place, written, "keep", note="a setting, not a key binding")
        editor, section = self.description.name, ""
        if value.kind == "text":
            note = f"{editor} does not know {name or value.text} here"
        elif section := self._unknown_section(member, live):
            advice = did_you_mean(section, list(self.description.sections))
            note = f"{editor} has no section {section}" + (f" ({advice})" if advice else "")
        elif value.kind == "list" and isinstance(member, Field):
            note = "a list is no command"
        else:
            note = f"{editor} knows no such {name or 'group'}"
        return Statement(member.place, written, "keep", section=section, note=note, is_fault=True)

    def _unknown_section(self, member: Member, live: list[_Live]) -> str:
        """The section that a member would be, if the editor had it."""
        for one in live:
            if one.depth + 2 < len(one.pattern.path):
                step, child = one.pattern.path[one.depth + 1 : one.depth + 3]
                head = match_head(step, child, member, one.found)
                if head is not None and "section" in head[0]:
                    return head[0]["section"]
        return ""

    def _written(self, member: Member, around: list[Member]) -> str:
        """A member with what is around it, so that it can be read again by itself."""
        for outer in reversed(around):
            group = group_of(outer)
            inside = Node(group.kind, group.name, fields=list(group.fields), items=list(group.items))
            if isinstance(member, Field):
                inside.fields.append(member)
            else:
                inside.items.append(member)
            member = Field(outer.name, inside) if isinstance(outer, Field) else inside
        return member.source or self._one_line(member)

    def _one_line(self, member: Member) -> str:
        return str(self.syntax.one_line(member))


def head_of(member: Member, heads: set[int] | None = None) -> Member:
    """A member with only what it begins with: its attributes (those with one of these identities), or its words."""
    group = group_of(member)
    words = [item for item in group.items if item.kind == "text"] if group.kind == "list" else []
    fields = [one for one in group.fields if heads is None or id(one) in heads] if group.name else []
    head = Node(group.kind, group.name, fields=fields, items=words, place=group.place)
    return Field(member.name, head, member.place) if isinstance(member, Field) else head


def _first_word(node: Node) -> str:
    """The word that a list begins with."""
    return node.items[0].text if node.kind == "list" and node.items and not node.items[0].is_quoted else ""


def _parents_first(statements: list[Statement]) -> list[Statement]:
    """The statements of each table behind those of the table that it takes keys over from.

    Raises InputError where a table takes over from itself.
    """
    parents = {statement.section: statement for statement in statements if statement.kind == "inherit"}
    if not parents:
        return statements
    order: list[str] = []

    def put(section: str, below: tuple[str, ...]) -> None:
        if section in order:
            return
        parent = parents.get(section)
        if parent is not None:
            if parent.key in (*below, section):
                raise InputError(f"{section} takes keys over from itself", "Name another one.", parent.place)
            put(parent.key, (*below, section))
        order.append(section)

    for statement in statements:
        put(statement.section, ())
    return sorted(statements, key=lambda one: order.index(one.section))
