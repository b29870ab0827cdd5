"""Patterns: small files with variables in them, which say where in a tree the bindings are."""

import re
from collections.abc import Iterator

from ombix.core.errors import InputError
from ombix.editors.file_description import FileForm
from ombix.editors.formats.trees.nodes import Field, Found, Kind, Member, Node, TreeSyntax, group_of
from ombix.editors.split_modifiers import NO, SWITCHES, YES

VARIABLE = re.compile(
    r"\{(key|modifiers|ctrl|alt|shift|meta|first|number|command|string|section|other|file|where|title|platform|else)\}"
)
_SIDE_BY_SIDE = re.compile(rf"{VARIABLE.pattern}{VARIABLE.pattern}")
_UNREAD = "else"
"""Stands for any text, which means nothing here."""
_OPTIONAL = frozenset({"where", "title", "platform", "modifiers", _UNREAD, *SWITCHES})
_AROUND = frozenset({"section", "other", "first", "number", _UNREAD})
_LISTS = ("{key}", "{modifiers}")


class Pattern:
    """A pattern that was read: the members from the outermost to the record, and what each variable is for."""

    def __init__(self, form: FileForm, syntax: TreeSyntax) -> None:
        self.form = form
        if form.means == "open":
            raise InputError("only lines open blocks", "Draw what is around a binding as a part of its pattern.")
        top = syntax.parse(form.pattern, "the pattern")
        self.kind: Kind = top.kind
        self.variables = set(VARIABLE.findall(form.pattern))
        if _SIDE_BY_SIDE.search(form.pattern):
            raise InputError(
                f"in the pattern {form.pattern!r} two variables stand side by side", "Part them by a sign."
            )
        wanted = self.variables - _AROUND if form.means in ("bind", "remove") else self.variables
        if not wanted:
            raise InputError(f"the pattern {form.pattern!r} has no variable", "Write {key}.")
        self.path = _down(top, wanted)
        self.top = top
        self.takes_all = _takes_all_inside(top)
        while self.path and (inner := _apart(group_of(self.path[-1]), wanted)) is not None:
            wanted &= variables_in(inner)
            self.path += [inner, *_down(group_of(inner), wanted)]
        self.words = frozenset(_words_in(top))
        self.optional = frozenset(id(one) for one in _fields_in(top) if is_optional(one))
        self.around = frozenset(
            name
            for step, child in zip(self.path, self.path[1:], strict=False)
            for name in variables_in(step) - variables_in(child)
        )
        self.has_said = any(id(one) in self.optional for step in self.path[:-1] for one in group_of(step).fields)
        if not self.path:
            raise InputError(
                f"the pattern {form.pattern!r} has no group around its variables", "Put them into brackets."
            )

    @property
    def record(self) -> Member:
        """The member that is one statement."""
        return self.path[-1]


def _fields_in(node: Node) -> Iterator[Field]:
    """All fields of a tree."""
    for member in node.members():
        if isinstance(member, Field):
            yield member
        yield from _fields_in(group_of(member))


def _words_in(node: Node) -> Iterator[str]:
    """The variables that are words of lists by themselves: without a value there would be no word."""
    for member in node.members():
        inner = group_of(member)
        if (
            member is inner
            and node.kind == "list"
            and not inner.is_quoted
            and (match := VARIABLE.fullmatch(inner.text))
        ):
            yield match[1]
        yield from _words_in(inner)


def _down(group: Node, wanted: set[str]) -> list[Member]:
    """The members around all of these variables, from the outermost to the innermost that is more than one text in a group."""
    path: list[Member] = []
    while group.kind != "text":
        inner = next((member for member in group.members() if wanted <= variables_in(member)), None)
        if inner is None:
            break
        is_field = isinstance(inner, Field) and not VARIABLE.search(inner.name)
        if group_of(inner).kind == "text" and (is_field or isinstance(inner, Node)):
            break  # a text in a group: the group is the record
        path.append(inner)
        group = group_of(inner)
    return path


def _apart(group: Node, wanted: set[str]) -> Member | None:
    """The group with the keys inside of a group whose other variables all stand beside it, in texts of fields and in the words
    before it: of such groups there may be several, each a statement of its own."""
    for index, one in enumerate(group.members()):
        inside = variables_in(one) & wanted
        if group_of(one).kind != "text" and "key" in inside:
            number = index - len(group.fields)
            beside: list[Member] = [each for each in group.fields if each is not one]
            beside += [item for item in group.items[: max(number, 0)] if item.kind == "text"]
            known = {name for each in beside if group_of(each).kind == "text" for name in variables_in(each)}
            is_last = not group.items or number + 1 == len(group.items)
            return one if is_last and inside < wanted and wanted - inside <= known else None
    return None


def variables_in(member: Member | Node) -> set[str]:
    """The variables that stand somewhere in a member of a pattern."""
    found: set[str] = set()
    if isinstance(member, Field):
        found.update(VARIABLE.findall(member.name) if "{" in member.name else ())
        member = member.value
    for text in (member.text, member.name):
        found.update(VARIABLE.findall(text) if "{" in text else ())
    for one in member.members():
        found |= variables_in(one)
    return found


def _parts(text: str) -> tuple[list[str], list[str]]:
    """The literal parts of a text and the variables between them."""
    split = VARIABLE.split(text)
    return split[::2], split[1::2]


def match_text(pattern: str, text: str, found: Found) -> Found | None:
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
        is_wrong = not (value.isascii() and value.isdigit()) if name == "number" else value.lower() not in YES | NO
        if is_wrong and (name == "number" or name in SWITCHES):
            return None
        if name != _UNREAD and new.setdefault(name, value) != value:
            return None
        if not is_last and (not value or value.split() != [value]):
            return None
        position = stop + (0 if is_last else len(literals[index + 1]))
    return new


def match(pattern: Member, member: Member, found: Found) -> Found | None:
    """The variables where all of a member is as the pattern says, or None."""
    if isinstance(pattern, Field):
        if not isinstance(member, Field):
            return None
        inner = match_text(pattern.name, member.name, found)
        return None if inner is None else match(pattern.value, member.value, inner)
    if isinstance(member, Field):
        return None
    if pattern.kind == "text":
        if member.kind == "text":
            is_alike = pattern.is_quoted == member.is_quoted or is_switch(pattern)
            return match_text(pattern.text, member.text, found) if is_alike else None
        if member.source and not pattern.is_quoted:  # a list where a word may stand
            return match_text(pattern.text, member.source, found)
        return None
    if takes_all(pattern) and member.kind == "list":
        is_empty = not member.items and pattern.items[0].text == "{modifiers}"
        return match_text(pattern.items[0].text, member.text, found) if member.text or is_empty else None
    if pattern.kind != member.kind or pattern.name != member.name or len(pattern.items) != len(member.items):
        return None
    missing = list(pattern.fields)
    for one in member.fields:
        for other in missing:
            inner = match(other, one, found)
            if inner is not None:
                found = inner
                missing.remove(other)
                break
        else:
            return None
    if any(not is_optional(one) for one in missing):
        return None
    for mine, theirs in zip(pattern.items, member.items, strict=True):
        inner = match(mine, theirs, found)
        if inner is None:
            return None
        found = inner
    return found


def takes_all(pattern: Node) -> bool:
    """Whether a list of a pattern stands for any number of keys, or of modifiers: `["{key}"]`."""
    return pattern.kind == "list" and [(item.text, item.is_quoted) for item in pattern.items] in (
        [(name, True)] for name in _LISTS
    )


def is_switch(pattern: Node) -> bool:
    """Whether a text of a pattern stands for a yes or no, which is in no quotes."""
    return pattern.text[1:-1] in SWITCHES and pattern.text == f"{{{pattern.text[1:-1]}}}"


def _takes_all_inside(pattern: Node) -> bool:
    is_keys = takes_all(pattern) and pattern.items[0].text == "{key}"
    return is_keys or any(_takes_all_inside(group_of(member)) for member in pattern.members())


def is_optional(member: Field) -> bool:
    """Whether a field of a pattern may be missing in a file."""
    return bool(inside := variables_in(member)) and inside <= _OPTIONAL


def match_head(pattern: Member, child: Member, member: Member, found: Found) -> tuple[Found, list[int]] | None:
    """The variables where a member begins as the pattern says, whatever else it has; and which of its own members said so.

    `child` is the member of the pattern that is looked for inside.
    """
    if isinstance(pattern, Field):
        if not isinstance(member, Field):
            return None
        inner = match_text(pattern.name, member.name, found)
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
            inner = match(one, other, found)
            if inner is not None:
                found = inner
                used.append(id(other))
                break
        else:
            if not is_optional(one):
                return None
    for index, mine in enumerate(own.items):
        if mine is child:
            break
        if index >= len(group.items) or (inner := match(mine, group.items[index], found)) is None:
            return None
        found = inner
        used.append(id(group.items[index]))
    return found, used


def patterns(forms: tuple[FileForm, ...], syntax: TreeSyntax) -> tuple[Pattern, ...]:
    """The patterns of a description, in a syntax. Raises InputError for one that is not right."""
    return tuple(Pattern(form, syntax) for form in forms)
