"""What an audit works with: the keymap that is looked at, a rule, a finding."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import cached_property
from typing import Any, Literal, NamedTuple

from msgspec import Struct
from msgspec.structs import replace

from ombix.core.catalogue.actions import Action, Catalogue
from ombix.core.conditions import ALWAYS, NEVER, Space, States
from ombix.core.errors import OmbixError, Place
from ombix.core.keymap.bindings import Binding, Keymap, Layer, Unsettled, effective_states
from ombix.core.keymap.changes import KeymapChange
from ombix.core.keymap.deciding import DecisionRow, DecisionTable, Policy, decide_all
from ombix.core.keymap.outcomes import Do, Macro, Outcome
from ombix.core.keys.notation import Trigger
from ombix.core.keys.platforms import Platform, Reserved
from ombix.core.pressing.effort import Effortful, EffortModel, effortful
from ombix.core.pressing.layouts import KeyboardSetup, as_pressed
from ombix.core.pressing.terminals import Terminal

Severity = Literal["error", "warning", "note"]
SEVERITIES: tuple[Severity, ...] = ("error", "warning", "note")


class Spot(NamedTuple):
    """A place that a finding is about, and what stands there."""

    place: Place
    text: str


class Winner(NamedTuple):
    """In these states this binding wins, and those that it beats do not happen."""

    states: States
    binding: Binding
    beaten: tuple[Binding, ...]


class FindingTable(NamedTuple):
    """Many alike things that one finding says: rows under a head; keys are triggers, all else is text."""

    head: tuple[str, ...]
    rows: tuple[tuple[Trigger | str, ...], ...]


class Finding(Struct, frozen=True):
    """One result: what is wrong, where, in which states, and what would mend it.

    `keys` are the triggers concerned; `states` is a set of states of the subject's space; `changes` are what would mend
    it, where that is known. Findings of one rule with the same `cause` are put together into one.
    """

    rule: str
    severity: Severity
    message: str
    spots: tuple[Spot, ...]
    mend: str
    keys: tuple[Trigger, ...] = ()
    states: States = ALWAYS
    changes: tuple[KeymapChange, ...] = ()
    winners: tuple[Winner, ...] = ()
    table: FindingTable | None = None
    cause: str = ""


class MissingBinding(NamedTuple):
    """A binding of the keymap that an editor does not have on its keys, and why; `moved` are the keys that it has there instead,
    `nearest` the action that comes nearest, where the editor has nothing that does it."""

    binding: Binding
    why: str
    moved: tuple[Trigger, ...]
    nearest: str


class EditorView(Struct, frozen=True):
    """An editor of the workspace: what it obeys with the keymap in its file, where text is edited, and what of the keymap it does
    not have."""

    name: str
    tables: Mapping[Trigger, DecisionTable]
    over_text: States
    missing: tuple[MissingBinding, ...] = ()
    otherwise: Mapping[int, str] = {}
    """How it does otherwise than the keymap asks, by the `id` of the binding in its tables."""

    def over_text_row(self, trigger: Trigger, space: Space) -> DecisionRow | None:
        """What the trigger does while text is edited, where that is one binding."""
        table = self.tables.get(trigger)
        if table is None:
            return None
        rows = [row for row in table.rows if space.both(row.states, self.over_text) != NEVER]
        return rows[0] if len(rows) == 1 else None


def _none_for(macro: Macro) -> tuple[str, ...]:
    return ()


class AuditSubject(Struct, dict=True):
    """What the rules look at: a keymap on one platform, how its editor decides, and the editors of the workspace."""

    keymap: Keymap
    platform: Platform
    space: Space
    catalogue: Catalogue
    policy: Policy
    editor_views: Callable[[], Sequence[EditorView]] = tuple
    setups: Sequence[KeyboardSetup] = ()
    """The layouts that are used on the platform, the one at hand first; none where the workspace names none."""
    usual_setup: KeyboardSetup | None = None
    """The keyboard that keys are looked for on where the workspace names none."""
    reserved: Sequence[Reserved] = ()
    """What does not reach an editor."""
    terminals: Mapping[str, Terminal] = {}
    """Editor of the workspace to the terminal that it runs in."""
    platforms: Sequence[Platform] = ()
    """All platforms, for the rules that compare them."""
    problems: Sequence[OmbixError] = ()
    """What was wrong in the workspace file, and left out."""
    severities: Mapping[str, str] = {}
    """Rule to the severity that its findings have here, in place of its own; `off`: it has none."""
    unsettled: Sequence[Unsettled] = ()
    """What a merge left open in the workspace file."""
    notes: dict[str, Any] = {}
    """What one rule worked out and others can use."""
    effort: EffortModel | None = None
    """What pressing keys costs; None: it is not asked."""
    proposes: bool = True
    """Whether free keys are looked for, to be proposed."""
    one_action_for: Callable[[Macro], tuple[str, ...]] = _none_for
    """The actions that are proved to do alone what a macro does."""

    @cached_property
    def effortful(self) -> Effortful | None:
        """What keys cost on the keyboard at hand, or on the usual one."""
        setup = self.setups[0] if self.setups else self.usual_setup
        return effortful(self.effort, setup) if self.effort is not None and setup is not None else None

    @cached_property
    def bindings(self) -> list[Binding]:
        """The bindings in force, the lowest layer first; see `layouts.as_pressed`."""
        found = self.keymap.in_force(self.platform).bindings
        return as_pressed(found, self.setups[0]) if self.setups else found

    def settled(self, trigger: Trigger) -> Trigger:
        """A trigger as the bindings of this subject are written: by what the layout at hand has at a place."""
        return self.setups[0].typed_all(trigger) if self.setups else trigger

    def show(self, trigger: Trigger) -> str:
        """Keys as the platform's users write them."""
        return self.platform.show(trigger)

    def terminals_by_kind(self) -> list[tuple[str, Terminal]]:
        """The terminals, each with the names of the editors that run in it."""
        names: dict[str, list[str]] = {}
        for editor, terminal in self.terminals.items():
            names.setdefault(terminal.name, []).append(editor)
        kinds = {terminal.name: terminal for terminal in self.terminals.values()}
        return [(" and ".join(editors), kinds[name]) for name, editors in names.items()]

    @cached_property
    def tables(self) -> dict[Trigger, DecisionTable]:
        """The complete decisions by trigger."""
        return decide_all(self.bindings, self.space, self.catalogue, self.policy)

    @cached_property
    def own(self) -> list[Binding]:
        """The bindings in force that are not an editor's defaults."""
        return [binding for binding in self.bindings if is_own(binding)]

    @cached_property
    def own_layers(self) -> list[Layer]:
        """The layers that are not an editor's defaults."""
        return [layer for layer in self.keymap.layers if layer.name.kind != "defaults"]

    @cached_property
    def groups(self) -> list[list[Binding]]:
        """Groups of two or more bindings that share a trigger and an own layer, in the order of the file."""
        groups = []
        for table in self.tables.values():
            members = [*(row.binding for row in table.rows), *table.losers]
            if len(members) < 2:
                continue
            layers: dict[str, list[Binding]] = {}
            for binding in members:
                if is_own(binding):
                    layers.setdefault(binding.layer.id, []).append(binding)
            groups += [sorted(layer, key=self.position) for layer in layers.values() if len(layer) > 1]
        return groups

    @cached_property
    def bound(self) -> dict[str, list[Binding]]:
        """Action to its bindings in force."""
        found: dict[str, list[Binding]] = {}
        for binding in self.bindings:
            if isinstance(binding.outcome, Do):
                found.setdefault(binding.outcome.action, []).append(binding)
        return found

    def position(self, binding: Binding) -> int:
        """Where a binding stands among those in force, from 0."""
        return self._positions[id(binding)]

    @cached_property
    def _positions(self) -> dict[int, int]:
        return {id(binding): index for index, binding in enumerate(self.bindings)}

    def states(self, binding: Binding) -> States:
        """The possible states in which a binding applies."""
        return effective_states(binding, self.space, self.catalogue)

    def action_of(self, outcome: Outcome) -> Action | None:
        """The action that an outcome runs, where it is one of the catalogue."""
        return self.catalogue.actions.get(outcome.action) if isinstance(outcome, Do) else None

    def is_frequent(self, outcome: Outcome) -> bool:
        """Whether it is used all day."""
        action = self.action_of(outcome)
        return action is not None and action.frequent

    def has_editor(self) -> bool:
        """Whether an editor's defaults are below the keymap."""
        return any(layer.name.kind == "defaults" for layer in self.keymap.layers)


def is_own(binding: Binding) -> bool:
    """Whether a binding is not one of an editor's defaults."""
    return binding.layer.kind != "defaults"


def at(*bindings: Binding) -> tuple[Spot, ...]:
    """The places of bindings, for a finding."""
    return tuple(Spot(binding.place, str(binding.outcome)) for binding in bindings)


_USUAL = Policy()


class Rule(Struct, frozen=True):
    """A rule: its name and severity, four short parts of explanation, and the check.

    `example` is a keymap file that triggers it; where the rule needs an editor's way of deciding, `policy` has it.
    `editors` tells that it compares the workspace's editors, so that no keymap alone triggers it; `workspace` has lines of
    a workspace file that the example needs. `together` makes one finding of several with the same cause.
    """

    name: str
    severity: Severity
    what: str
    why: str
    example: str
    mend: str
    check: Callable[[AuditSubject], Iterable[Finding]]
    policy: Policy = _USUAL
    editors: bool = False
    workspace: str = ""
    together: Callable[[AuditSubject, Sequence[Finding]], Finding] | None = None

    def finding(
        self, message: str, spots: tuple[Spot, ...], keys: Trigger | None = None, states: States = ALWAYS, mend: str = "",
        cause: str = "",
    ) -> Finding:  # fmt: skip
        """A finding of this rule."""
        return Finding(
            self.name, self.severity, message, spots, mend or self.mend, (keys,) if keys else (), states, cause=cause
        )


def put_together(findings: Sequence[Finding], message: str, table: FindingTable | None = None) -> Finding:
    """One finding in place of several, with all their keys, places and changes."""
    return replace(
        findings[0], message=message, table=table, states=ALWAYS,
        spots=tuple(dict.fromkeys(spot for finding in findings for spot in finding.spots)),
        keys=tuple(dict.fromkeys(keys for finding in findings for keys in finding.keys)),
        changes=tuple(dict.fromkeys(change for finding in findings for change in finding.changes)),
    )  # fmt: skip


def in_one_table(findings: Sequence[Finding], message: str) -> Finding:
    """One finding with the rows of all in one table."""
    tables = [finding.table for finding in findings if finding.table is not None]
    rows = tuple(row for table in tables for row in table.rows)
    return put_together(findings, message, FindingTable(tables[0].head, rows))
