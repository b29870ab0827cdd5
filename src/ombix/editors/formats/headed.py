"""Lines under headings: each section begins with a heading, each line binds keys to a command that stands before them.

A line that begins with a blank is a comment; keys end at a tab or at two blanks, and what follows is a comment, too. Lines
that begin with the heading's sign are directives: a section's name, or one of those in the description (`inherit`,
`delete`, `define`, `include`).
"""

import re
from collections.abc import Iterable, Iterator

from ombix.core.errors import InputError, Place
from ombix.editors.description import Description
from ombix.editors.file_description import Headed
from ombix.editors.formats import FormFault, Heading, Statement

_RANGE = re.compile(r"(.*?)(\S+) TO (\S+)$")
_GOES_ON = re.compile(r'(?:"(?:[^"\\]|\\.)*"|[^\s"])+,\s*')
_MAX_RANGE = 64


def read(text: str, file: str, description: Description) -> Iterator[Statement]:
    """The statements of a file. Raises InputError where a text in quotes or a block is never closed."""
    headed = _headed(description)
    section = ""
    block_end = ""
    in_other = False
    for number, line in _lines(text):
        place = Place(file, number, 1)
        if block_end:
            yield Statement(place, line, "keep", note="a block, not a key binding")
            block_end = "" if line.startswith(block_end) else block_end
            continue
        if not line.strip() or line[0] in " \t":
            continue
        if line[0] in headed.blocks:
            block_end = headed.blocks[line[0]]
            yield Statement(place, line, "keep", note="a block, not a key binding")
        elif line[0] == headed.sign:
            word, _, tail = line[1:].replace("\t", " ", 1).partition(" ")
            if line.rstrip() in headed.preamble:
                yield Statement(place, line, "structure", note="another file, which is read first")
            elif word in headed.directives:
                in_other = headed.directives[word] == "menu"
                yield _directive(headed.directives[word], tail.strip(), section, place, line)
            else:
                section = word
                in_other = False
                known = section in description.sections or section in description.tables
                note = "a heading" if known else f"{description.name} has no section {section}"
                yield Statement(place, line, "structure" if known else "keep", note=note, is_fault=not known)
        elif line[0] in headed.settings or (not section and line[0] in "-*|"):
            yield Statement(place, line, "keep", note="a setting, not a key binding")
        elif in_other:
            yield Statement(place, line, "keep", note="an entry of a menu, not a key binding")
        elif not section:
            yield Statement(place, line, "keep", note="it stands in no section", is_fault=True)
        else:
            yield from _bindings(line, section, place, headed)


def write(items: Iterable[Statement | Heading], description: Description) -> str:
    """A file that says `items`; what is kept comes first, then a section after the other."""
    headed = _headed(description)
    kept: list[str] = []
    sections: dict[str, list[str]] = {}
    heading = ""
    shown: dict[str, str] = {}
    for item in items:
        if isinstance(item, Heading):
            heading = item.text
        elif item.kind == "keep":
            kept.append(item.written)
        else:
            lines = sections.setdefault(item.section, [])
            if heading and shown.get(item.section) != heading:
                lines += ["", f" {heading}"]
                shown[item.section] = heading
            lines += (
                [f"{headed.sign}{_delete_word(headed)} {key}" for key in headed.taken_as.get(item.key, [item.key])]
                if item.kind == "remove"
                else [f"{item.command}\t{item.key}"]
            )
    # Behind another file that is read, settings may be for one kind of files only.
    settings = [one for one in kept if one.startswith(tuple(headed.settings or " "))]
    lines = [*settings, *headed.preamble, *(one for one in kept if one not in settings)]
    order = list(description.sections)
    for name in sorted(sections, key=lambda one: order.index(one) if one in order else len(order)):
        # What a section takes over from another one has been said by the packaged file that the preamble includes.
        lines += ["", f"{headed.sign}{name}", *sections[name]]
    return "\n".join(lines) + "\n" if lines else ""


def _lines(text: str) -> Iterator[tuple[int, str]]:
    """Lines with their numbers; a command whose last sign is a comma goes on in the next line."""
    first, before = 0, ""
    for number, raw in enumerate(text.lstrip("\ufeff").split("\n"), 1):
        line = raw.rstrip("\r")
        if before:
            line = before + line.strip()
        elif not line or line[0] in " \t":
            yield number, line
            continue
        first = first or number
        if _GOES_ON.fullmatch(line.split(None, 2)[-1] if line[0] == ":" else line):
            before = line.rstrip()
            continue
        yield first, line
        first, before = 0, ""
    if before:
        yield first, before


def _bindings(line: str, section: str, place: Place, headed: Headed) -> Iterator[Statement]:
    end = _command_end(line, place)
    command, rest = line[:end], line[end:].lstrip(" \t")
    key = re.split(r"\t|  ", rest, maxsplit=1)[0].rstrip()
    if not key:
        yield Statement(place, line, "keep", note="no keys stand behind the command", is_fault=True)
        return
    written = f"{command}\t{key}"
    match = _RANGE.match(key)
    if match is None:
        yield Statement(place, written, "bind", key, command, section)
        return
    first, last = match[2], match[3]
    if len(first) != 1 or len(last) != 1 or not 0 <= ord(last) - ord(first) < _MAX_RANGE:
        yield Statement(place, written, "keep", note="a range of characters, which type themselves")
        return
    for code in range(ord(first), ord(last) + 1):
        yield Statement(place, written, "bind", match[1] + chr(code), command, section)


def _command_end(line: str, place: Place) -> int:
    position, quoted = 0, False
    while position < len(line):
        char = line[position]
        if quoted and char == "\\":
            position += 1
        elif char == '"':
            quoted = not quoted
        elif char in " \t" and not quoted:
            return position
        position += 1
    if quoted:
        raise InputError("this text is never closed", "Add the closing quote on the same line.", place, line)
    return len(line)


def _directive(means: str, tail: str, section: str, place: Place, line: str) -> Statement:
    if means == "delete":
        return Statement(place, line, "remove", re.split(r"\t|  ", tail.strip(), maxsplit=1)[0], "", section)
    if means == "define":
        name, _, command = tail.strip().partition(" ")
        return Statement(place, line, "define", name, command.strip())
    if means == "inherit":
        return Statement(place, line, "inherit", _word(tail.strip()), "", section, note="takes over another's keys")
    if means == "include":
        return Statement(place, line, "include", _word(tail.strip()))
    notes = {"menu": "a menu"}
    return Statement(place, line, "keep", note=notes.get(means, "not a key binding"))


def _word(text: str) -> str:
    return text.split("\t", 1)[0]


def _delete_word(headed: Headed) -> str:
    return next(word for word, means in headed.directives.items() if means == "delete")


def _headed(description: Description) -> Headed:
    assert description.file.headed is not None
    return description.file.headed


def check(description: Description) -> Iterator[FormFault]:
    """What is wrong with a description's table for such files."""
    if description.file.headed is None:
        yield FormFault(("file",), "the table file.headed is missing", "See: docs/describing.md")
