"""The audit: rules, one file each, that find what is wrong with a keymap. A new file here is a new rule."""

import importlib
import pkgutil
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from ombix.core.actions import Catalogue
from ombix.core.collecting import paused
from ombix.core.conditions import ALWAYS, NEVER, Space
from ombix.core.deciding import Policy, Row, Table, decide_all
from ombix.core.errors import Place
from ombix.core.keymap import Accepted, Binding, Do, Keymap, Layer, Outcome, effective_states
from ombix.core.keys import Trigger, write
from ombix.core.layouts import Seat, as_pressed
from ombix.core.platforms import Platform, Reserved
from ombix.core.terminals import Terminal

Severity = Literal["error", "warning", "note"]
SEVERITIES: tuple[Severity, ...] = ("error", "warning", "note")


@dataclass(frozen=True, slots=True)
class Finding:
    """One result: what is wrong, where, in which states, and what would mend it.

    `places` are the places concerned, each with what stands there; `states` is a set of states of the ground's space.
    """

    rule: str
    severity: Severity
    trigger: Trigger | None
    message: str
    places: tuple[tuple[Place, str], ...]
    mend: str
    states: int = ALWAYS


@dataclass(frozen=True, slots=True)
class View:
    """An editor of the workspace: its decisions with the keymap on top of its defaults, and where text is edited."""

    name: str
    tables: Mapping[Trigger, Table]
    over_text: int

    def over_text_row(self, trigger: Trigger, space: Space) -> Row | None:
        """What the trigger does while text is edited, where that is one binding."""
        table = self.tables.get(trigger)
        if table is None:
            return None
        rows = [row for row in table.rows if space.both(row.states, self.over_text) != NEVER]
        return rows[0] if len(rows) == 1 else None


@dataclass
class Ground:
    """What the rules look at: a keymap on one platform, how its editor decides, and the editors of the workspace."""

    keymap: Keymap
    platform: Platform
    space: Space
    catalogue: Catalogue
    policy: Policy
    views: Callable[[], Sequence[View]] = field(default=lambda: ())
    seats: Sequence[Seat] = ()
    """The layouts that are used on the platform, the one at hand first; none where the workspace names none."""
    reserved: Sequence[Reserved] = ()
    """What does not reach an editor."""
    terminals: Mapping[str, Terminal] = field(default_factory=dict)
    """Editor of the workspace to the terminal that it runs in."""
    platforms: Sequence[Platform] = ()
    """All platforms, for the rules that compare them."""

    @cached_property
    def bindings(self) -> list[Binding]:
        """The bindings in force, the lowest layer first; see `layouts.as_pressed`."""
        found = self.keymap.in_force(self.platform)
        return as_pressed(found, self.seats[0]) if self.seats else found

    def settled(self, trigger: Trigger) -> Trigger:
        """A trigger as the bindings of this ground are written: by what the layout at hand has at a place."""
        return self.seats[0].typed_all(trigger) if self.seats else trigger

    def terminals_by_kind(self) -> list[tuple[str, Terminal]]:
        """The terminals, each with the names of the editors that run in it."""
        names: dict[str, list[str]] = {}
        for editor, terminal in self.terminals.items():
            names.setdefault(terminal.name, []).append(editor)
        kinds = {terminal.name: terminal for terminal in self.terminals.values()}
        return [(" and ".join(editors), kinds[name]) for name, editors in names.items()]

    @cached_property
    def typing(self) -> int:
        """The states in which characters are typed into the text."""
        return self.space.states("pane is text and mode in (plain, insert) and not readonly")

    @cached_property
    def tables(self) -> dict[Trigger, Table]:
        """The complete decisions by trigger."""
        return decide_all(self.bindings, self.space, self.catalogue, self.policy)

    @cached_property
    def own(self) -> list[Binding]:
        """The bindings in force that are not an editor's defaults."""
        return [binding for binding in self.bindings if is_own(binding)]

    @cached_property
    def own_layers(self) -> list[Layer]:
        """The layers that are not an editor's defaults."""
        return [layer for layer in self.keymap.layers if layer.kind != "defaults"]

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
                    layers.setdefault(binding.layer, []).append(binding)
            groups += [
                sorted(one, key=lambda binding: self._position[id(binding)]) for one in layers.values() if len(one) > 1
            ]
        return groups

    @cached_property
    def bound(self) -> dict[str, list[Binding]]:
        """Action to its bindings in force."""
        found: dict[str, list[Binding]] = {}
        for binding in self.bindings:
            if isinstance(binding.outcome, Do):
                found.setdefault(binding.outcome.action, []).append(binding)
        return found

    @cached_property
    def _position(self) -> dict[int, int]:
        return {id(binding): index for index, binding in enumerate(self.bindings)}

    def states(self, binding: Binding) -> int:
        """The possible states in which a binding applies."""
        return effective_states(binding, self.space, self.catalogue)

    def is_frequent(self, outcome: Outcome) -> bool:
        """Whether it is used all day."""
        action = self.catalogue.actions.get(outcome.action) if isinstance(outcome, Do) else None
        return action is not None and action.frequent

    def has_editor(self) -> bool:
        """Whether an editor's defaults are below the keymap."""
        return any(layer.kind == "defaults" for layer in self.keymap.layers)


def is_own(binding: Binding) -> bool:
    """Whether a binding is not one of an editor's defaults."""
    return not binding.layer.endswith(" defaults")


def at(*bindings: Binding) -> tuple[tuple[Place, str], ...]:
    """The places of bindings, for a finding."""
    return tuple((binding.place, str(binding.outcome)) for binding in bindings)


_USUAL = Policy()


@dataclass(frozen=True, slots=True)
class Rule:
    """A rule: its name and severity, four short parts of explanation, and the check.

    `example` is a keymap file that triggers it; where the rule needs an editor's way of deciding, `policy` has it.
    `editors` tells that it compares the workspace's editors, so that no keymap alone triggers it; `workspace` has lines of
    a workspace file that the example needs.
    """

    name: str
    severity: Severity
    what: str
    why: str
    example: str
    mend: str
    check: Callable[[Ground], Iterable[Finding]]
    policy: Policy = _USUAL
    editors: bool = False
    workspace: str = ""

    def finding(
        self, message: str, places: tuple[tuple[Place, str], ...], trigger: Trigger | None = None, states: int = ALWAYS,
        mend: str = "",
    ) -> Finding:  # fmt: skip
        """A finding of this rule."""
        return Finding(self.name, self.severity, trigger, message, places, mend or self.mend, states)


def rules() -> dict[str, Rule]:
    """All rules by name."""
    found = {}
    for module in pkgutil.iter_modules(__path__):
        rule = importlib.import_module(f"{__name__}.{module.name}").RULE
        found[rule.name] = rule
    return dict(sorted(found.items()))


def audit(ground: Ground, chosen: Sequence[Rule]) -> list[Finding]:
    """The findings of the chosen rules, errors first, then in the order of the files.

    A finding that the keymap accepts stays quiet; an acceptance that no finding needs is a finding of the rule
    `stale-acceptance`, where that is chosen.
    """
    with paused():
        findings = [finding for rule in chosen for finding in rule.check(ground)]
    accepted = [one for layer in ground.own_layers for one in layer.accepted]
    if not accepted:
        return sorted(findings, key=_order)

    def matches(one: Accepted, finding: Finding) -> bool:
        return one.rule == finding.rule and _same_keys(one.trigger, finding.trigger, ground)

    stale = next((rule for rule in chosen if rule.name == "stale-acceptance"), None)
    if stale is not None:
        known, names = rules(), {rule.name for rule in chosen}
        others = [known[name] for name in {one.rule for one in accepted} - names if name in known]
        everything = [*findings, *(finding for rule in others for finding in rule.check(ground))]
        for one in accepted:
            if not any(matches(one, finding) for finding in everything):
                keys = f" for {write(one.trigger)}" if one.trigger else ""
                message = f"no finding of {one.rule}{keys} is left that this accepts"
                findings.append(stale.finding(message, ((one.place, f"accept {one.rule}"),), one.trigger))
    findings = [finding for finding in findings if not any(matches(one, finding) for one in accepted)]
    return sorted(findings, key=_order)


def _same_keys(accepted: Trigger | None, found: Trigger | None, ground: Ground) -> bool:
    return accepted is None or (
        found is not None and ground.platform.resolve(accepted) == ground.platform.resolve(found)
    )


def _order(finding: Finding) -> tuple[int, str, str, int, int, str]:
    place = finding.places[0][0] if finding.places else Place("")
    return SEVERITIES.index(finding.severity), finding.rule, place.file, place.line, place.column, finding.message
