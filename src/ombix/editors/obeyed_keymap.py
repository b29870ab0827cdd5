"""What an editor would obey with a keymap in its file: its own keys, what the port writes, and what that takes away.

A port may change what a keymap asks for: what the editor cannot hold is lost, what holds elsewhere is moved, and a condition that
it cannot tell is widened. So the file is written and read back, and what is decided is what was read, not what was wanted.
"""

from collections.abc import Iterable, Sequence

from msgspec import Struct
from msgspec.structs import replace

from ombix.core.catalogue.actions import Catalogue
from ombix.core.conditions import Space, States
from ombix.core.keymap.bindings import Binding, Keymap, Layer, effective_states
from ombix.core.keymap.deciding import DecisionRow, DecisionTable, decide_all
from ombix.core.keymap.outcomes import Nothing, Only
from ombix.core.keys.notation import Trigger, write
from ombix.core.porting import PortEntry
from ombix.core.pressing.terminals import as_arriving
from ombix.editors.dialect import Dialect
from ombix.editors.editor_porting import PortedFile, Surroundings, port_keymap


class ObeyedKeymap(Struct, frozen=True):
    """An editor with a keymap in its file. `file` is the port, with the verdict of each binding; `around` what it was made in."""

    dialect: Dialect
    around: Surroundings
    file: PortedFile
    name: str
    """What the editor is called in the workspace."""

    def tables(self, space: Space, catalogue: Catalogue) -> "ObeyedTables":
        """What it obeys, over the states of a space that has the editor's facts."""
        defaults = self.dialect.default_layer
        bindings = as_arriving(
            Keymap([defaults, self.file.layer]).in_force(self.around.platform).bindings, self.around.terminal
        )
        decided = decide_all(bindings, space, catalogue, self.dialect.policy)
        origins = _Origins(self, space, catalogue)
        restored = {id(binding): origins.restored(binding) for binding in bindings}
        for table in decided.values():
            table.rows = tuple(
                row.with_binding(
                    origins.by_default(restored[id(row.binding)], row),
                    tuple(restored[id(beaten)] for beaten in row.beaten),
                )
                for row in table.rows
            )
            table.losers = tuple(restored[id(loser)] for loser in table.losers)
        return ObeyedTables(decided, [restored[id(binding)] for binding in bindings], origins.entries)


class ObeyedTables(Struct, frozen=True):
    """The decisions of an editor by canonical trigger, and its bindings, the lowest layer first. Each binding that comes from the
    keymap stands as it was written there; `entries` has by its `id` what became of it in the port."""

    tables: dict[Trigger, DecisionTable]
    bindings: list[Binding]
    entries: dict[int, PortEntry]


class _Origins:
    """Which line of the keymap a binding of the written file comes from."""

    def __init__(self, obeyed: ObeyedKeymap, space: Space, catalogue: Catalogue) -> None:
        self._canonical = obeyed.around.terminal.canonical
        self._port_id = obeyed.file.layer.name.id
        self._around = obeyed.around
        self._space = space
        self._catalogue = catalogue
        self._by_trigger: dict[Trigger, list[PortEntry]] = {}
        self._clearing: dict[Trigger, PortEntry] = {}
        self.entries: dict[int, PortEntry] = {}
        """What became of the lines that restored bindings come from, by the `id` of these."""
        for entry in obeyed.file.entries:
            if entry.trigger is not None:
                self._by_trigger.setdefault(self._canonical(entry.trigger), []).append(entry)
                for keys, _section, _outcome in entry.cleared:
                    self._clearing.setdefault(self._canonical(keys), entry)

    def restored(self, binding: Binding) -> Binding:
        """A binding that was read back, as its line of the keymap has it; others as they are."""
        if binding.layer.id != self._port_id:
            return binding
        entry = self._source(binding)
        if entry is not None:
            found = replace(
                entry.source, trigger=binding.trigger, as_written=entry.source.keys, written=binding.written
            )
            self.entries[id(found)] = entry
            return found
        cleared = self._clearing.get(binding.trigger)
        if cleared is None or not isinstance(binding.outcome, Nothing):
            return binding
        source = cleared.source
        why = f"it makes way for {write(source.keys)}"
        return replace(binding, place=source.place, layer=source.layer, why=why)

    def _source(self, binding: Binding) -> PortEntry | None:
        """The entry whose command, on these keys and in these states, was read back."""
        found = [
            entry
            for entry in self._by_trigger.get(binding.trigger, ())
            if binding.written in entry.written
            or (isinstance(binding.outcome, Nothing) and isinstance(entry.source.outcome, Nothing))
        ]
        if len(found) > 1:
            space = self._around.space
            states = effective_states(binding, space, self._catalogue)
            found = [entry for entry in found if space.overlap(entry.states, states)] or found
        return found[0] if found else None

    def by_default(self, binding: Binding, row: DecisionRow) -> Binding:
        """A default of the editor as the line of the keymap that wants just that, in states in which it holds; or itself."""
        if binding.layer.kind != "defaults":
            return binding
        for entry in self._by_trigger.get(binding.trigger, ()):
            source = entry.source
            is_same = source.outcome == binding.outcome or (
                isinstance(source.outcome, Only) and source.outcome.command == binding.written
            )
            if is_same and not entry.written and self._meets(source, row.states):
                found = replace(source, trigger=binding.trigger, as_written=source.keys, written=binding.written)
                self.entries[id(found)] = entry
                return found
        return binding

    def _meets(self, source: Binding, states: States) -> bool:
        return self._space.overlap(effective_states(source, self._space, self._catalogue), states)


def obeyed_keymap(
    keymap: Keymap,
    name: str,
    target: Dialect,
    around: Surroundings,
    source: Dialect | None = None,
    rehome: bool = False,
) -> ObeyedKeymap:
    """What an editor called `name` would obey with a keymap in its file; `source` is the editor that decides the keymap, where
    there is one. Raises OutsideError where the file does not hold what was written."""
    bindings = bindings_for(keymap.in_force(around.platform).bindings, name, target)
    return ObeyedKeymap(target, around, port_keymap(keymap, bindings, source, target, around, rehome), name)


def bindings_for(bindings: Iterable[Binding], name: str, target: Dialect) -> list[Binding]:
    """Bindings as they are ported to an editor: its own commands as it writes them."""
    return [_own_command(binding, name, target) for binding in bindings]


def _own_command(binding: Binding, name: str, target: Dialect) -> Binding:
    """A binding to a command of the target itself, which a keymap names by the editor in the workspace and by the command's name
    in the description: as the target writes it, in those of its sections in which there is such a command."""
    outcome = binding.outcome
    if not isinstance(outcome, Only) or outcome.editor not in (name, target.name):
        return binding
    row = target.vocabulary.commands.get(outcome.command)
    if row is None:
        return replace(binding, outcome=Only(target.name, outcome.command))
    sections = target.description.sections
    where = binding.where
    if row.sections and set(row.sections) < set(sections):
        there = " or ".join(f"({sections[section]})" for section in row.sections)
        where = there if where == "always" else f"({where}) and ({there})"
    return replace(binding, outcome=Only(target.name, row.written or outcome.command), where=where)


def is_own_file(layers: Sequence[Layer], name: str, dialect_name: str) -> bool:
    """Whether layers are nothing but what was read from an editor's own file, which it obeys as it is."""
    return all(layer.name.kind == "adopted" and layer.name.editor in (name, dialect_name) for layer in layers)
