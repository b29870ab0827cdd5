"""A ported file put into the file that an editor reads: into a marked block of it, or over the whole of it.

What stands outside of the block stays to the byte. The result is read back: in it every ported key has to do what it does in the
ported file alone, and every other key what it did before; where a block cannot bring that about, the whole file is written.
"""

import re
from collections.abc import Callable, Iterator, Mapping
from typing import Literal, NamedTuple

from ombix.core.catalogue.actions import Catalogue
from ombix.core.conditions import Space
from ombix.core.errors import InputError, OmbixError, Place
from ombix.core.keymap.bindings import Keymap, Layer
from ombix.core.keymap.comparing import differences
from ombix.core.keymap.deciding import DecisionTable, decide_all
from ombix.core.keymap.outcomes import Nothing
from ombix.core.keys.notation import Trigger, write
from ombix.core.keys.platforms import Platform
from ombix.editors.assigning import gathered
from ombix.editors.dialect import Dialect
from ombix.editors.file_forms import form_of_files
from ombix.editors.formats import Statement

Way = Literal["block", "whole"]
ReadText = Callable[[str], Layer]
"""Reads a text as the file of the editor. Raises InputError."""

_SIGNS = {"ini": "#", "toml": "#", "yaml": "#", "lists": ";", "json": "//", "records": "#"}
"""What begins a comment in the forms of files that have a sign of their own."""
_BEGIN, _END = "ombix: begin", "ombix: end"
_SAID = "(what stands between these two lines is written by ombix apply)"


class Installed(NamedTuple):
    """A file as it is to be: how the ported text stands in it, and the text. `lost` are the keys of the file before that no
    longer do what they did, `gone` what stood in it, is not understood, and no longer stands there."""

    way: Way
    text: str
    lost: tuple[Trigger, ...] = ()
    gone: tuple[str, ...] = ()


class Deciding(NamedTuple):
    """What decides between the keys of two files: the editor, on a platform, over all states."""

    dialect: Dialect
    platform: Platform
    space: Space
    catalogue: Catalogue

    def tables(self, layer: Layer | None) -> dict[Trigger, DecisionTable]:
        """The complete decisions of the editor with a layer of its own."""
        layers = [self.dialect.default_layer, *([layer] if layer is not None else [])]
        bindings = Keymap(layers).in_force(self.platform).bindings
        return decide_all(bindings, self.space, self.catalogue, self.dialect.policy)

    def differ(
        self, keys: Trigger, one: Mapping[Trigger, DecisionTable], other: Mapping[Trigger, DecisionTable]
    ) -> bool:
        """Whether two of them decide otherwise for keys."""
        return bool(differences(keys, one.get(keys), other.get(keys), self.space, self.space.possible))


def installed(ported: str, existing: str | None, deciding: Deciding, read: ReadText) -> Installed:
    """How a ported text is put into a file (None: there is none). Raises InputError where the marks of a block are damaged."""
    dialect = deciding.dialect
    outside = without_block(dialect, existing) if existing is not None else ""
    expected = deciding.tables(read(ported))
    try:
        before = deciding.tables(read(outside) if outside.strip() else None)
    except OmbixError:
        before = deciding.tables(None)
    # A file that gives each command its keys has those of the ported one for its commands, whatever stood there before.
    assigned = {binding.written for binding in read(ported).bindings} if dialect.description.file.assigns else set()
    assigned |= _on_ported_keys(read, ported, outside) if assigned and outside.strip() else set()
    replaced = {
        keys for tables in (before, expected) for keys, table in tables.items()
        if any(row.binding.written in assigned for row in table.rows)
    }  # fmt: skip
    plain = deciding.tables(None)
    freed = _freed(dialect, read, ported, outside) if assigned and outside.strip() else ""
    for text in _with_block(dialect, ported + freed, outside):
        try:
            now = deciding.tables(read(text))
            if _says_twice(dialect, text):
                continue
        except OmbixError:
            continue
        if _is_as_expected(expected, before, now, deciding, replaced):
            gone = [
                keys for keys in replaced if deciding.differ(keys, plain, before) and deciding.differ(keys, before, now)
            ]
            return Installed("block", text, tuple(sorted(gone, key=write)))
    lost = [
        keys for keys in dict.fromkeys([*before, *plain])
        if deciding.differ(keys, plain, before) and deciding.differ(keys, before, expected)
    ]  # fmt: skip
    if not outside.strip():
        return Installed("whole", ported)
    return Installed("whole", ported, tuple(sorted(lost, key=write)), _gone(ported, outside, read))


def _gone(ported: str, outside: str, read: ReadText) -> tuple[str, ...]:
    """What of a file is not understood, and does not stand in the ported one; of one that cannot be read, all lines."""
    try:
        before = [one.text for one in read(outside).kept]
    except OmbixError:
        before = [line.strip() for line in outside.splitlines() if line.strip()]
    known = {one.text for one in read(ported).kept}
    return tuple(dict.fromkeys(one for one in before if one not in known))


def _says_twice(dialect: Dialect, text: str) -> bool:
    """Whether a file has something twice that stands once in it."""
    found = getattr(form_of_files(dialect.description.file.format), "says_twice", None)
    return found is not None and bool(found(text, dialect.description))


def _freed(dialect: Dialect, read: ReadText, ported: str, outside: str) -> str:
    """In a file that gives each command its keys: statements by which commands that the rest of the file puts on ported keys have
    their default ones again, as far as these are free."""
    section = dialect.description.file.default_section
    taken = _ported_keys(read, ported)
    statements: list[Statement] = []
    for command in sorted(_on_ported_keys(read, ported, outside)):
        defaults = dialect.default_keys.get((section, command), [])
        any_taken = next(iter(sorted(taken)))
        for key, trigger in defaults or [(str(dialect.spelling.write(any_taken)), any_taken)]:
            kind: Literal["bind", "remove"] = "remove" if trigger in taken else "bind"
            statements.append(Statement(Place(""), command, kind, key, command, section))
    if not statements:
        return ""
    form = form_of_files(dialect.description.file.format)
    return "\n" + form.write(list(gathered(dialect, statements)), dialect.description)


def _ported_keys(read: ReadText, ported: str) -> set[Trigger]:
    return {binding.trigger for binding in read(ported).bindings if not isinstance(binding.outcome, Nothing)}


def _on_ported_keys(read: ReadText, ported: str, outside: str) -> set[str]:
    """The commands that the rest of a file puts on keys which the ported one gives to others."""
    taken, named = _ported_keys(read, ported), {binding.written for binding in read(ported).bindings}
    try:
        return {
            binding.written for binding in read(outside).bindings if binding.written and binding.trigger in taken
        } - named
    except OmbixError:
        return set()


def _is_as_expected(
    expected: dict[Trigger, DecisionTable], before: dict[Trigger, DecisionTable], now: dict[Trigger, DecisionTable],
    deciding: Deciding,
    replaced: set[Trigger],
) -> bool:  # fmt: skip
    """Whether the keys that the ported file changes do what they do there, and all others what they did before, but for those
    that it replaces: keys of commands to which it gives others."""
    plain = deciding.tables(None)
    for keys in dict.fromkeys([*expected, *before, *now]):
        is_ported = deciding.differ(keys, plain, expected)
        if deciding.differ(keys, expected if is_ported else before, now):
            is_replaced = not is_ported and keys in replaced
            if not is_replaced or (keys in expected and deciding.differ(keys, expected, now)):
                return False
    return True


def sign_of(dialect: Dialect) -> str:
    """What begins a comment in the editor's file; empty where a line cannot be one."""
    file = dialect.description.file
    if file.format == "xml":
        return ""
    return _SIGNS.get(file.format, file.comment)


def block_in(dialect: Dialect, text: str) -> str | None:
    """What stands in the block of a file, with its marks; None where it has none. Raises InputError where one mark is missing."""
    found = _block(dialect, text)
    return found[0] if found is not None else None


def as_file(dialect: Dialect, block: str) -> str:
    """A block as a file of its own that can be read."""
    if dialect.description.file.format != "json" or not block.strip():
        return block
    return "{\n" + re.sub(r"(?m)^    ,\n", "", block, count=1) + "}\n"


def without_block(dialect: Dialect, text: str) -> str:
    """What stands in a file outside of the block. Raises InputError where one mark is missing."""
    found = _block(dialect, text)
    return text if found is None else text[: found[1]] + text[found[2] :]


def _block(dialect: Dialect, text: str) -> tuple[str, int, int] | None:
    sign = sign_of(dialect)
    if not sign:
        return None
    begins = list(re.finditer(rf"(?m)^[ \t]*{re.escape(sign)} ?{_BEGIN}[^\n]*\n", text))
    ends = list(re.finditer(rf"(?m)^[ \t]*{re.escape(sign)} ?{_END}[^\n]*(\n|\Z)", text))
    if not begins and not ends:
        return None
    if len(begins) != 1 or len(ends) != 1 or ends[0].start() < begins[0].end():
        known = (begins or ends)[0]
        line = text.count("\n", 0, known.start()) + 1
        raise InputError(
            "the marks of the block that ombix apply writes are damaged",
            f"There has to be one line with “{_BEGIN}” and one with “{_END}” behind it; or take both out.", Place("", line, 1),
        )  # fmt: skip
    start, end = begins[0].start(), ends[0].end()
    return text[start:end], start, end


def _with_block(dialect: Dialect, ported: str, outside: str) -> Iterator[str]:
    """The file with the ported text in a block, at each place where it can stand, the likeliest first."""
    sign = sign_of(dialect)
    if not sign:
        return
    begin, end = f"{sign} {_BEGIN} {_SAID}\n", f"{sign} {_END}\n"
    if dialect.description.file.format == "json":
        yield from _in_object(ported, outside, begin, end)
        return
    own = _without_preamble(dialect, ported, outside)
    inner = own if own.endswith("\n") else f"{own}\n"
    if not outside:
        yield f"{begin}{inner}{end}"
        return
    block = f"{begin}{inner}{end}"
    ended = outside if outside.endswith("\n") else f"{outside}\n"
    # Where the first of two wins, the block comes first.
    places = [f"{ended}{block}", f"{block}{outside}"]
    yield from reversed(places) if dialect.policy.wins == "first" else places


def _without_preamble(dialect: Dialect, ported: str, outside: str) -> str:
    """The ported text without the first lines that each file has, where the rest of the file has them already."""
    file = dialect.description.file
    preamble = [*file.preamble, *(file.headed.preamble if file.headed is not None else [])]
    known = set(outside.split("\n"))
    lines = ported.split("\n")
    while lines and lines[0] in preamble and lines[0] in known:
        del lines[0]
    return "\n".join(lines)


def _in_object(ported: str, outside: str, begin: str, end: str) -> Iterator[str]:
    """A block at the end of an object; a comma before it stands in the block, so that nothing outside changes."""
    inner = ported.strip().removeprefix("{").removesuffix("}").strip("\n")
    if not outside.strip():
        yield f"{{\n    {begin}{inner}\n    {end}}}\n"
        return
    close = outside.rfind("}")
    if close < 0:
        return
    head, tail = outside[:close], outside[close:]
    lead = head if head.endswith("\n") else f"{head}\n"
    for comma in ("    ,\n", ""):
        yield f"{lead}    {begin}{comma}{inner}\n    {end}{tail}"
