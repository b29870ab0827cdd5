"""Commands of words: each line or part before a semicolon is a command, its words in quotes where they need it.

Quotes are '…' and "…", doubled inside, and %{…} with any pair of brackets, nested, or %|…| with another sign. What is said
for one language only stands in a block of its own: see `Words.block` of the description.
"""

import functools
import re
from bisect import bisect_right
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from ombix.core.errors import InputError, Place
from ombix.editors.description import Description
from ombix.editors.file_description import Words
from ombix.editors.formats import FormFault, Heading, Statement

_BRACKETS = {"{": "}", "[": "]", "(": ")", "<": ">"}
_VARIABLE = re.compile(r"\{(\w+)\}")
_EXPANSION = re.compile(r"%(sh|opt|val|reg|arg|file|exp)[{\[(<|]")
_MAX_DEPTH = 50


@dataclass(frozen=True, slots=True)
class _Word:
    text: str
    start: int
    end: int
    is_plain: bool


def read(text: str, file: str, description: Description) -> Iterator[Statement]:
    """The statements of a file. Raises InputError where a quote is never closed."""
    yield from _read(text.lstrip("\ufeff"), text.lstrip("\ufeff"), 0, file, description, "", 0)


def _read(
    text: str, whole: str, offset: int, file: str, description: Description, language: str, depth: int
) -> Iterator[Statement]:
    words_row = _words_of(description)
    for words in _commands(text, whole, offset, file):
        start, end = words[0].start, words[-1].end
        written = text[start:end]
        place = _place(whole, offset + start, file)
        plain, switches = _without_switches([word.text for word in words], words_row)
        block = _match(words_row.block, plain) if words_row.block and depth < _MAX_DEPTH else None
        if block is not None and not language and (inner := _inner(words, block["block"])) is not None:
            values = re.sub(r"^\(\?:|^\(|\)$", "", block["language"]).split("|")
            found = list(
                _read(block["block"], whole, offset + inner, file, description, " or ".join(values), depth + 1)
            )
            if any(one.kind != "keep" for one in found) and all(re.fullmatch(r"[\w-]+", value) for value in values):
                yield from found
                continue
        for form in words_row.forms:
            parts = _match(form.pattern, plain)
            if parts is None:
                continue
            scope = parts.get("scope", "")
            if form.means == "keep":
                yield Statement(place, written, "keep", note=form.note)
            elif form.means == "include" and not language and not _EXPANSION.search(written):
                yield Statement(place, written, "include", parts["file"], note=form.note)
            elif form.means == "include" or _EXPANSION.search(written):
                yield Statement(place, written, "keep", note="an expansion, whose value is not known here")
            elif (scope == "global") == bool(language):
                note = (
                    "inside a block for one language it would hold for all"
                    if language
                    else "it holds for one window or file only"
                )
                yield Statement(place, written, "keep", note=note)
            else:
                where = _language_condition(language, words_row) if language else ""
                kind: Literal["bind", "remove"] = "bind" if form.means == "bind" else "remove"
                yield Statement(
                    place, written, kind, parts["key"], parts.get("command", ""), parts["section"], where=where,
                    title=switches.get("title", ""),
                )  # fmt: skip
            break
        else:
            yield Statement(place, written, "keep", note="a command, not a key binding")


def write(items: Iterable[Statement | Heading], description: Description) -> str:
    """A file that says `items`; what is for one language only comes last, a block for each."""
    words_row = _words_of(description)
    lines: list[str] = list(description.file.preamble)
    blocks: dict[str, list[str]] = {}
    heading = ""
    for item in items:
        if isinstance(item, Heading):
            heading = item.text
            continue
        home = blocks.setdefault(item.where, []) if item.where else lines
        if heading and not item.where:
            home += ["", f"{description.file.comment} {heading}"] if home else [f"{description.file.comment} {heading}"]
            heading = ""
        home.append(item.written if item.kind == "keep" else _written(item, words_row, bool(item.where)))
    for where, inner in blocks.items():
        values = re.findall(r"[\w-]+", where.split(" is ", 1)[-1].split(" in ", 1)[-1])
        pattern = values[0] if len(values) == 1 else f"(?:{'|'.join(values)})"
        head = words_row.block.replace("{language}", pattern).replace("{block}", "%{")
        lines += ["", head, *(f"    {line}" for line in inner), "}"]
    return "\n".join(lines) + "\n" if lines else ""


def _written(item: Statement, words_row: Words, is_inner: bool) -> str:
    form = next(form for form in words_row.forms if form.means == item.kind)
    values = {
        "scope": "window" if is_inner else "global", "section": item.section, "key": _quoted(item.key),
        "command": _quoted(item.command),
    }  # fmt: skip
    pattern = " ".join(word for word in form.pattern.split() if not word.endswith("?"))
    line = _VARIABLE.sub(lambda match: values[match[1]], pattern)
    if item.title:
        switch = next(word for word, means in words_row.switches.items() if means == "title")
        line += f" {switch} {_quoted(item.title)}"
    return line


def _quoted(word: str) -> str:
    return (
        word if re.fullmatch(r"[\w<>,.:/*+=-]+", word) and word[0] not in "-#" else "'" + word.replace("'", "''") + "'"
    )


def _commands(text: str, whole: str, offset: int, file: str) -> Iterator[list[_Word]]:
    words: list[_Word] = []
    position = 0
    while position < len(text):
        char = text[position]
        if char in "\n;":
            if words:
                yield words
            words = []
            position += 1
        elif char in " \t\r":
            position += 1
        elif char == "\\" and text[position + 1 : position + 2] == "\n":
            position += 2
        elif char == "#" and not words:
            end = text.find("\n", position)
            position = len(text) if end < 0 else end
        else:
            word = _word(text, position, whole, offset, file)
            words.append(word)
            position = word.end
    if words:
        yield words


def _word(text: str, start: int, whole: str, offset: int, file: str) -> _Word:
    char = text[start]
    quote = re.compile(r"%(\w*)([^\w\s])").match(text, start) if char == "%" else None
    if char in "'\"" or quote:
        opening = quote[2] if quote else char
        begin = quote.end() if quote else start + 1
        end = _closing(text, begin, opening, quote is not None)
        if end < 0:
            place = _place(whole, offset + start, file)
            line = whole.split("\n")[place.line - 1]
            raise InputError(
                "this text is never closed", f"Add the closing {_BRACKETS.get(opening, opening)}.", place, line
            )
        inner = text[begin:end]
        return _Word(inner if quote else inner.replace(char * 2, char), start, end + 1, False)
    end = start
    found = ""
    while end < len(text) and text[end] not in " \t\r\n;":
        if text[end] == "\\" and end + 1 < len(text) and text[end + 1] in " \t;\\'\"%":
            end += 1
        found += text[end]
        end += 1
    return _Word(found, start, end, True)


def _closing(text: str, begin: int, opening: str, is_percent: bool) -> int:
    if is_percent and opening in _BRACKETS:
        depth, position = 1, begin
        while position < len(text):
            if text[position] == opening:
                depth += 1
            elif text[position] == _BRACKETS[opening]:
                depth -= 1
                if not depth:
                    return position
            position += 1
        return -1
    position = begin
    while (position := text.find(opening, position)) >= 0:
        if text[position + 1 : position + 2] != opening:
            return position
        position += 2
    return -1


def _inner(words: list[_Word], block: str) -> int | None:
    """Where the text of a block stands, where it stands there to the letter."""
    last = words[-1]
    return last.end - 1 - len(block) if last.text == block and not last.is_plain else None


def _without_switches(words: list[str], words_row: Words) -> tuple[list[str], dict[str, str]]:
    plain: list[str] = []
    found: dict[str, str] = {}
    position = 0
    while position < len(words):
        means = words_row.switches.get(words[position])
        if means is None:
            plain.append(words[position])
        elif means == "flag":
            pass
        else:
            position += 1
            found[means] = words[position] if position < len(words) else ""
        position += 1
    return plain, found


def _match(pattern: str, words: list[str]) -> dict[str, str] | None:
    """The values of a pattern's variables; a variable may be a part of a word, the last word may be left out by `?`."""
    parts = _pattern(pattern)
    if len(words) > len(parts) or len(words) < len([part for part in parts if not part[1]]):
        return None
    found: dict[str, str] = {}
    for (expression, _optional), word in zip(parts, words, strict=False):
        match = expression.fullmatch(word)
        if match is None:
            return None
        found.update(match.groupdict())
    return found


@lru_cache(maxsize=32)
def _pattern(text: str) -> list[tuple[re.Pattern[str], bool]]:
    parts = []
    for word in text.split():
        optional = word.endswith("?")
        pieces, position = [], 0
        bare = word.rstrip("?")
        for match in _VARIABLE.finditer(bare):
            pieces += [re.escape(bare[position : match.start()]), f"(?P<{match[1]}>[\\s\\S]*)"]
            position = match.end()
        pieces.append(re.escape(bare[position:]))
        expression = "".join(pieces).replace(r"\|", "|")
        parts.append((re.compile(expression), optional))
    return parts


def _language_condition(language: str, words_row: Words) -> str:
    values = language.split(" or ")
    return (
        f"{words_row.language} is {values[0]}" if len(values) == 1 else f"{words_row.language} in ({', '.join(values)})"
    )


def _place(whole: str, position: int, file: str) -> Place:
    starts = _line_starts(whole)
    line = bisect_right(starts, position)
    return Place(file, line, position - starts[line - 1] + 1)


@functools.lru_cache(maxsize=2)
def _line_starts(whole: str) -> list[int]:
    """Where the lines of a text begin; made once for a file that is being read."""
    return [0, *(match.end() for match in re.finditer("\n", whole))]


def _words_of(description: Description) -> Words:
    assert description.file.words is not None
    return description.file.words


def check(description: Description) -> Iterator[FormFault]:
    """What is wrong with a description's table for such files."""
    if description.file.words is None:
        yield FormFault(("file",), "the table file.words is missing", "See: docs/describing.md")
        return
    for index, form in enumerate(description.file.words.forms):
        if form.means in ("open", "inherit"):
            keys = ("file", "words", "forms", str(index), "means")
            yield FormFault(keys, f"{form.means} is not read in such files", "See: docs/describing.md")
