"""Entries of Ombix's own in a file that its editor has written anew: without marks, known by what they say.

Some editors read their key file and write it again from what they have understood: comments go, and the marks of a block with them.
There Ombix owns entries: those that the block had when it was written, as long as they say what they said then.
"""

import json

from ombix.core.keymap.bindings import Binding, Layer
from ombix.core.keys.notation import Trigger
from ombix.editors.dialect import Dialect

Entry = tuple[Trigger, str, str]
"""Keys, condition and command, as an entry says them."""


def entry_of(binding: Binding) -> Entry:
    """What an entry says."""
    return binding.trigger, binding.where, binding.written or binding.command or str(binding.outcome)


def without_entries(dialect: Dialect, text: str, layer: Layer, own: set[Entry], edited: bool = False) -> str:
    """The text of a file, read as a layer, without entries that say one of these; one that shares its line with others
    stays. With `edited` also those that were made to say something else: on the same keys, or where a file gives each command its
    keys, of the same command."""
    if dialect.description.file.format == "json":
        return _without_members(dialect, text, own, edited)
    assigns = bool(dialect.description.file.assigns)
    known = {_about(one, assigns) for one in own} if edited else own
    by_line: dict[int, list[bool]] = {}
    for binding in layer.bindings:
        by_line.setdefault(binding.place.line, []).append(
            (_about(entry_of(binding), assigns) if edited else entry_of(binding)) in known
        )
    gone = {line for line, owned in by_line.items() if line and all(owned)}
    lines = text.splitlines(keepends=True)
    return "".join(line for number, line in enumerate(lines, 1) if number not in gone)


def _about(entry: Entry, assigns: bool) -> tuple[object, ...]:
    keys, where, command = entry
    return (command,) if assigns else (keys, where)


def _without_members(dialect: Dialect, text: str, own: set[Entry], edited: bool) -> str:
    """An object of JSON without members; a file that its editor writes anew has no comments that would be lost by that."""
    try:
        table = json.loads(text)
    except ValueError:
        return text
    if not isinstance(table, dict):
        return text
    commands = {(dialect.spelling.write(keys) or "", command) for keys, _where, command in own}
    own_names = {(str(name), command) for name, command in commands}
    keys = {name for name, _command in own_names} if edited else set()
    kept = {name: value for name, value in table.items() if (name, value) not in own_names and name not in keys}
    return json.dumps(kept, indent=4, ensure_ascii=False) + "\n" if kept != table else text
