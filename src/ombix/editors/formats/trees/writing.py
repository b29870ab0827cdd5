"""Files that are trees, written by patterns: what begins alike stands in one group."""

from collections.abc import Iterable

from msgspec import Struct

from ombix.core.errors import InputError
from ombix.editors.description import Description
from ombix.editors.formats import Heading, Statement
from ombix.editors.formats.trees.nodes import Field, Found, Member, Node, TreeSyntax, group_of
from ombix.editors.formats.trees.patterns import VARIABLE, Pattern, is_switch, patterns, takes_all, variables_in
from ombix.editors.formats.trees.reading import head_of
from ombix.editors.split_modifiers import PARTING, taken_apart

_SAID = ("where", "platform", "first", "modifiers")
"""What a pattern has to have a variable for, if it is to be said."""


def write(items: Iterable[Statement | Heading], description: Description, syntax: TreeSyntax) -> str:
    """A file that says `items`, each group of its own kind with one comment."""
    known = patterns(tuple(description.file.forms), syntax)
    tree = _Tree(Node(known[0].kind if known else "map"))
    items = list(items)
    if any(isinstance(item, Statement) and item.kind != "keep" for item in items):
        for piece in description.file.preamble:
            tree.begin(tree.top, syntax.parse(piece, "the preamble"))
    kept = {id(item): syntax.parse(syntax.whole(item.written), item.place.file)
            for item in items if isinstance(item, Statement) and item.kind == "keep"}  # fmt: skip
    for known_piece in kept.values():
        tree.reserve(known_piece)
    for item in items:
        if isinstance(item, Heading):
            tree.heading, tree.headed = item.text, set()
        elif item.kind == "keep":
            tree.merge(tree.top, kept[id(item)])
        else:
            values = _values(item, known, description)
            tree.put(_pattern_for(item, values, known, description), values)
    return str(syntax.lay_out(tree.top))


def _values(item: Statement, known: Iterable[Pattern], description: Description) -> Found:
    variables = set[str]().union(*(one.variables for one in known if one.form.means == item.kind))
    return taken_apart(item.key, variables, description.keys) | {
        "command": item.command, "string": item.command, "section": item.section, "where": item.where, "title": item.title,
        "platform": item.platform, "else": "",
    }  # fmt: skip


def _pattern_for(
    item: Statement, values: Found, known: Iterable[Pattern], description: Description
) -> Pattern:  # fmt: skip
    """The first pattern that can say all of a statement."""
    default = description.file.default_section
    for wanted in ((*_SAID, "title"), _SAID):
        for pattern in known:
            form = pattern.form
            if (
                form.means != item.kind
                or form.read
                or form.negates
                or ("string" in pattern.variables) != item.is_string
            ):
                continue
            if form.section and form.section != (item.section or default):
                continue
            if "first" in pattern.variables and not values["first"]:
                continue
            if "where" in pattern.words and not values["where"]:
                continue
            if PARTING in values["key"] and not pattern.takes_all:
                continue
            if any(values[name] and name not in pattern.variables for name in wanted):
                continue
            return pattern
    raise InputError(f"{description.name} has no form for this in {item.section}: {item.key}", "", item.place)


class _Tree(Struct):
    """A file that is being put together: what begins alike stands in one group, and each group has a heading once."""

    top: Node
    heading: str = ""
    headed: set[int] = set()
    groups: dict[tuple[int, tuple[str, ...]], list[Member]] = {}
    numbers: dict[int, int] = {}
    reserved: set[str] = set()
    keys: dict[int, list[str]] = {}
    """The keys in each group with a condition, by its identity."""
    last: dict[tuple[object, ...], Node] = {}
    """The group that a pattern was put into last, by what stood around it."""

    def put(self, pattern: Pattern, values: Found) -> None:
        """Add what a pattern says with these values."""
        around = (id(pattern), *(values.get(name, "") for name in sorted(pattern.around)))
        group = self.last.get(around, self.top)
        for depth, step in enumerate(pattern.path[:-1] if group is self.top else ()):
            head = _filled(step, values, pattern.path[depth + 1], pattern.optional)
            said = frozenset(one.name for one in group_of(step).fields if id(one) in pattern.optional)
            group = _open(self._known(group, head, said, values["key"]) or self._around(group, head))
            if said:
                self.keys.setdefault(id(group), []).append(values["key"])
        if not pattern.has_said:
            self.last[around] = group
        if "number" in pattern.variables:
            values = {**values, "number": self._next(pattern, values)}
        self._add(group, _filled(pattern.record, values, None, pattern.optional), self.heading)

    def _next(self, pattern: Pattern, values: Found) -> str:
        """The next number with which the name of a record is not one of those that are kept."""
        while True:
            self.numbers[id(pattern)] = number = self.numbers.get(id(pattern), 0) + 1
            if (
                _filled(pattern.record, {**values, "number": str(number)}, None, pattern.optional).name
                not in self.reserved
            ):
                return str(number)

    def reserve(self, piece: Node) -> None:
        """Give no name of a piece to what is numbered."""
        for member in piece.members():
            self.reserved.add(member.name)
            self.reserve(group_of(member))

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
                self.groups.setdefault((id(own), _signature(one)), []).append(one)
                self.begin_inside(one)

    def merge(self, group: Node, other: Node) -> None:
        """Add a piece that was kept; what is around it becomes one with what begins alike."""
        for member in other.members():
            own = group_of(member)
            inner = [member for member in own.members() if group_of(member).kind != "text"]
            same = self._known(group, member) if own.kind != "text" else None
            # A name stands once in its group; of lists and elements, those with one group in them are around it.
            if same is None and own.kind != "text" and (isinstance(member, Field) or len(inner) == 1):
                same = self._around(group, head_of(member))
            if same is None:
                self._add(group, member, self.heading)
                continue
            fields = [] if own.name else own.fields
            items = own.items if own.kind != "list" else [item for item in own.items if item.kind != "text"]
            self.merge(_open(same), Node(own.kind, fields=fields, items=items))

    def _known(self, group: Node, member: Member, said: frozenset[str] = frozenset(), key: str = "") -> Member | None:
        """The group that begins like this one; its attributes are joined with those that it has, but for what `said` names:
        that is there in both or in none, and no group behind it has such a `key`, as the order decides between them."""
        wanted = _attributes(member)
        known = self.groups.get((id(group), _signature(member)), [])
        for index, one in enumerate(known):
            has = _attributes(one)
            is_element = bool(group_of(one).name)
            is_alike = all(has.get(name, value if is_element else None) == value for name, value in wanted.items())
            if not is_alike or any(has.get(name) != wanted.get(name) for name in said):
                continue
            if said and any(
                each.startswith(key) or key.startswith(each)
                for later in known[index + 1 :]
                for each in self.keys.get(id(group_of(later)), ())
            ):
                continue
            group_of(one).fields.extend(
                each for each in group_of(member).fields if each.name in wanted and each.name not in has
            )
            return one
        return None

    def _around(self, group: Node, member: Member) -> Member:
        """Add a group that may get more members."""
        self.groups.setdefault((id(group), _signature(member)), []).append(member)
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
    for item in group.items if group.kind == "list" else ():
        if item.kind != "text":
            break
        words.append(item.text)
    return group.kind, member.name, *words


def _attributes(member: Member) -> dict[str, str]:
    """The attributes of an element, or the texts in one of several groups with names; nothing for what has a name itself."""
    group = group_of(member)
    is_one_of_several = member is group and group.kind == "map"
    return (
        {one.name: one.value.text for one in group.fields if one.value.kind == "text"}
        if group.name or is_one_of_several
        else {}
    )


def _filled(member: Member, values: Found, child: Member | None, optional: frozenset[int]) -> Member:
    """A copy of a pattern's member with its variables filled in, without `child`; optional fields without a value go."""

    def fill(text: str) -> str:
        return VARIABLE.sub(lambda match: values[match[1]], text) if "{" in text else text

    if isinstance(member, Field):
        inner = _filled(member.value, values, child, optional)
        assert isinstance(inner, Node)
        return Field(fill(member.name), inner)
    fields = []
    for one in member.fields:
        if one is child or (id(one) in optional and not any(values[name] for name in variables_in(one))):
            continue
        filled = _filled(one, values, child, optional)
        assert isinstance(filled, Field)
        fields.append(filled)
    items: list[Node] = []
    if takes_all(member):
        (variable,) = variables_in(member)
        return Node("list", items=[Node("text", text=one) for one in values[variable].split(PARTING) if one])
    for item in member.items:
        if item is not child:
            copy = _filled(item, values, child, optional)
            assert isinstance(copy, Node)
            items.append(copy)
    text = fill(member.text)
    is_bare = is_switch(member) and (text in ("true", "false") or text.isdigit())
    return Node(member.kind, member.name, text, member.is_quoted and not is_bare, fields, items)
