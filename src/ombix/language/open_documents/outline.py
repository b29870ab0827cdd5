"""A file at a glance: its entries, what can be folded, how keys are pressed, and the file as it is usually laid out."""

from collections.abc import Iterator
from typing import Any

from ombix.core.errors import Place
from ombix.core.keymap.bindings import Binding, Layer
from ombix.core.keys.notation import is_family, write
from ombix.core.toml import Document
from ombix.files import toml_pieces
from ombix.files.merging.file_units import KEY_FIELDS, rows_of
from ombix.language.open_documents.answers import OutlineEntry, PressHint, SymbolKind
from ombix.workspace.effective_keymap import EffectiveKeymap

_KINDS: dict[str, SymbolKind] = {"where": "condition", "macro": "macro", "snippet": "snippet"}


def outline(document: Document) -> tuple[OutlineEntry, ...]:
    """The tables of a file with their entries."""
    return tuple(_outlined(document))


def _outlined(document: Document) -> Iterator[OutlineEntry]:
    for table, value in document.table.items():
        if not isinstance(value, dict):
            continue
        if table in ("bind", "only"):
            for name, entries in value.items():
                if isinstance(entries, dict):
                    yield _table(f"{table}.{name}", (table, name), entries, "entry", document)
        else:
            yield _table(table, (table,), value, _KINDS.get(table, "entry"), document)


def _table(
    name: str, path: tuple[str, ...], entries: dict[str, Any], kind: SymbolKind, document: Document
) -> OutlineEntry:
    inner = tuple(
        OutlineEntry(key, kind, _detail(value, kind), document.place(*path, key)) for key, value in entries.items()
    )
    place = document.place(*path)
    last = max((one.place for one in inner), key=lambda one: (one.end_line, one.end_column), default=place)
    end = max((place.end_line, place.end_column), (last.end_line, last.end_column))
    return OutlineEntry(name, "table", "", Place(place.file, place.line, place.column, *end), inner)


def _detail(value: Any, kind: SymbolKind) -> str:
    if kind == "condition" or not isinstance(value, dict | list | str):
        return str(value)
    rows = rows_of(value)
    keys = [row[name] for row in rows for name in KEY_FIELDS if name in row]
    flat = [one for key in keys for one in (key if isinstance(key, list) else [key])]
    return ", ".join(one for one in flat if isinstance(one, str))


def folds(lines: list[str]) -> list[tuple[int, int]]:
    """What can be folded: the first and the last line (from 0) of tables, and of lists that go over several lines."""
    found: list[tuple[int, int]] = []
    begin = -1
    last = -1
    opened: list[int] = []
    for number, line in enumerate(lines):
        bare = line.split("#", 1)[0].strip()
        if bare.startswith("[") and bare.endswith("]") and not opened:
            if begin >= 0 and last > begin:
                found.append((begin, last))
            begin = number
        elif bare.endswith(("[", "{", "[{")):
            opened.append(number)
        elif opened and bare.rstrip(",") in ("]", "}", "}]", "]}"):
            found.append((opened.pop(), number))
        if bare:
            last = number
    if begin >= 0 and last > begin:
        found.append((begin, last))
    return sorted(found)


def press_hints(here: EffectiveKeymap, own: Layer) -> list[PressHint]:
    """How the keys of a file are pressed on the layout at hand, where that is not plain from them."""
    if not here.context.setups:
        return []
    setup, platform = here.context.setups[0], here.context.platform
    found = []
    for binding in own.bindings:
        if is_family(binding.trigger) or not binding.place.line:
            continue
        if binding.platforms and platform.name not in binding.platforms:
            continue
        trigger = platform.resolve(binding.keys)
        if setup.is_plain(trigger):
            continue
        pressed = setup.press_sequence(trigger)
        shown = "no such key" if isinstance(pressed, str) else setup.show(trigger)
        place = binding.place
        why = f"{write(binding.keys)} on the layout {setup.layout.title}"
        found.append(PressHint(place.end_line - 1, place.end_column - 1, shown, why))
    return found


def formatted(text: str, own: Layer | None) -> str:
    """The file as it is usually laid out: keys spelt as Ombix writes them, a blank line before a table, no blanks at line ends."""
    lines = text.split("\n")
    for binding in own.bindings if own is not None else ():
        _respelt(lines, binding)
    found: list[str] = []
    depth = 0
    for line in lines:
        bare = line.rstrip()
        if not bare and depth == 0 and (not found or not found[-1]):
            continue  # one blank line is enough
        if bare.startswith("[") and bare.split("#", 1)[0].rstrip().endswith("]") and depth == 0:
            at = len(found)
            while at and found[at - 1].startswith("#"):
                at -= 1
            if at and found[at - 1]:
                found.insert(at, "")
        else:
            outside = bare.split("#", 1)[0]
            depth += outside.count("[") + outside.count("{") - outside.count("]") - outside.count("}")
            depth = max(0, depth)
        found.append(bare)
    while found and not found[-1]:
        found.pop()
    return "\n".join([*found, ""])


def _respelt(lines: list[str], binding: Binding) -> None:
    """Spell keys as Ombix writes them, where they stand."""
    keys = write(binding.keys)
    if binding.written == keys or is_family(binding.trigger):
        return
    old, new = toml_pieces.field_text(binding.written), toml_pieces.field_text(keys)
    for number in range(binding.place.line - 1, min(len(lines), max(binding.place.end_line, binding.place.line))):
        if old in lines[number]:
            lines[number] = lines[number].replace(old, new, 1)
            return
