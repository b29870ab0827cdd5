"""A keymap as it is in force in a context: the layers on the editor's defaults, with all decisions."""

from functools import cached_property
from pathlib import PurePath
from typing import TYPE_CHECKING

from ombix.core.conditions import NEVER, Space, States
from ombix.core.errors import InputError, OmbixError, TangledError
from ombix.core.keymap.bindings import Binding, InForce, Kept, Keymap, Layer, Removal, Replaced
from ombix.core.keymap.deciding import DecisionRow, DecisionTable, Policy, decide_all
from ombix.core.keymap.outcomes import Do, Insert, Only, Outcome, Play
from ombix.core.keys.notation import Trigger, write
from ombix.core.pressing.layouts import as_pressed
from ombix.workspace.context import Context, setup_at_hand, terminal_of
from ombix.workspace.outcome_titles import outcome_title
from ombix.workspace.resources import Resources

if TYPE_CHECKING:
    from ombix.core.porting import PortEntry
    from ombix.core.pressing.terminals import Terminal
    from ombix.editors.dialect import Dialect
    from ombix.editors.obeyed_keymap import ObeyedKeymap, ObeyedTables
    from ombix.workspace.what_answer import GoneBinding, LayoutPress, OutcomeKind

_MOST_FAULTS = 3
"""So many faults of files are told; of more, how many there are."""


class EffectiveKeymap:
    """The keymap of a context, decided. `space` is over the facts of the layers and, where given, `more` of editors."""

    def __init__(self, context: Context, resources: Resources) -> None:
        self.context = context
        self.shipped = resources.shipped
        self._resources = resources
        self.catalogue = resources.shipped.catalogue()
        self.policy = context.dialect.policy if context.dialect is not None else Policy()
        below = [context.dialect.default_layer] if context.dialect is not None else []
        self.keymap = Keymap([*below, *context.layers])
        read_in = self.keymap.layers[-1].space if self.keymap.layers else None
        self.space: Space = resources.space(self.keymap.facts(resources.shipped.facts()), read_in)

    @cached_property
    def faults(self) -> list[str]:
        """What was left out of the keymap's files, each in a sentence that names the way to mend it."""
        workspace = self.context.workspace
        layers = self.context.layers
        problems = [
            *(workspace.problems if workspace is not None else ()),
            *(one for layer in layers for one in layer.problems),
        ]
        see = "see: ombix audit" if workspace is not None else "see: ombix audit --file FILE"
        alike: dict[str, list[OmbixError]] = {}
        for one in problems:
            alike.setdefault(one.what, []).append(one)
        found = [
            f"{_at(same[0])}{_fault(same[0])} It is left out{_elsewhere(len(same) - 1)}; {see}"
            for same in list(alike.values())[:_MOST_FAULTS]
        ]
        if (more := len(alike) - _MOST_FAULTS) > 0:
            found.append(f"{'1 more entry is' if more == 1 else f'{more} more entries are'} left out; {see}")
        if workspace is None:
            found += [_not_understood(layer) for layer in layers if any(map(_is_fault, layer.kept))]
        return found

    @cached_property
    def in_force(self) -> InForce:
        """The bindings in force on the platform, and those that were replaced."""
        return self.keymap.in_force(self.context.platform)

    @cached_property
    def obeyed(self) -> "ObeyedKeymap | None":
        """What the editor would obey with the keymap in its file; None where no editor is meant, or it has no keymap, or one that
        was read from just that file. Raises OutsideError where the keymap cannot be written for it."""
        context = self.context
        if context.editor is None or not context.layers:
            return None
        from ombix.workspace.obeyed import obeyed

        return obeyed(context.layers, context.editor, context.platform, context.workspace, self._resources)

    @cached_property
    def _in_editor(self) -> "ObeyedTables | None":
        """The decisions of the editor that is meant, over `space`; None where none is."""
        context = self.context
        if context.editor is None:
            return None
        from ombix.workspace.obeyed import decided_in

        return decided_in(self.obeyed, context.layers, context.editor, context.platform, self.space, self._resources)

    @cached_property
    def editors_at_hand(self) -> "dict[str, Dialect]":
        """The editor that is meant, or those of the workspace on this platform, by their names."""
        context, resources = self.context, self._resources
        if context.editor is not None and context.dialect is not None:
            return {context.editor.name: context.dialect}
        editors = context.workspace.editors.values() if context.workspace is not None else ()
        found = {}
        for editor in editors:
            known = "/" in editor.dialect or resources.dialects.knows(editor.dialect)
            if known and editor.platform in ("", context.platform.name):
                found[editor.name] = resources.dialect(editor)
        return found

    @cached_property
    def terminal(self) -> "Terminal | None":
        """The terminal, or the window, that the editor gets its keys from; None where no editor is meant."""
        context = self.context
        if context.editor is None or context.dialect is None:
            return None
        return terminal_of(context.editor, context.dialect, self._resources)

    def verdict_of(self, binding: Binding) -> "PortEntry | None":
        """What became of a binding of the keymap in the editor; None for the editor's own, and where no editor is meant."""
        return self._in_editor.entries.get(id(binding)) if self._in_editor is not None else None

    @cached_property
    def bindings(self) -> list[Binding]:
        """The bindings in force, the lowest layer first: with an editor those that it would obey; else by what the layout at hand
        has at a place."""
        if self._in_editor is not None:
            return self._in_editor.bindings
        found, setups = self.in_force.bindings, self.context.setups
        return as_pressed(found, setups[0]) if setups else found

    @cached_property
    def tables(self) -> dict[Trigger, DecisionTable]:
        """The complete decisions by trigger; with an editor those that it would make, by what arrives at it."""
        if self._in_editor is not None:
            return self._in_editor.tables
        return decide_all(self.bindings, self.space, self.catalogue, self.policy)

    def typed(self, trigger: Trigger) -> tuple[Trigger, str]:
        """Keys by the signs that they give on the layout at hand; and where none is known, on the usual one, with its title, where
        something is bound to them there."""
        if self.context.setups:
            return self.context.setups[0].typed_all(trigger), ""
        setup = setup_at_hand(self.context, self._resources)
        found = setup.typed_all(trigger)
        is_bound = self.arriving(found) in self.tables
        return (found, setup.layout.title) if found != trigger and is_bound else (trigger, "")

    def as_asked(self, binding: Binding) -> Trigger:
        """The keys of a binding as its user has them, where an editor is told of them as of others, like Ctrl+/ as Ctrl+_."""
        entry = self.verdict_of(binding)
        if entry is None or self.arriving(entry.source.trigger) != binding.trigger:
            return binding.trigger
        return entry.source.trigger

    def unbound(self, trigger: Trigger) -> str:
        """What becomes of keys in the editor where nothing is bound to them: see `TargetEditor.unbound`."""
        if self.context.dialect is None:
            return ""
        from ombix.editors.abilities import DescribedTarget

        return DescribedTarget(self.context.dialect, terminal=self.terminal).unbound(trigger)

    def arriving(self, trigger: Trigger) -> Trigger:
        """Keys as the editor is told of them: in a terminal some arrive as others do."""
        return self.terminal.canonical(trigger) if self.terminal is not None else trigger

    @cached_property
    def pressed_tables(self) -> dict[Trigger, DecisionTable]:
        """The decisions by all keys that can be pressed for them: in a terminal also those that arrive as others do."""
        tables = dict(self.tables)
        for trigger, table in self.tables.items() if self.terminal is not None else ():
            for number, chord in enumerate(trigger):
                for other in self.terminal.alike(chord) if self.terminal is not None else ():
                    tables.setdefault((*trigger[:number], other, *trigger[number + 1 :]), table)
        return tables

    def within(self, condition: str) -> States | None:
        """The states of a condition that a user typed; None where it is empty. Raises InputError where it has none."""
        if not condition:
            return None
        states = self.space.states(condition, self.keymap.scope)
        if states == NEVER:
            raise InputError("no state of an editor fulfils this condition", "", None, condition, len(condition))
        return states

    def when(self, row: DecisionRow, states: States | None = None) -> str:
        """The condition of a row, or of these of its states: as it is written, where it means the same states."""
        space, binding = self.space, row.binding
        states = row.states if states is None else states
        if binding.where != "always" and states == space.states(binding.where, binding.scope):
            return binding.where
        try:
            return space.describe(states)
        except TangledError:
            return f"a part of: {binding.where}"

    def title(self, outcome: Outcome) -> str:
        """What an outcome is called for people, with its arguments and how many times it is run."""
        return outcome_title(outcome, self.catalogue, self.keymap, self._own_title)

    def _own_title(self, outcome: Only) -> str:
        """What a command of one editor does, where its description says so."""
        home = self.context.dialect
        if home is None or outcome.editor not in (home.name, self.context.editor.name if self.context.editor else ""):
            home = self.editors_at_hand.get(outcome.editor)
        row = home.vocabulary.row_of(home.vocabulary.called(outcome.command)[0]) if home is not None else None
        return row.only if row is not None else ""

    def presses(self, trigger: Trigger) -> "tuple[LayoutPress, ...]":
        """For each layout at hand how a trigger is pressed, or why it cannot be."""
        from ombix.workspace.what_answer import LayoutPress

        found = []
        for setup in self.context.setups:
            presses = setup.press_sequence(trigger)
            can = not isinstance(presses, str)
            found.append(
                LayoutPress(
                    setup.layout.name, setup.layout.title, setup.show(trigger) if can else None,
                    None if isinstance(presses, list) else str(presses), setup.is_plain(trigger),
                )
            )  # fmt: skip
        return tuple(found)

    def shown(self, trigger: Trigger) -> str:
        """Keys as the platform's users write them, and in parentheses how they are pressed on the layout at hand, where
        that is not plain from the keys."""
        shown = self.context.platform.show(trigger)
        if not self.context.setups or self.context.setups[0].is_plain(trigger):
            return shown
        setup = self.context.setups[0]
        found = setup.press_sequence(trigger)
        return f"{shown} (no such key)" if isinstance(found, str) else f"{shown} ({setup.show(trigger)})"

    @cached_property
    def gone(self) -> "list[GoneBinding]":
        """The bindings of lower layers that higher ones replaced, or took away."""
        return [self._gone(one) for one in self.in_force.replaced]

    def _gone(self, one: Replaced) -> "GoneBinding":
        from ombix.workspace.what_answer import GoneBinding

        binding, by = one.binding, one.by
        reason, keys = "", ""
        if isinstance(by, Removal):
            reason = by.why
        elif by is not None:
            alike = [
                write(other.keys)
                for other in self.in_force.bindings
                if other.layer.id == one.layer.id and _name(other.outcome) == _name(by.outcome)
            ]
            keys = ", ".join(dict.fromkeys(alike))
        return GoneBinding(
            write(binding.trigger), str(binding.outcome), binding.place, binding.layer.name, keys,
            by.place if by is not None else None, one.layer.name, reason,
        )  # fmt: skip


def _at(error: OmbixError) -> str:
    """Where something is wrong, before a sentence that says what."""
    place = error.place
    if place is None:
        return ""
    file = PurePath(place.file).name
    return f"{file}:{place.line}: " if place.line else f"{file}: "


def _fault(error: OmbixError) -> str:
    """What is wrong, and what was meant, where that can be told."""
    return f"{error.what}. {error.advice}" if str(error.advice).startswith("Did you mean") else f"{error.what}."


def _elsewhere(count: int) -> str:
    return "" if not count else ", here and in one more place" if count == 1 else f", here and in {count} more places"


def _is_fault(kept: Kept) -> bool:
    """Whether a line of an editor's own file should bind keys, and does not."""
    return not kept.is_beside and not kept.reason.startswith("a setting")


def _not_understood(layer: Layer) -> str:
    """The lines of an editor's own file that are not understood."""
    lines = [kept for kept in layer.kept if _is_fault(kept)]
    said = "; ".join(f"line {kept.place.line}: {kept.reason}" for kept in lines[:_MOST_FAULTS])
    more = f"; and {len(lines) - _MOST_FAULTS} more" if len(lines) > _MOST_FAULTS else ""
    count = "1 line is" if len(lines) == 1 else f"{len(lines)} lines are"
    return f"{count} not understood in {layer.name.name}: {said}{more}."


def _name(outcome: Outcome) -> str:
    return outcome.action if isinstance(outcome, Do) else str(outcome)


def kind_of(outcome: Outcome) -> "OutcomeKind":
    """Which kind of outcome it is."""
    if isinstance(outcome, Do):
        return "do"
    if isinstance(outcome, Play | Insert):
        return "play" if isinstance(outcome, Play) else "insert"
    return "only" if isinstance(outcome, Only) else "nothing"
