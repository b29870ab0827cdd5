"""Edited texts whose lines that were not changed are what they were, to the byte."""

import re
from collections import Counter
from collections.abc import Sequence
from difflib import SequenceMatcher
from typing import Any

import tomli

from ombix.core.text_changes import alike
from ombix.core.toml import Document

_LINE = re.compile(r"[^\n]*\n|[^\n]+\Z")
_COMMENT = re.compile(r'"""(?:[^\\]|\\.)*?"""|\'\'\'.*?\'\'\'|"(?:[^"\\\n]|\\.)*"|\'[^\'\n]*\'|#\s*([^\n]*)', re.DOTALL)
_MOST_COMPARED = 3000
"""Lines that are compared each with each, where several places of a file were changed."""


def with_lines_of(text: str, original: str) -> str:
    """`text` with every line that stands in `original` as it stands there, with its line end; a line in place of another has
    that one's, and all others that which most lines of the original have; a last line without an end stays so."""
    old, new = _LINE.findall(original), _LINE.findall(text)
    if not old:
        return "".join(new)
    end = Counter(line[len(_content(line)) :] for line in old if line.endswith("\n")).most_common(1)
    usual = end[0][0] if end else "\n"
    old_contents, contents = list(map(_content, old)), list(map(_content, new))
    result: list[str | None] = [None] * len(new)
    ends: dict[int, str] = {}
    old_end = new_end = 0
    for old_at, new_at, length in sorted(_alike(old_contents, contents)):
        result[new_at : new_at + length] = old[old_at : old_at + length]
        for at in range(min(old_at - old_end, new_at - new_end)):
            ends[new_end + at] = old[old_end + at][len(old_contents[old_end + at]) :]
        old_end, new_end = old_at + length, new_at + length
    last = len(new) - 1
    for index, content in enumerate(contents):
        line = result[index]
        if not new[index].endswith("\n"):  # the last one, left open
            result[index] = content
        elif line is None or (index < last and not line.endswith("\n")):
            result[index] = content + (ends.get(index) or usual)
    return "".join(line for line in result if line is not None)


def _content(line: str) -> str:
    return line.removesuffix("\n").removesuffix("\r")


def _alike(old: list[str], new: list[str]) -> list[tuple[int, int, int]]:
    """Runs of lines that both have, in order: where they begin in each, and how many they are."""
    start, behind = alike(old, new)
    found = [(0, 0, start), (len(old) - behind, len(new) - behind, behind)]
    middle_old, middle_new = old[start : len(old) - behind], new[start : len(new) - behind]
    if middle_old and middle_new and len(middle_old) + len(middle_new) <= _MOST_COMPARED:
        blocks = SequenceMatcher(None, middle_old, middle_new, autojunk=False).get_matching_blocks()
        found += [(start + block.a, start + block.b, block.size) for block in blocks]
    return found


def comments_in(value: str) -> list[str]:
    """The comments inside a value that goes over several lines."""
    return [match[1].strip() for match in _COMMENT.finditer(value) if match[1]] if "\n" in value else []


def without_entry(text: str, path: tuple[str, ...]) -> str | None:
    """The text of a TOML file without the lines of an entry; None where these have something else in them, too."""
    if not path:
        return None
    place = Document(text, "").place(*path)
    lines = text.split("\n")
    cut = "\n".join([*lines[: place.line - 1], *lines[place.end_line :]])
    cut = cut.removesuffix("\r")  # of the line before, where the last one was cut that had no end
    try:
        before, after = tomli.loads(text.replace("\r\n", "\n")), tomli.loads(cut.replace("\r\n", "\n"))
    except tomli.TOMLDecodeError:
        return None
    *parents, name = path
    for table in (before, after):
        _take_out(table, parents, name)
    return cut if _filled(before) == _filled(after) and place.line else None


def _take_out(table: dict[str, Any], parents: Sequence[str], name: str) -> None:
    for key in parents:
        table = table.get(key, {})
    table.pop(name, None)


def _filled(table: dict[str, Any]) -> dict[str, Any]:
    """A table without the tables in it that are empty."""
    found = {key: _filled(value) if isinstance(value, dict) else value for key, value in table.items()}
    return {key: value for key, value in found.items() if value != {}}


def with_blank_lines(text: str, original: str) -> str:
    """A blank line before and behind each table that was not there."""
    known = {line for line in original.splitlines() if line.startswith("[")}
    lines: list[str] = []
    is_new = False
    for line in text.split("\n"):
        is_head = line.startswith("[") and line.rstrip("\r").endswith("]")
        if is_head and (is_new or line.rstrip("\r") not in known) and lines and lines[-1].strip():
            lines.append("")
        is_new = line.rstrip("\r") not in known if is_head else is_new
        lines.append(line)
    return "\n".join(lines)


_TAKEN_HEAD = re.compile(r"\[(bind|only)\.[^\]]+\]|\[unbind\]")


def without_empty_end(text: str, original: str) -> str:
    """The text without the head of a table at its end that nothing stands under any more, and the blank line before it."""
    lines, known = text.rstrip("\r\n").split("\n"), original.rstrip("\r\n").split("\n")
    last = lines[-1].rstrip("\r")
    if not _TAKEN_HEAD.fullmatch(last) or known[-1].rstrip("\r") == last:
        return text
    del lines[-1]
    if lines and not lines[-1].strip():
        del lines[-1]
    return "".join(f"{line}\n" for line in lines)
