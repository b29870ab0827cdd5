"""How an editor starts its commands by itself, without what was ported."""

import contextlib
from collections.abc import Collection, Iterator
from typing import NamedTuple

from ombix.core.catalogue.actions import Catalogue
from ombix.core.conditions import NEVER
from ombix.core.errors import InputError, OmbixError, Place
from ombix.core.keymap.bindings import Binding, Layer, LayerName
from ombix.core.keymap.outcomes import Do, Nothing, Only, Outcome
from ombix.core.keys.notation import Chord, Trigger, parse, write
from ombix.core.pressing.terminals import Terminal
from ombix.editors.abilities import DescribedTarget
from ombix.editors.dialect import Dialect
from ombix.editors.file_writing import write_file

Bindings = tuple[Binding, ...]
_WITHOUT = LayerName("without", "without")
_FREE_KEYS = (
    *(f"{held}F{number}" for held in ("", "Shift+", "Ctrl+") for number in (6, 7, 8, 9, 4, 2, 12, 5)),
    *(f"Alt+{letter}" for letter in "JKYMHZXQLGVOIPRUWBNCSDFTAE"),
)
"""Keys of which one is taken for a command that the editor offers in no other way."""


class Reference(NamedTuple):
    """A way to start a command without what was ported: the keys, and that in words; the bindings that this needs, if any; and
    of an editor whose file can take its keys away, those with which these run nothing."""

    keys: tuple[bytes, ...]
    said: str
    bindings: Bindings = ()
    without: Bindings = ()
    may_end: bool = False
    """Whether the same keys, where a file binds them, may end on their way, and these do not."""


def reference(
    dialect: Dialect, terminal: Terminal, section: str, written: str, taken: Collection[bytes] = ()
) -> Reference | None:  # fmt: skip
    """How the editor starts a command by itself in a section: by a default key, or where there is none, by its command line; or
    else by a key that nothing else needs, other than those that are `taken`, bound to it. None where none of that can be had."""
    if (own := default_key(dialect, terminal, section, written)) is not None:
        binding, sent = own
        return Reference((sent,), f"its default key {write(binding.trigger)}", without=_without(dialect, binding))
    description = dialect.description
    program = description.program
    row = dialect.vocabulary.row_of(dialect.vocabulary.called(written)[0], section)
    asks = row is not None and row.next == "character"  # which looks otherwise where it is asked for by another way
    if description.commands.keys and not asks and (sent := _as_keys(dialect, terminal, written)):
        return Reference((sent,), f"its own keys {written}", may_end=_may_end(dialect, section, written))
    if program is not None and program.command_line and not asks and not description.commands.keys:
        typed = tuple(one.replace("{command}", written).encode() for one in program.command_line)
        return Reference(typed, "its command line")
    used = {binding.trigger[0] for binding in dialect.default_layer.bindings}
    for trigger, sent in free_keys(dialect, terminal, section, used):
        if sent not in taken:
            binding = bound(dialect, section, trigger, written)
            if not is_writable(dialect, (binding,)):
                return None
            return Reference((sent,), f"{write(trigger)} bound to it alone", (binding,))
    return None


def default_key(dialect: Dialect, terminal: Terminal, section: str, written: str) -> tuple[Binding, bytes] | None:
    """The default binding of a command in a section that a key can be pressed for, and what that key sends."""
    space = dialect.space
    states = space.states(dialect.description.sections[section])
    for binding in dialect.default_layer.bindings:
        sent = terminal.send(binding.trigger)
        is_here = space.both(space.parse(binding.where, binding.scope), states) != NEVER
        if binding.written == written and is_here and isinstance(sent, bytes) and sent:
            return binding, sent
    return None


def free_keys(
    dialect: Dialect, terminal: Terminal, section: str, used: Collection[Chord]
) -> Iterator[tuple[Trigger, bytes]]:
    """Keys that a file of the editor can have in a section, and what they send; those first that are not used."""
    target = DescribedTarget(dialect)
    able = [parse(name) for name in _FREE_KEYS if target.can_bind(parse(name), section)]
    for trigger in sorted(able, key=lambda one: one[0] in used):
        sent = terminal.send(trigger)
        if isinstance(sent, bytes) and sent:
            yield trigger, sent


def bound(dialect: Dialect, section: str, trigger: Trigger, written: str) -> Binding:
    """A command on a key in a section of an editor's file."""
    outcome: Outcome = Only(dialect.name, written)
    return Binding(trigger, outcome, Place(_WITHOUT.id), _WITHOUT, dialect.where([section]))


def plain_file(dialect: Dialect, bindings: Bindings = ()) -> str:
    """A file with which the editor has its default keys, and some more: without any where it has them by itself. Raises
    InputError for what the file cannot have."""
    more = list(bindings)
    if dialect.description.file.names_all:
        one = next(
            binding
            for binding in dialect.default_layer.bindings
            if isinstance(binding.outcome, Do) and not binding.fixed
        )
        more.insert(0, Binding(one.trigger, Only(dialect.name, one.written), one.place, _WITHOUT, one.where))
    layer = Layer(_WITHOUT, more, facts=list(dialect.facts))
    return write_file(dialect, layer, dialect.space, Catalogue({}, {}), headings=False)


def is_writable(dialect: Dialect, bindings: Bindings) -> bool:
    """Whether a file can have these."""
    try:
        plain_file(dialect, bindings)
    except InputError:
        return False
    return True


def _may_end(dialect: Dialect, section: str, written: str) -> bool:
    """Whether keys in a row end with the first that cannot do its work where the file binds them, which they do not where they
    are pressed one by one."""
    row = dialect.description.effects.get(section)
    parts = dialect.vocabulary.parts(written, section, may_leave=True)
    return row is not None and row.ends and parts is not None and len(parts) > 1


def _without(dialect: Dialect, binding: Binding) -> Bindings:
    """What takes a default binding's key away from its command; nothing where the editor's file gives no command its keys."""
    gone = Binding(binding.trigger, Nothing(), binding.place, _WITHOUT, binding.where)
    return (gone,) if dialect.description.file.assigns and is_writable(dialect, (gone,)) else ()


def _as_keys(dialect: Dialect, terminal: Terminal, written: str) -> bytes:
    if dialect.description.keys.bytes is not None:
        return written.encode()
    with contextlib.suppress(OmbixError):
        sent = terminal.send(dialect.spelling.read_row(written))
        return sent if isinstance(sent, bytes) else b""
    return b""
