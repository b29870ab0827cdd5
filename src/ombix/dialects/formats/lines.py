"""Line by line: each line is a form of words from the description, a comment, or something to be kept."""

import re
from collections.abc import Iterable, Iterator
from functools import lru_cache

from ombix.core.errors import InputError, Place
from ombix.dialects.description import Description, FileForm
from ombix.dialects.formats import FormFault, Heading, Statement

_VARIABLE = re.compile(r"\{(key|command|keys|string|section|file|rest)\}")
_SHAPE = {"keys": r"(?P<keys>.+)", "file": r"(?P<file>.+)", "string": r"(?P<string>.*)", "rest": r"(?P<rest>.+)"}
_LONG = frozenset(_SHAPE)
"""Variables that may have blanks in them."""


def read(text: str, file: str, description: Description) -> Iterator[Statement]:
    """The statements of a file. A line that no form fits is kept, with a note when its first word is unknown."""
    quote = _quote_of(description)
    has_rows = description.keys.between.isspace() and description.keys.longest > 1
    forms = [(_pattern(line.pattern, quote, has_rows), line) for line in description.file.forms]
    known = {line.pattern.split()[0] for line in description.file.forms} | set(description.file.settings)
    # Where keys stand as bytes, a carriage return is a key, unless all lines end with one.
    lines = text.lstrip("\ufeff").split("\n")
    keeps_returns = bool(quote) and not all(line.endswith("\r") for line in lines if line)
    for number, raw in enumerate(lines, 1):
        whole = raw if keeps_returns or (quote and raw.endswith(f"{quote}\r")) else raw.rstrip("\r")
        for start, part in _parts(whole, description.file.separator, quote):
            # A blank behind a quoting sign belongs to the statement.
            line = (part if quote else part.rstrip(" \t")).lstrip(" \t" + description.file.leading)
            if not line or line.startswith(description.file.comment):
                continue
            place = Place(file, number, start + len(part) - len(part.lstrip(" \t")) + 1)
            yield _statement(line, place, forms, known, description)


def _statement(
    line: str, place: Place, forms: list[tuple[re.Pattern[str], FileForm]], known: set[str], description: Description
) -> Statement:
    for pattern, form in forms:
        match = pattern.fullmatch(line)
        if match is None:
            continue
        found = match.groupdict()
        if form.means == "keep":
            return Statement(place, line, "keep", note=form.note)
        if form.means == "include":
            return Statement(place, line, "include", found["file"].strip(), note=form.note)
        command = found.get("string") or found.get("command") or _unquoted(found.get("keys") or "", description)
        return Statement(
            place, line, "bind" if form.means == "bind" else "remove", found["key"], command,
            found.get("section") or form.section, found.get("string") is not None,
        )  # fmt: skip
    remapping = description.commands.remapping
    if line in description.file.preamble or (" ".join(line.split()) in remapping):
        return Statement(place, line, "structure", note="a setting that the file begins with")
    word = next(iter(line.split(None, 1)), "")
    if word in description.file.settings:
        return Statement(place, line, "keep", note="a setting, not a key binding")
    note = f"not a complete {word}" if word in known else f"{description.name} has no command {word}"
    return Statement(place, line, "keep", note=note, is_fault=True)


def _parts(line: str, separator: str, quote: str) -> Iterator[tuple[int, str]]:
    """The statements of a line with their offsets; a separator behind the quoting sign separates nothing."""
    start = position = 0
    while separator and position < len(line):
        if quote and line[position] == quote:
            position += 2
            continue
        if line[position] == separator:
            yield start, line[start:position]
            start = position + 1
        position += 1
    yield start, line[start:]


def write(items: Iterable[Statement | Heading], description: Description) -> str:
    """A file that says `items`."""
    lines: list[str] = []
    items = list(items)
    if any(isinstance(item, Statement) and item.kind != "keep" for item in items):
        lines += description.file.preamble
    for item in items:
        if isinstance(item, Heading):
            if lines:
                lines.append("")
            lines.append(f"{description.file.comment} {item.text}")
        else:
            lines.append(_written(item, description))
    return "\n".join(lines) + "\n" if lines else ""


def _written(item: Statement, description: Description) -> str:
    if item.kind == "keep":
        return item.written
    for form in description.file.forms:
        in_section = not form.section or form.section == item.section
        if form.means == item.kind and in_section and ("{string}" in form.pattern) == item.is_string:
            parts = {
                "key": item.key, "command": item.command, "string": item.command, "section": item.section,
                "keys": _quoted(item.command, description),
            }  # fmt: skip
            return _VARIABLE.sub(lambda match, parts=parts: parts[match[1]], form.pattern)  # type: ignore[misc]
    raise ValueError(f"{description.name} has no form for {item}")


@lru_cache(maxsize=64)
def _pattern(form: str, quote: str, has_rows: bool = False) -> re.Pattern[str]:
    """The expression for a form. It goes through a line once: a word ends at the first blank, or where what follows it in
    the form begins, and is never tried shorter. With `has_rows` keys are one or several words."""
    pieces = []
    position = 0
    for match in _VARIABLE.finditer(form):
        pieces.append(_literal(form[position : match.start()]))
        position = match.end()
        after = _VARIABLE.split(form[position:])[0]
        name = match[1]
        if name in _LONG:
            pieces.append(_SHAPE[name])
            continue
        one = f"(?:{re.escape(quote)}.|[^ \\t])" if quote and name == "key" else "[^ \\t]"
        ends = f"(?!{re.escape(after[0])})" if after and not after[0].isspace() else ""
        word = f"{one}(?:{ends}{one})*+"
        more = f"(?:[ \\t]+{ends}{word})*?" if has_rows and name == "key" else ""
        pieces.append(f"(?P<{name}>{word}{more})")
    pieces.append(_literal(form[position:]))
    return re.compile("".join(pieces))


def check_form(form: str) -> str:
    """What is wrong with a form: what could be read in more ways than one; nothing where it is right."""
    if re.search(r"\}\{", form):
        return "two variables stand side by side"
    if len([name for name in _VARIABLE.findall(form) if name in _LONG]) > 1:
        return "two variables may have blanks in them"
    return ""


def _literal(text: str) -> str:
    return "".join(r"[ \t]+" if part.isspace() else re.escape(part) for part in re.split(r"(\s+)", text) if part)


def _quote_of(description: Description) -> str:
    return description.keys.bytes.quote if description.keys.bytes is not None else ""


def _unquoted(text: str, description: Description) -> str:
    quote = _quote_of(description)
    return re.sub(f"{re.escape(quote)}([\\s\\S])", r"\1", text) if quote else text


def _quoted(text: str, description: Description) -> str:
    quote = _quote_of(description)
    if not quote:
        return text
    if quote in text:  # it would quote what follows, the end of the line as well
        raise InputError(f"{description.name} cannot have {text} in a map: it has the sign in it that quotes others")
    special = (description.file.separator,)
    quoted = "".join(quote + char if char in special or not char.isprintable() else char for char in text)
    return quote + quoted if quoted[:1] == " " else quoted  # a blank at the start would be passed over


def check(description: Description) -> Iterator[FormFault]:
    """What is wrong with a description's table for such files."""
    for index, form in enumerate(description.file.forms):
        if wrong := check_form(form.pattern):
            keys = ("file", "forms", str(index), "pattern")
            yield FormFault(keys, f"in the form {form.pattern!r} {wrong}", "Part them by a sign or a word.")
