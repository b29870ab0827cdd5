"""Files that are trees: patterns in the file's own syntax say where in the tree the bindings are.

A pattern is a small file with variables in it: `[[shed."{section}"]]` and below it `treadle = "{key}"` say that each table in
a list `shed.…` is a binding. Its innermost group that has all of a binding's variables is the record; what is around it is
open: other things may stand there, too. A piece of the file that no pattern has is kept.
"""

import re
from bisect import bisect_right
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Literal, NoReturn, Protocol

from ombix.core.errors import InputError, Place, did_you_mean
from ombix.dialects.description import Description, Line
from ombix.dialects.formats import Heading, Statement

Kind = Literal["text", "map", "list"]
MAX_DEPTH = 100
"""Groups in groups; no keymap needs as many."""

_VARIABLE = re.compile(r"\{(key|command|string|section|other|file|where|title|platform)\}")
_SIDE_BY_SIDE = re.compile(rf"{_VARIABLE.pattern}{_VARIABLE.pattern}")
_OPTIONAL = frozenset({"where", "title", "platform"})
_AROUND = frozenset({"section", "other"})
_NOWHERE = Place("")


@dataclass(slots=True)
class Node:
    """A text, or a group: fields with names (of a map, the attributes of an element), and items one after the other.

    `source` is how it stands in the file, where that is known; `comment` stands before it.
    """

    kind: Kind
    name: str = ""
    text: str = ""
    is_quoted: bool = True
    fields: list["Field"] = field(default_factory=list)
    items: list["Node"] = field(default_factory=list)
    place: Place = _NOWHERE
    source: str = ""
    comment: str = ""

    def members(self) -> list["Field | Node"]:
        """The fields, then the items."""
        return [*self.fields, *self.items]


@dataclass(slots=True)
class Field:
    """A name and what it stands for."""

    name: str
    value: Node
    place: Place = _NOWHERE
    source: str = ""
    comment: str = ""


Member = Field | Node
Found = dict[str, str]


def group_of(member: Member) -> Node:
    """The node that has the members of a member."""
    return member.value if isinstance(member, Field) else member


class Syntax(Protocol):
    """How files of one syntax become a tree and back."""

    def __hash__(self) -> int: ...

    def parse(self, text: str, file: str) -> Node:
        """The tree of a file. Raises InputError with the place of the first fault."""

    def whole(self, text: str) -> str:
        """A piece that was kept as a file of its own."""

    def one_line(self, member: Member) -> str:
        """A member as short as it can be written."""

    def lay_out(self, top: Node) -> str:
        """The text of a file, laid out for a reader."""


# --- patterns


class Pattern:
    """A pattern that was read: the members from the outermost to the record, and what each variable is for."""

    def __init__(self, form: Line, syntax: Syntax) -> None:
        self.form = form
        top = syntax.parse(form.pattern, "the pattern")
        self.kind: Kind = top.kind
        self.variables = set(_VARIABLE.findall(form.pattern))
        if _SIDE_BY_SIDE.search(form.pattern):
            raise InputError(
                f"in the pattern {form.pattern!r} two variables stand side by side", "Part them by a sign."
            )
        wanted = self.variables - _AROUND if form.means in ("bind", "remove") else self.variables
        if not wanted:
            raise InputError(f"the pattern {form.pattern!r} has no variable", "Write {key}.")
        self.path: list[Member] = []
        self.top = top
        group = top
        while True:
            inner = next((one for one in group.members() if wanted <= _variables_in(one)), None)
            if inner is None:
                break
            is_field = isinstance(inner, Field) and not _VARIABLE.search(inner.name)
            if group_of(inner).kind == "text" and (is_field or isinstance(inner, Node)):
                break  # a text in a group: the group is the record
            self.path.append(inner)
            group = group_of(inner)
            if group.kind == "text":
                break
        if not self.path:
            raise InputError(f"the pattern {form.pattern!r} has no group around its variables", "")

    @property
    def record(self) -> Member:
        """The member that is one statement."""
        return self.path[-1]


def _variables_in(member: Member | Node) -> set[str]:
    found: set[str] = set()
    if isinstance(member, Field):
        found |= set(_VARIABLE.findall(member.name))
        member = member.value
    found |= set(_VARIABLE.findall(member.text)) | set(_VARIABLE.findall(member.name))
    for one in member.members():
        found |= _variables_in(one)
    return found


@lru_cache(maxsize=256)
def _parts(text: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The literal parts of a text and the variables between them."""
    split = _VARIABLE.split(text)
    return tuple(split[::2]), tuple(split[1::2])


def _match_text(pattern: str, text: str, found: Found) -> Found | None:
    """The variables of a text, each up to where what follows it in the pattern stands first; None where it is another."""
    literals, names = _parts(pattern)
    if not names:
        return found if pattern == text else None
    if not text.startswith(literals[0]) or not text.endswith(literals[-1]):
        return None
    new = {**found}
    position, end = len(literals[0]), len(text) - len(literals[-1])
    for index, name in enumerate(names):
        is_last = index + 1 == len(names)
        stop = end if is_last else text.find(literals[index + 1], position + 1, end)
        if stop < position:
            return None
        value = text[position:stop]
        if new.setdefault(name, value) != value or (not is_last and (not value or value.split() != [value])):
            return None
        position = stop + (0 if is_last else len(literals[index + 1]))
    return new


def _match(pattern: Member, member: Member, found: Found) -> Found | None:
    """The variables where all of a member is as the pattern says, or None."""
    if isinstance(pattern, Field):
        if not isinstance(member, Field):
            return None
        inner = _match_text(pattern.name, member.name, found)
        return None if inner is None else _match(pattern.value, member.value, inner)
    if isinstance(member, Field):
        return None
    if pattern.kind == "text":
        if member.kind == "text":
            return _match_text(pattern.text, member.text, found) if pattern.is_quoted == member.is_quoted else None
        if member.source and not pattern.is_quoted:  # a list where a word may stand
            return _match_text(pattern.text, member.source, found)
        return None
    if pattern.kind != member.kind or pattern.name != member.name or len(pattern.items) != len(member.items):
        return None
    missing = list(pattern.fields)
    for one in member.fields:
        for other in missing:
            inner = _match(other, one, found)
            if inner is not None:
                found = inner
                missing.remove(other)
                break
        else:
            return None
    if any(not _is_optional(one) for one in missing):
        return None
    for mine, theirs in zip(pattern.items, member.items, strict=True):
        inner = _match(mine, theirs, found)
        if inner is None:
            return None
        found = inner
    return found


def _is_optional(member: Field) -> bool:
    return bool(inside := _variables_in(member)) and inside <= _OPTIONAL


def _match_head(pattern: Member, child: Member, member: Member, found: Found) -> tuple[Found, list[int]] | None:
    """The variables where a member begins as the pattern says, whatever else it has; and which of its own members said so.

    `child` is the member of the pattern that is looked for inside.
    """
    if isinstance(pattern, Field):
        if not isinstance(member, Field):
            return None
        inner = _match_text(pattern.name, member.name, found)
        if inner is None:
            return None
        found = inner
    elif isinstance(member, Field):
        return None
    group, own = group_of(member), group_of(pattern)
    if group.kind != own.kind or group.name != own.name:
        return None
    used: list[int] = []
    for one in own.fields:
        if one is child:
            continue
        for other in group.fields:
            inner = _match(one, other, found)
            if inner is not None:
                found = inner
                used.append(id(other))
                break
        else:
            return None
    for index, mine in enumerate(own.items):
        if mine is child:
            break
        if index >= len(group.items) or (inner := _match(mine, group.items[index], found)) is None:
            return None
        found = inner
        used.append(id(group.items[index]))
    return found, used


# --- reading


@dataclass(frozen=True, slots=True)
class _Live:
    """A pattern that fits so far, down to the group at `depth` of its path (-1: the whole file)."""

    pattern: Pattern
    depth: int
    found: Found


def read(text: str, file: str, description: Description, syntax: Syntax) -> Iterator[Statement]:
    """The statements of a file. Raises InputError with the place of the first fault of its syntax."""
    if not text.strip("\ufeff \t\r\n"):
        return
    top = syntax.parse(text, file)
    known = patterns(tuple(description.file.forms), syntax)
    kinds = {pattern.kind for pattern in known}
    if kinds and top.kind not in kinds:
        raise InputError(f"expected {'{' if 'map' in kinds else '['} at the start", "", Place(file, 1, 1))
    walk = _Walk(description, syntax, any(pattern.form.means == "inherit" for pattern in known))
    found = list(walk.members(top, [_Live(one, -1, {}) for one in known], set(), []))
    yield from _parents_first(found)


@dataclass(slots=True)
class _Walk:
    description: Description
    syntax: Syntax
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
                found = _match(step, member, one.found)
                if found is not None and self._is_known(found):
                    yield self._statement(one.pattern.form, found, member, around)
                    return
                continue
            child = step if is_last else one.pattern.path[one.depth + 2]
            head = _match_head(step, child, member, one.found)
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
        yield from self.members(group_of(member), on, used, [*around, _head_of(member, heads)])

    def _is_known(self, found: Found) -> bool:
        if self.has_free_names or "section" not in found:
            return True
        description = self.description
        known = (*description.sections, *description.tables, *description.prefixes, description.file.every_section)
        return found["section"] in known

    def _statement(self, form: Line, found: Found, member: Member, around: list[Member]) -> Statement:
        section = found.get("section") or form.section
        written = self._written(member, around) if form.means == "keep" else member.source or self._one_line(member)
        if form.means == "inherit":
            note = f"{section} takes over {found['other']}"
            return Statement(member.place, self._one_line(_head_of(member)), "inherit", found["other"], "", section,
                             note=note)  # fmt: skip
        if form.means == "include":
            whole = self._written(member, around)
            return Statement(member.place, written, "include", found["file"], note=form.note, whole=whole)
        command = found.get("string") or found.get("command") or ""
        return Statement(
            member.place, written, form.means, found.get("key", ""), command, section, "string" in found, form.note,
            found.get("where", ""), found.get("title", ""), platform=found.get("platform", ""),
            whole=self._written(member, around),
        )  # fmt: skip

    def _kept(self, member: Member, live: list[_Live], around: list[Member]) -> Statement:
        written = self._written(member, around)
        value = group_of(member)
        name = member.name or _first_word(value)
        if name in self.description.file.settings:
            return Statement(member.place, written, "keep", note="a setting, not a key binding")
        editor = self.description.name
        if value.kind == "text":
            note = f"{value.text} is no command" if name else f"{editor} does not know {value.text} here"
        elif section := self._unknown_section(member, live):
            advice = did_you_mean(section, list(self.description.sections))
            note = f"{editor} has no section {section}" + (f" ({advice})" if advice else "")
        elif value.kind == "list" and isinstance(member, Field):
            note = "a list is no command"
        else:
            note = f"{editor} knows no such {name or 'group'}"
        return Statement(member.place, written, "keep", note=note, is_fault=True)

    def _unknown_section(self, member: Member, live: list[_Live]) -> str:
        """The section that a member would be, if the editor had it."""
        for one in live:
            if one.depth + 2 < len(one.pattern.path):
                step, child = one.pattern.path[one.depth + 1 : one.depth + 3]
                head = _match_head(step, child, member, one.found)
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


def _head_of(member: Member, heads: set[int] | None = None) -> Member:
    """A member with only what it begins with: its attributes (those with one of these identities), or its words."""
    group = group_of(member)
    words = [one for one in group.items if one.kind == "text"] if group.kind == "list" else []
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
    parents = {one.section: one for one in statements if one.kind == "inherit"}
    if not parents:
        return statements
    order: list[str] = []

    def put(section: str, below: tuple[str, ...]) -> None:
        if section in order:
            return
        parent = parents.get(section)
        if parent is not None:
            if parent.key in (*below, section):
                raise InputError(f"{section} takes keys over from itself", "", parent.place)
            put(parent.key, (*below, section))
        order.append(section)

    for one in statements:
        put(one.section, ())
    return sorted(statements, key=lambda one: order.index(one.section))


# --- writing


def write(items: Iterable[Statement | Heading], description: Description, syntax: Syntax) -> str:
    """A file that says `items`, each group of its own kind with one comment."""
    known = patterns(tuple(description.file.forms), syntax)
    tree = _Tree(Node(known[0].kind if known else "map"))
    items = list(items)
    if any(isinstance(item, Statement) and item.kind != "keep" for item in items):
        for piece in description.file.preamble:
            tree.begin(tree.top, syntax.parse(piece, "the preamble"))
    for item in items:
        if isinstance(item, Heading):
            tree.heading, tree.headed = item.text, set()
        elif item.kind == "keep":
            tree.merge(tree.top, syntax.parse(syntax.whole(item.written), item.place.file))
        else:
            tree.put(_pattern_for(item, known, description), _values(item))
    return str(syntax.lay_out(tree.top))


def _values(item: Statement) -> Found:
    return {
        "key": item.key, "command": item.command, "string": item.command, "section": item.section, "where": item.where,
        "title": item.title, "platform": item.platform,
    }  # fmt: skip


def _pattern_for(item: Statement, known: Iterable[Pattern], description: Description) -> Pattern:
    """The first pattern that can say all of a statement."""
    default = description.file.default_section
    for wanted in (("where", "platform", "title"), ("where", "platform")):
        for pattern in known:
            form = pattern.form
            if form.means != item.kind or form.read or ("string" in pattern.variables) != item.is_string:
                continue
            if form.section and form.section != (item.section or default):
                continue
            values = _values(item)
            if any(values[name] and name not in pattern.variables for name in wanted):
                continue
            return pattern
    raise InputError(f"{description.name} has no form for this in {item.section}: {item.key}", "", item.place)


@dataclass(slots=True)
class _Tree:
    """A file that is being put together: what begins alike stands in one group, and each group has a heading once."""

    top: Node
    heading: str = ""
    headed: set[int] = field(default_factory=set)
    _groups: dict[tuple[int, tuple[str, ...]], list[Member]] = field(default_factory=dict)

    def put(self, pattern: Pattern, values: Found) -> None:
        """Add what a pattern says with these values."""
        group = self.top
        for depth, step in enumerate(pattern.path[:-1]):
            head = _filled(step, values, pattern.path[depth + 1])
            group = _open(self._known(group, head) or self._around(group, head))
        self._add(group, _filled(pattern.record, values, None), self.heading)

    def begin(self, group: Node, other: Node) -> None:
        """Add a piece of which all groups may get more members."""
        for member in other.members():
            self._around(group, member)
            self.begin_inside(member)

    def begin_inside(self, member: Member) -> None:
        """Have the groups in a member that was added get more members."""
        own = group_of(member)
        for one in own.members():
            if group_of(one).kind != "text":
                self._groups.setdefault((id(own), _signature(one)), []).append(one)
                self.begin_inside(one)

    def merge(self, group: Node, other: Node) -> None:
        """Add a piece that was kept; what is around it becomes one with what begins alike."""
        for member in other.members():
            own = group_of(member)
            inner = [one for one in own.members() if group_of(one).kind != "text"]
            same = self._known(group, member) if own.kind != "text" else None
            # A name stands once in its group; of lists and elements, those with one group in them are around it.
            if same is None and own.kind != "text" and (isinstance(member, Field) or len(inner) == 1):
                same = self._around(group, _head_of(member))
            if same is None:
                self._add(group, member, self.heading)
                continue
            fields = [] if own.name else own.fields
            items = own.items if own.kind != "list" else [one for one in own.items if one.kind != "text"]
            self.merge(_open(same), Node(own.kind, fields=fields, items=items))

    def _known(self, group: Node, member: Member) -> Member | None:
        """The group that begins like this one; its attributes are joined with those that it has."""
        wanted = _attributes(member)
        for one in self._groups.get((id(group), _signature(member)), ()):
            has = _attributes(one)
            if all(has.get(name, value) == value for name, value in wanted.items()):
                group_of(one).fields.extend(
                    each for each in group_of(member).fields if each.name in wanted and each.name not in has
                )
                return one
        return None

    def _around(self, group: Node, member: Member) -> Member:
        """Add a group that may get more members."""
        self._groups.setdefault((id(group), _signature(member)), []).append(member)
        return self._add(group, member)

    def _add(self, group: Node, member: Member, heading: str = "") -> Member:
        if heading and id(group) not in self.headed:
            member.comment = heading
            self.headed.add(id(group))
        if isinstance(member, Field):
            group.fields.append(member)
        else:
            group.items.append(member)
        return member


def _open(member: Member) -> Node:
    """The group of a member that gets more members: it is no longer as it stood in a file."""
    member.source = ""
    group = group_of(member)
    group.source = ""
    return group


def _signature(member: Member) -> tuple[str, ...]:
    """What tells a group from others at its place: its name and the words that it begins with."""
    group = group_of(member)
    words = []
    for one in group.items if group.kind == "list" else ():
        if one.kind != "text":
            break
        words.append(one.text)
    return group.kind, member.name, *words


def _attributes(member: Member) -> dict[str, str]:
    """The attributes of an element; nothing for what is none."""
    group = group_of(member)
    return {one.name: one.value.text for one in group.fields} if group.name else {}


def _filled(member: Member, values: Found, child: Member | None) -> Member:
    """A copy of a pattern's member with its variables filled in, without `child`; optional fields without a value go."""

    def fill(text: str) -> str:
        return _VARIABLE.sub(lambda match: values[match[1]], text)

    if isinstance(member, Field):
        inner = _filled(member.value, values, child)
        assert isinstance(inner, Node)
        return Field(fill(member.name), inner)
    fields = []
    for one in member.fields:
        if one is child or (_is_optional(one) and not any(values[name] for name in _variables_in(one))):
            continue
        filled = _filled(one, values, child)
        assert isinstance(filled, Field)
        fields.append(filled)
    items: list[Node] = []
    for each in member.items:
        if each is not child:
            copy = _filled(each, values, child)
            assert isinstance(copy, Node)
            items.append(copy)
    return Node(member.kind, member.name, fill(member.text), member.is_quoted, fields, items)


# --- what every syntax needs


@lru_cache(maxsize=64)
def patterns(forms: tuple[Line, ...], syntax: Syntax) -> tuple[Pattern, ...]:
    """The patterns of a description, in a `Syntax`. Raises InputError for one that is not right."""
    return tuple(Pattern(form, syntax) for form in forms)


class Scanner:
    """The tokens of a text one by one, with errors that have their place."""

    def __init__(self, text: str, file: str, token: re.Pattern[str]) -> None:
        self.text = text
        self.file = file
        self._token = token
        self.end = 0
        """Where the token that was taken last ends."""
        self._ahead: tuple[str, str, int] | None = None
        self._tokens = self._scan()
        self._starts = [0, *(match.end() for match in re.finditer("\n", text))]

    def _scan(self) -> Iterator[tuple[str, str, int]]:
        position = 0
        while position < len(self.text):
            match = self._token.match(self.text, position)
            if match is None:
                rest = self.text[position]
                if rest in "\"'":
                    self.fail("this text is never closed", position, 1, "Add the closing quote on the same line.")
                self.fail(f"unexpected character: {rest!r}", position, 1)
            position = match.end()
            kind = str(match.lastgroup)
            if kind not in ("space", "comment"):
                yield kind, match[0], match.start()
        yield "end", "", len(self.text)

    def peek(self) -> tuple[str, str, int]:
        """The next token: its kind, its text and its offset."""
        if self._ahead is None:
            self._ahead = next(self._tokens)
        return self._ahead

    def take(self) -> tuple[str, str, int]:
        """The next token, which is behind us then."""
        token = self.peek()
        if token[0] != "end":
            self._ahead = None
        self.end = token[2] + len(token[1])
        return token

    def place(self, position: int) -> Place:
        """An offset as a place."""
        line = bisect_right(self._starts, position)
        return Place(self.file, line, position - self._starts[line - 1] + 1)

    def fail(self, what: str, position: int, width: int, advice: str = "") -> NoReturn:
        """Raise InputError at an offset."""
        place = self.place(position)
        end = self.text.find("\n", position)
        line = self.text[self._starts[place.line - 1] : end if end >= 0 else None]
        raise InputError(what, advice, place, line, max(1, width))
