"""Line by line: each line is a form of words from the description, a comment, or something to be kept. Lines may stand in blocks,
which a line opens and another one closes."""

import re
from collections.abc import Iterable, Iterator
from functools import lru_cache
from typing import NamedTuple

from msgspec.structs import replace

from ombix.core.errors import InputError, Place
from ombix.editors.description import Description
from ombix.editors.file_description import FileForm
from ombix.editors.formats import FormFault, Heading, Statement, said_where
from ombix.editors.split_modifiers import NO, SWITCHES, YES, put_together, taken_apart

_VARIABLE = re.compile(r"\{(key|modifiers|ctrl|alt|shift|meta|command|keys|string|section|file|rest|where|title)\}")
_SHAPE = {
    "keys": r"(?P<keys>.+)", "file": r"(?P<file>.+)", "string": r"(?P<string>.*)", "rest": r"(?P<rest>.+)",
    "where": r"(?P<where>.+)", "title": r"(?P<title>.*)",
}  # fmt: skip
_LONG = frozenset(_SHAPE)
"""Variables that may have blanks in them."""
_IN_QUOTES = frozenset({"where", "title"})
"""Those of them that end where the sign of quotes around them stands again."""
_QUOTES = "\"'`"
_PARTING = ",;"
_COLUMNS = ",;|\t"
"""Signs that part columns, so that what is in one ends there."""
_INDENT = "    "


class _Opened(NamedTuple):
    """A block that a line has opened: its form, its section ("": that around it), and the line itself."""

    form: FileForm
    section: str
    line: str
    place: Place


def read(text: str, file: str, description: Description) -> Iterator[Statement]:
    """The statements of a file. A line that no form fits is kept, with a note when its first word is unknown. Raises InputError
    where a block is never closed."""
    quote = _quote_of(description)
    has_rows = description.keys.between.isspace() and description.keys.longest > 1
    forms = [(expression_of(line.pattern, quote, has_rows), line) for line in description.file.forms]
    known = {next(iter(line.pattern.split()), "") for line in description.file.forms} | set(description.file.settings)
    # Where keys stand as bytes, a carriage return is a key, unless all lines end with one.
    lines = text.lstrip("\ufeff").split("\n")
    keeps_returns = bool(quote) and not all(line.endswith("\r") for line in lines if line)
    opened: list[_Opened] = []
    for number, raw in enumerate(lines, 1):
        whole = raw if keeps_returns or (quote and raw.endswith(f"{quote}\r")) else raw.rstrip("\r")
        for start, part in _parts(whole, description.file.separator, quote):
            # A blank behind a quoting sign belongs to the statement.
            line = (part if quote else part.rstrip(" \t")).lstrip(" \t" + description.file.leading)
            if not line or line.startswith(description.file.comment):
                continue
            place = Place(file, number, start + len(part) - len(part.lstrip(" \t")) + 1)
            bare = without_comment(line, description.file.comment) if description.file.trailing_comments else line
            if _closes(bare, opened):
                _close(opened)
            elif (block := _opened(bare, place, forms)) is not None:
                _open(opened, block)
            else:
                one = _statement(bare, place, forms, known, description)
                if one.is_fault and bare != line:  # the sign of comments may be a key
                    one = _statement(line, place, forms, known, description)
                yield _inside(opened, replace(one, written=line) if one.written != line else one)
    if unclosed := next((one for one in opened if one.form.end), None):
        raise InputError(
            f"the file ends before {unclosed.line} is closed", f"Add the line {unclosed.form.end}.", unclosed.place
        )


def without_comment(line: str, sign: str) -> str:
    """A line without the comment behind what it says: its sign, outside of quotes, has a blank before it, and a blank or nothing
    behind it."""
    quote = ""
    for match in re.finditer(rf"[{_QUOTES}]|(?<=[ \t]){re.escape(sign.strip())}(?![^ \t])", line):
        if quote or (match[0] in _QUOTES and line.find(match[0], match.end()) >= 0):
            quote = "" if match[0] == quote else quote or match[0]
        elif match[0] not in _QUOTES:
            return line[: match.start()].rstrip(" \t")
    return line


def _opened(line: str, place: Place, forms: list[tuple[re.Pattern[str], FileForm]]) -> _Opened | None:
    for pattern, form in forms:
        if form.means == "open" and (match := pattern.fullmatch(line)):
            return _Opened(form, match.groupdict().get("section") or form.section, line, place)
    return None


def _open(opened: list[_Opened], block: _Opened) -> None:
    """Open a block; one that is open up to the next such line ends there."""
    while not block.form.end and opened and not opened[-1].form.end:
        opened.pop()
    opened.append(block)


def _close(opened: list[_Opened]) -> None:
    """Close the innermost block that has an end, with what is open in it."""
    while not opened.pop().form.end:
        pass


def _closes(line: str, opened: list[_Opened]) -> bool:
    """Whether a line closes the innermost block that has an end; signs that part it from what follows may stand behind."""
    ends = [one.form.end for one in opened if one.form.end]
    return bool(ends) and line.rstrip(_PARTING) == ends[-1].rstrip(_PARTING)


def _inside(opened: list[_Opened], one: Statement) -> Statement:
    """A statement in the blocks around it."""
    if not opened:
        return one
    section = next((block.section for block in reversed(opened) if block.section), "")
    is_binding = one.kind in ("bind", "remove")
    whole = [block.line for block in opened]
    ends = [block.form.end for block in reversed(opened) if block.form.end]
    return replace(
        one, section=section if is_binding and section else one.section, whole="\n".join([*whole, one.written, *ends]),
    )  # fmt: skip


def _statement(
    line: str, place: Place, forms: list[tuple[re.Pattern[str], FileForm]], known: set[str], description: Description
) -> Statement:
    remapping = description.commands.remapping
    if line in description.file.preamble or (" ".join(line.split()) in remapping):
        return Statement(place, line, "structure", note="a setting that the file begins with")
    for pattern, form in forms:
        match = pattern.fullmatch(line) if form.means != "open" else None
        if match is None:
            continue
        found = match.groupdict()
        if form.means == "keep":
            return Statement(place, line, "keep", note=form.note)
        if form.means == "include":
            return Statement(place, line, "include", found["file"].strip(), note=form.note)
        command = found.get("string") or found.get("command") or _unquoted(found.get("keys") or "", description)
        return Statement(
            place, line, "bind" if form.means == "bind" else "remove", put_together(found, description.keys), command,
            found.get("section") or form.section, found.get("string") is not None,
            where=said_where(form, found.get("where") or "", description), title=(found.get("title") or "").strip(),
        )  # fmt: skip
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


class _Block:
    """Lines, and blocks below them by the lines that open and close them."""

    def __init__(self) -> None:
        self.lines: list[str] = []
        self.inner: dict[tuple[str, str], _Block] = {}
        self._heading = ""

    def at(self, path: Iterable[tuple[str, str]]) -> "_Block":
        """A block below this one."""
        found = self
        for one in path:
            found = found.inner.setdefault(one, _Block())
        return found

    def add(self, line: str, heading: str) -> None:
        """Add a line, with the comment before its group where that does not stand there yet."""
        if heading and heading != self._heading:
            self.lines += [""] if self.lines else []
            self.lines.append(heading)
            self._heading = heading
        self.lines.append(line)

    def laid_out(self, indent: str = "") -> Iterator[str]:
        """The lines of all of it."""
        yield from (f"{indent}{line}" if line else "" for line in self.lines)
        for index, ((opening, end), block) in enumerate(self.inner.items()):
            if index or self.lines:
                yield ""
            yield indent + opening
            yield from block.laid_out(f"{indent}{_INDENT}" if end else indent)
            if end:
                yield indent + end


def write(items: Iterable[Statement | Heading], description: Description) -> str:
    """A file that says `items`; what is in blocks stands in one for each section."""
    top = _Block()
    items = list(items)
    if any(isinstance(item, Statement) and item.kind != "keep" for item in items):
        top.lines += description.file.preamble
    heading = ""
    for item in items:
        if isinstance(item, Heading):
            heading = f"{description.file.comment} {item.text}"
        elif item.kind == "keep":
            for path, line in _kept(item.written, description):
                top.at(path).add(line, heading)
        else:
            path, line = _written(item, description)
            top.at(path).add(line, heading)
    lines = list(top.laid_out())
    return "\n".join(lines) + "\n" if lines else ""


def _written(item: Statement, description: Description) -> tuple[list[tuple[str, str]], str]:
    """The blocks around a statement, the outermost first, and its line. Raises InputError where no form can say it."""
    own = [form for form in description.file.forms if form.means == item.kind and not (form.read or form.negates)]
    keys = taken_apart(item.key, {name for form in own for name in _VARIABLE.findall(form.pattern)}, description.keys)
    able = [form for form in own if _can_say(form, item, keys["modifiers"])]
    if not able:
        raise InputError(f"{description.name} has no form for this: {item.key} {item.where}", "", item.place)
    form = next((one for one in able if bool(item.title) == ("{title}" in one.pattern)), able[0])
    parts = keys | {
        "command": item.command, "string": item.command, "section": item.section,
        "keys": _quoted(item.command, description), "where": item.where, "title": item.title,
    }  # fmt: skip
    if shut := _shut_in(form.pattern, parts):
        raise InputError(f"{description.name} cannot have {shut} in quotes", "", item.place)
    section = "" if form.section else item.section or description.file.default_section
    line = _filled(form.pattern, parts)
    if description.file.trailing_comments and without_comment(line, description.file.comment) != line:
        raise InputError(f"{description.name} would take a part of this for a comment: {line}", "", item.place)
    return _around(section, description), line


def _shut_in(pattern: str, parts: dict[str, str]) -> str:
    """What has the sign in it that ends the quotes around it; empty where nothing has."""
    around = re.finditer(rf"([{_QUOTES}]){_VARIABLE.pattern}\1", pattern)
    return next((parts[one[2]] for one in around if one[2] not in ("string", "keys") and one[1] in parts[one[2]]), "")


def _can_say(form: FileForm, item: Statement, modifiers: str) -> bool:
    is_apart = "{modifiers}" in form.pattern
    return (
        (is_apart if modifiers else not is_apart or re.search(r"\{modifiers\}\S", form.pattern) is not None)
        and (not form.section or form.section == item.section)
        and ("{string}" in form.pattern) == item.is_string
        and ("{where}" in form.pattern) == bool(item.where)
    )


def _around(section: str, description: Description) -> list[tuple[str, str]]:
    """The blocks of a section, or with none those around all bindings."""
    blocks = [form for form in description.file.forms if form.means == "open"]
    found = [(form.pattern, form.end) for form in blocks if not _has_section(form)]
    own = [form for form in blocks if section and form.section == section]
    own += [form for form in blocks if section and "{section}" in form.pattern]
    return [*found, *((_filled(form.pattern, {"section": section}), form.end) for form in own[:1])]


def _filled(pattern: str, parts: dict[str, str]) -> str:
    return _VARIABLE.sub(lambda match: parts[match[1]], pattern)


def _kept(text: str, description: Description) -> Iterator[tuple[list[tuple[str, str]], str]]:
    """The lines of a piece that was kept, with the blocks around each."""
    forms = [(expression_of(form.pattern, ""), form) for form in description.file.forms if form.means == "open"]
    opened: list[_Opened] = []
    for line in text.split("\n") if forms else [text]:
        if _closes(line, opened):
            _close(opened)
        elif (block := _opened(line, Place(""), forms)) is not None:
            _open(opened, block)
        else:
            yield [(one.line, one.form.end) for one in opened], line


@lru_cache(maxsize=64)
def expression_of(form: str, quote: str, has_rows: bool = False) -> re.Pattern[str]:
    """The expression for a form. It goes through a line once: a word ends at the first blank, or where what follows it in
    the form begins, and is never tried shorter. With `has_rows` keys are one or several words."""
    pieces = []
    position = 0
    for match in _VARIABLE.finditer(form):
        before, after = form[position : match.start()], _VARIABLE.split(form[match.end() :])[0]
        pieces.append(_literal(before))
        position = match.end()
        name = match[1]
        is_quoted = bool(after) and after[0] in _QUOTES and before.endswith(after[0])
        stop = after.strip(" ")[:1]
        if name in _IN_QUOTES and stop and stop in _COLUMNS:
            pieces.append(f"(?P<{name}>[^{stop}]{'*' if name == 'title' else '+'})")
        elif name in SWITCHES:
            pieces.append(f"(?P<{name}>(?i:{'|'.join(sorted(YES | NO))})?)")
        elif name == "modifiers":
            pieces.append(
                rf"(?P<modifiers>[^\t{re.escape(after[0])}]*)" if after.strip() else r"(?P<modifiers>[^ \t]+)"
            )
        elif name in _LONG and not (name in _IN_QUOTES and is_quoted):
            pieces.append(_SHAPE[name])
        elif is_quoted:
            pieces.append(f"(?P<{name}>[^{after[0]}]{'*' if name == 'title' else '+'})")
        elif after.startswith("\t"):
            pieces.append(f"(?P<{name}>[^\t]*[^ \t])")
        elif not after and before.endswith("\t"):
            pieces.append(f"(?P<{name}>.+)")
        else:
            one = f"(?:{re.escape(quote)}.|[^ \\t])" if quote and name == "key" else "[^ \\t]"
            # A sign with a blank behind it ends a word only there, so that a key may be the sign.
            behind = r"(?:[ \t]|$)" if after[1:2].isspace() else ""
            ends = f"(?!{re.escape(after[0])}{behind})" if after and not after[0].isspace() else ""
            word = f"{one}(?:{ends}{one})*+"
            more = f"(?:[ \\t]+{ends}{word})*?" if has_rows and name == "key" else ""
            pieces.append(f"(?P<{name}>{word}{more})")
    rest = form[position:]
    is_parted = rest.endswith(",")  # the last one of a list needs no sign
    pieces.append(_literal(rest.removesuffix(",")) + (",?" if is_parted else ""))
    expression = "".join(pieces)
    for title in (_literal(blank) + _SHAPE["title"] for blank in "\t "):
        if expression.endswith(title):  # an empty column at the end of a line is not there
            expression = f"{expression.removesuffix(title)}(?:{title})?"
            break
    return re.compile(expression)


def check_form(form: str) -> str:
    """What is wrong with a form: what could be read in more ways than one; nothing where it is right."""
    if re.search(r"\}\{", form):
        return "two variables stand side by side"
    unquoted = re.sub(r"([\"'`])\{(?:where|title)\}\1|\{(?:where|title)\} ?[,;|\t]", "", form)
    if len([name for name in _VARIABLE.findall(unquoted) if name in _LONG]) > 1:
        return "two variables may have blanks in them"
    return ""


def says_twice(text: str, description: Description) -> bool:
    """Whether a block that is around all bindings stands twice in a file: the editor may know only one of them."""
    frames = {form.pattern: 0 for form in description.file.forms if form.means == "open" and not _has_section(form)}
    for line in text.split("\n") if frames else ():
        if line.strip() in frames:
            frames[line.strip()] += 1
    return any(count > 1 for count in frames.values())


def _has_section(form: FileForm) -> bool:
    return bool(form.section) or "{section}" in form.pattern


def _wrong_with(form: FileForm) -> str:
    """What is wrong with a form that opens a block."""
    if form.means != "open":
        return "has an end, and opens nothing" if form.end else ""
    others = [name for name in _VARIABLE.findall(form.pattern) if name != "section"]
    return f"opens a block, and has {others[0]} in it" if others else ""


def _literal(text: str) -> str:
    parts = [part for part in re.split(r"(\s+)", text) if part]
    return "".join(_blank(part) if part.isspace() else re.escape(part) for part in parts)


def _blank(text: str) -> str:
    """Blanks of a form: at least one, of which one is a tab where the form has one."""
    return r" *\t[ \t]*" if "\t" in text else r"[ \t]+"


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
        keys = ("file", "forms", str(index), "pattern")
        if wrong := check_form(form.pattern):
            yield FormFault(keys, f"in the form {form.pattern!r} {wrong}", "Part them by a sign or a word.")
        elif wrong := _wrong_with(form):
            yield FormFault(keys, f"the form {form.pattern!r} {wrong}", "See: docs/describing.md")
