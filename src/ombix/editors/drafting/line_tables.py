"""A sample that is a table with a line of names above its columns, as programs that make tables write them."""

import re
from collections import Counter
from collections.abc import Sequence
from typing import NamedTuple

from msgspec.structs import replace

from ombix.editors.drafting.modifier_columns import ModifiersApart, joined, modifiers_apart, put_together, signs_of
from ombix.editors.drafting.sample_shape import Columns, Shape, ShapeForm, ShownBinding, columns_of, is_nothing

_SIGNS = (",", "\t", ";", "|")
_KEYS = frozenset(
    ["key", "keys", "shortcut", "shortcuts", "binding", "keybinding", "chord", "chords", "press", "hotkey", "code"]
)
_COMMANDS = frozenset(["command", "commands", "action", "function", "does", "do", "run", "runs", "operation", "id"])
_RULE = re.compile(r"[|:\s-]+")
"""A line below the names that parts them from the rest."""


class SampleTable(NamedTuple):
    """The forms of the lines of a table, the number of each line with what it says, what is not understood, and the lines above
    it."""

    forms: list[ShapeForm]
    rows: list[tuple[int, ShownBinding]]
    others: list[str]
    heads: list[str]


def table_of(lines: Sequence[str], known: frozenset[str]) -> SampleTable | None:
    """The table that lines are; None where they are none."""
    if len(lines) < 2 or (sign := _sign(lines[0])) is None:
        return None
    heads = [lines[0], *([lines[1]] if _RULE.fullmatch(lines[1]) else [])]
    names = [_text(cell).lower() for cell in _cells(lines[0], sign)]
    cells = {at: _cells(line, sign) for at, line in enumerate(lines) if at >= len(heads)}
    whole = {at: row for at, row in cells.items() if len(row) == len(names)}
    if len(set(names) - {""}) < len([name for name in names if name]) or len(whole) < 2:
        return None
    rows = [dict(zip(names, map(_text, row), strict=True)) for row in whole.values()]
    apart = modifiers_apart(rows, names)
    said = put_together(rows, apart)
    found = columns_of(names, [[row.get(name, "") for name in names] for row in said], known)
    if found is None or found.command is None:
        return None
    part_of = _parts(names, found, apart)
    forms: Counter[ShapeForm] = Counter()
    records: list[tuple[int, ShownBinding]] = []
    for (at, row), texts in zip(whole.items(), rows, strict=True):
        gone = is_nothing(texts[names[found.command]])
        named = {name: part for name, part in part_of.items() if not (gone and part == "{command}")}
        pattern = sign.join(_drawn(cell, named.get(name, "")) for name, cell in zip(names, row, strict=True)).strip()
        forms[ShapeForm(pattern, "remove" if gone else "bind", **signs_of(apart))] += 1
        said_there = {part: texts[name] for name, part in part_of.items()}
        key = joined(texts, apart) if apart is not None else said_there["{key}"]
        command = "" if gone else said_there["{command}"]
        records.append((at, ShownBinding(key, command, said_there.get("{where}", ""), said_there.get("{section}", ""))))
    others = [lines[at] for at in cells if at not in whole]
    ordered = sorted(forms, key=lambda form: (-form.pattern.count("{"), -forms[form]))
    return SampleTable(ordered, records, others, heads)


def _parts(names: Sequence[str], found: Columns, apart: ModifiersApart | None) -> dict[str, str]:
    """The variables of the columns, by their names."""
    places = {"{key}": found.key, "{command}": found.command, "{where}": found.where, "{title}": found.title,
              "{section}": found.section}  # fmt: skip
    parts = {names[at]: part for part, at in places.items() if at is not None}
    return parts | (apart.parts if apart is not None else {})


def _sign(head: str) -> str | None:
    """What parts the columns below a line of names; None where it is none."""
    for sign in _SIGNS:
        names = {_text(cell).lower() for cell in _cells(head, sign)}
        if len(names) > 1 and names & _KEYS and names & _COMMANDS:
            return sign
    return None


def _cells(line: str, sign: str) -> list[str]:
    """The cells of a line, with the quotes around them; a sign in quotes parts nothing."""
    found = re.findall(rf'((?:[ ]*"(?:[^"]|"")*"[ ]*)|[^{re.escape(sign)}]*)(?:{re.escape(sign)}|$)', line)
    return found[:-1] if found and not found[-1] and not line.endswith(sign) else found


def _text(cell: str) -> str:
    inner = cell.strip()
    return inner[1:-1].replace('""', '"') if len(inner) > 1 and inner[0] == inner[-1] == '"' else inner


def _drawn(cell: str, part: str) -> str:
    """A cell with a variable in place of its text; an empty one stays empty, but for modifiers."""
    inner = cell.strip()
    before, after = (" " if cell[:1] == " " else ""), (" " if cell[-1:] == " " and inner else "")
    if not part or (not inner and part != "{modifiers}"):
        return cell
    quote = '"' if inner[:1] == '"' else ""
    return f"{before}{quote}{part}{quote}{after}"


def with_tabs_for_blanks(text: str) -> str:
    """A text whose lines have the same three or more columns with several blanks between them, with a tab for these; empty for
    another one, and where a word of the first two has a blank in it, so that one blank would not part them."""
    rows = [re.split(r" {2,}", line.strip()) for line in text.splitlines() if line.strip()]
    wide = [row for row in rows if len(row) > 2]
    if "\t" in text or len(wide) < max(2, 0.8 * len(rows)) or len({len(row) for row in wide}) != 1:
        return ""
    return (
        "" if any(" " in one for row in wide for one in row[:2]) else "\n".join("\t".join(row) for row in rows) + "\n"
    )


def with_blanks(shape: Shape) -> Shape:
    """The shape of such a text, with blanks in its forms again."""
    shape.forms = [replace(form, pattern=form.pattern.replace("\t", " ")) for form in shape.forms]
    return shape
