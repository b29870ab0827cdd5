"""Line by line: each line is a form of words from the description, a comment, or something to be kept."""

import re
from collections.abc import Iterable, Iterator
from functools import lru_cache

from ombix.core.errors import Place
from ombix.dialects.description import Description
from ombix.dialects.formats import Heading, Statement

_VARIABLE = re.compile(r"\{(key|command|string|section|rest)\}")
_SHAPE = {"key": r"(?P<key>\S+)", "command": r"(?P<command>\S+)", "string": r"(?P<string>.*)",
          "section": r"(?P<section>\S+)", "rest": r"(?P<rest>.+)"}  # fmt: skip


def read(text: str, file: str, description: Description) -> Iterator[Statement]:
    """The statements of a file. A line that no form fits is kept, with a note when its first word is unknown."""
    forms = [(_pattern(line.pattern), line) for line in description.file.lines]
    known = {line.pattern.split()[0] for line in description.file.lines} | set(description.file.settings)
    for number, raw in enumerate(text.lstrip("\ufeff").split("\n"), 1):
        line = raw.rstrip("\r").strip(" \t")
        if not line or line.startswith(description.file.comment):
            continue
        place = Place(file, number, len(raw) - len(raw.lstrip(" \t")) + 1)
        word = line.split(None, 1)[0]
        for pattern, form in forms:
            match = pattern.fullmatch(line)
            if match is None:
                continue
            found = match.groupdict()
            if form.means == "keep":
                yield Statement(place, line, "keep", note=form.note)
            else:
                yield Statement(
                    place, line, "bind" if form.means == "bind" else "remove", found["key"],
                    found.get("string") or found.get("command") or "", found.get("section") or "",
                    found.get("string") is not None,
                )  # fmt: skip
            break
        else:
            if word in description.file.settings:
                note = "a setting, not a key binding"
            elif word in known:
                note = f"not a complete {word}"
            else:
                note = f"{description.name} has no command {word}"
            yield Statement(place, line, "keep", note=note)


def write(items: Iterable[Statement | Heading], description: Description) -> str:
    """A file that says `items`."""
    lines: list[str] = []
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
    for form in description.file.lines:
        if form.means == item.kind and ("{string}" in form.pattern) == item.is_string:
            parts = {"key": item.key, "command": item.command, "string": item.command, "section": item.section}
            return _VARIABLE.sub(lambda match, parts=parts: parts[match[1]], form.pattern)  # type: ignore[misc]
    raise ValueError(f"{description.name} has no form for {item}")


@lru_cache(maxsize=64)
def _pattern(form: str) -> re.Pattern[str]:
    pieces = []
    position = 0
    for match in _VARIABLE.finditer(form):
        pieces += [_literal(form[position : match.start()]), _SHAPE[match[1]]]
        position = match.end()
    pieces.append(_literal(form[position:]))
    return re.compile("".join(pieces))


def _literal(text: str) -> str:
    return "".join(r"\s+" if part.isspace() else re.escape(part) for part in re.split(r"(\s+)", text) if part)
