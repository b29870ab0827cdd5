"""Ways out of findings: for each finding exact changes with their costs, tried before they are proposed."""

from collections.abc import Iterator, Sequence
from functools import cached_property
from typing import NamedTuple

from ombix.core.audit import Finding, Rule
from ombix.core.audit.fix_costs import (
    ACCEPTED,
    ALL_STATES,
    DISPLACED,
    EXCEPTION,
    FREQUENT,
    HABIT,
    LOST_KEYS,
    LOST_ONLY_KEYS,
    MISSPELT,
    NARROWED,
    NEVER_RAN,
    NEW_KEYS,
    SECOND,
    TEXT_STATES,
    Cost,
    CostedFix,
    WayKind,
)
from ombix.core.audit.model import AuditSubject, is_own
from ombix.core.conditions import NEVER, States
from ombix.core.errors import OmbixError, TangledError
from ombix.core.keymap.bindings import Binding, Unsettled
from ombix.core.keymap.changes import SIDES, Accept, Bind, Correct, KeymapChange, Move, RemoveTakeAway, Settle
from ombix.core.keymap.outcomes import Do
from ombix.core.keys.notation import Trigger, is_family, write
from ombix.core.pressing.free_triggers import FreeTrigger, PlatformAround, Suiting, WantedKeys, free_triggers
from ombix.files import editing as text_editing
from ombix.files import open_conflicts
from ombix.files.disk import absolute
from ombix.work.change.edits import moved_in, narrowed_in, taken_out_of
from ombix.work.look.free import around
from ombix.workspace.keymap_editing import KeymapEditing, check_only_changed
from ombix.workspace.keymap_file import KeymapFile, entry_name
from ombix.workspace.what_if import WorkspaceWhatIf, is_same, new_findings

MOST_WAYS = 5
"""Ways out of a finding that are proposed."""
_MOST_TRIED = 24
_NEAREST = 4
_PER_BINDING = 40
"""Free keys that a binding may be put on where all is settled at once."""


class SettleScope(NamedTuple):
    """What is settled: findings of which rules, on which platform, in which editor (empty: in the keymap by itself); and the reason
    with which a finding may be accepted (empty: none is)."""

    rules: tuple[Rule, ...]
    platform: str
    editor: str = ""
    why: str = ""


class TriedFix(NamedTuple):
    """A way out that was tried: the text of the file with it."""

    way: CostedFix
    text: str


class FixSearch:
    """Looks for ways out in one text of the workspace's keymap file."""

    def __init__(self, editing: KeymapEditing, file: KeymapFile, of: SettleScope) -> None:
        self._editing = editing
        self.file = file
        self._shipped = editing.resources.shipped
        self.of = of

    def with_text(self, text: str) -> "FixSearch":
        """The same in another text."""
        return FixSearch(self._editing, self._editing.reread(self.file.path, text), self.of)

    def trial_of(self, text: str, proposes: bool = False) -> WorkspaceWhatIf:
        """The workspace with another text of the file."""
        return WorkspaceWhatIf(
            self._editing.opener, self._editing.resources, {self.file.path: text}, self.of.editor, proposes
        )

    # --- findings

    @cached_property
    def trial(self) -> WorkspaceWhatIf:
        """The workspace with this text."""
        return self.trial_of(self.file.text, proposes=True)

    @cached_property
    def subject(self) -> AuditSubject:
        """What is audited on the platform at hand."""
        return self.trial.subject(self.of.platform)

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """The findings of the chosen rules."""
        return self.trial.findings(self.of.platform, self.of.rules)

    def after(self, changes: Sequence[KeymapChange]) -> str:
        """The text with changes. Raises OmbixError where they cannot be made."""
        edited = text_editing.apply(self.file.text, changes).text
        after = self._editing.keymap_of(self.file.path, edited)
        check_only_changed(self.file.own, after.layers[-1], changes)
        return edited

    # --- ways out of one finding

    def ways(self, finding: Finding, most: int = MOST_WAYS) -> list[TriedFix]:
        """The ways out of a finding, the cheapest first: each was tried, takes the finding away, and adds none."""
        found: list[TriedFix] = []
        kinds: dict[tuple[str, tuple[str, ...]], int] = {}
        candidates = sorted(
            {way.changes: way for way in self.candidates(finding)}.values(),
            key=lambda way: (round(way.cost, 9), way.changes != (), str(way.changes)),
        )
        for way in candidates[:_MOST_TRIED]:
            alike = (way.kind, way.touches)
            if len(found) >= most or kinds.get(alike, 0) >= 2:
                continue
            text = self.tried(way, finding)
            if text is not None:
                kinds[alike] = kinds.get(alike, 0) + 1
                found.append(TriedFix(way, text))
        return found

    def tried(self, way: CostedFix, finding: Finding) -> str | None:
        """The text with a way, where it takes the finding away and adds none on any platform."""
        try:
            text = self.after(way.changes)
            trial = self.trial_of(text)
            for platform in (
                self.of.platform,
                *(platform for platform in self.trial.platforms if platform != self.of.platform),
            ):
                now = trial.findings(platform)
                if platform == self.of.platform and any(is_same(one, finding) for one in now):
                    return None
                brings = way.kind not in ("settle", "correct") and any(
                    True for _ in new_findings(self.trial.findings(platform), now)
                )
                if brings:  # each side of a merge was meant, and so was a misspelt word
                    return None
        except OmbixError:
            return None
        return text

    def candidates(self, finding: Finding, many: bool = False) -> Iterator[CostedFix]:
        """The ways that may do, not tried yet; `many`: with all free keys that suit, not only the nearest."""
        if finding.changes and (self._is_here(finding) or not isinstance(finding.changes[0], Correct)):
            yield self.proposed(finding)
        concerned = self.concerned(finding)
        if finding.winners and len(concerned) > 2:
            yield from self._all_but_one(concerned)
        for binding in concerned:
            yield from self.out_of_the_way(binding, many, not finding.winners)
            yield from self._only_here(binding)
            for states in self._overlaps(binding, finding):
                if way := self._narrowed(binding, states):
                    yield way
            yield from self._for_the_action(binding)
        yield from self._given_back(finding)
        yield from self._settled(finding)
        if self.of.why:
            yield CostedFix(
                "accept",
                (Accept(finding.rule, self.of.why, finding.keys[0] if finding.keys else ()),),
                (Cost(ACCEPTED, "it stays"),),
            )

    def _all_but_one(self, concerned: Sequence[Binding]) -> Iterator[CostedFix]:
        """Of three and more bindings that beat each other, one stays, and the others get keys of their own."""
        for kept in concerned:
            parts: list[CostedFix] = []
            taken: set[Trigger] = set()
            for other in concerned:
                free = next((one for one in self.nearest(other) if one.keys not in taken), None)
                way = self.moved(other, free) if other is not kept and free is not None else None
                if way is not None:
                    parts.append(way)
                    taken |= set(way.takes)
            if len(parts) == len(concerned) - 1:
                yield CostedFix(
                    "move", tuple(change for way in parts for change in way.changes),
                    tuple(cost for way in parts for cost in way.costs), takes=tuple(taken),
                    touches=tuple(name for way in parts for name in way.touches),
                )  # fmt: skip

    def out_of_the_way(self, binding: Binding, many: bool = True, may_be_dead: bool = False) -> Iterator[CostedFix]:
        """The ways that free the keys of a binding: other keys for it, or none. `may_be_dead`: where it never runs, nobody misses
        it; of two that clash, each was meant."""
        for keys in self.nearest(binding) if many else self._near(binding):
            if way := self.moved(binding, keys):
                yield way
        if way := self._taken_out(binding, may_be_dead):
            yield way

    def narrowed_against(self, binding: Binding, other: Binding) -> Iterator[CostedFix]:
        """The way that has a binding no longer hold where another one does."""
        if way := self._narrowed(binding, self.subject.states(other)):
            yield way

    def proposed(self, finding: Finding) -> CostedFix:
        """The changes that the rule itself proposes."""
        first = finding.changes[0]
        if isinstance(first, Correct):
            return CostedFix("correct", finding.changes, (Cost(MISSPELT, "one word"),))
        kind: WayKind = "bind" if isinstance(first, Bind) else "move" if isinstance(first, Move) else "take out"
        keys = tuple(
            to
            for change in finding.changes
            if (to := getattr(change, "to", ()) or getattr(change, "keys", ())) and isinstance(to, tuple)
        )
        bindings = [one for one in self.concerned(finding) if entry_name(one) == getattr(first, "name", "")]
        costs: tuple[Cost, ...] = (Cost(NEW_KEYS, "new keys to learn"),)
        if bindings and kind != "bind":
            way = (
                self._taken_out(bindings[0])
                if kind == "take out"
                else self.moved(bindings[0], FreeTrigger(keys[0], 0.0, 0.0, (), ()))
            )
            costs = way.costs if way is not None else costs
        return CostedFix(
            kind,
            finding.changes,
            costs,
            takes=keys if kind != "take out" else (),
            touches=tuple(map(name_of, bindings)),
        )

    def concerned(self, finding: Finding) -> list[Binding]:
        """The user's bindings that a finding is about, as they stand in their files."""
        places = {spot.place for spot in finding.spots}
        found = [
            binding for layer in self.file.layers_with_own for binding in layer.bindings
            if binding.place in places and is_own(binding) and entry_name(binding)
        ]  # fmt: skip
        on_keys = {one.place for one in found if self._is_on(one, finding)}
        return [one for one in found if one.place not in on_keys or self._is_on(one, finding)]

    def _is_here(self, finding: Finding) -> bool:
        """Whether all that a finding is about stands in this file."""
        return all(spot.place.file == absolute(self.file.path) for spot in finding.spots)

    def _is_on(self, binding: Binding, finding: Finding) -> bool:
        """Whether a binding is on keys of a finding."""
        keys = self.subject.platform.resolve(binding.keys)
        return keys in finding.keys or self.subject.settled(keys) in finding.keys

    # --- kinds of ways

    def moved(self, binding: Binding, free: FreeTrigger) -> CostedFix | None:
        """A binding put on free keys."""
        if is_family(binding.keys):
            return None
        times = FREQUENT if self.subject.is_frequent(binding.outcome) else HABIT
        costs = [Cost(times, f"a habit of {binding.outcome}" + (", used all day" if times > HABIT else ""))]
        more = self.around.seconds(free.keys) - self.around.seconds(binding.keys)
        if more > 0 and more != float("inf"):
            costs.append(Cost(SECOND * more * times, f"{more:.2f} s more to press"))
        displaced = list(self.around.defaults(free.keys, self.subject.space.possible))
        costs += [Cost(DISPLACED, f"{does} in {editor} loses its keys") for editor, does in displaced]
        return CostedFix(
            "move",
            tuple(moved_in(binding, free.keys, self.file, self._shipped)),
            tuple(costs),
            takes=(free.keys,),
            touches=(name_of(binding),),
        )

    def _taken_out(self, binding: Binding, may_be_dead: bool = True) -> CostedFix | None:
        name = entry_name(binding)
        keys = self.subject.settled(self.subject.platform.resolve(binding.keys))
        others = [one for one in self.subject.bound.get(name, ()) if one.trigger != keys]
        times = FREQUENT if self.subject.is_frequent(binding.outcome) else HABIT
        table = self.subject.tables.get(keys)
        ran = [row.binding for row in table.rows if row.binding.outcome == binding.outcome] if table is not None else []
        is_here = not binding.platforms or self.of.platform in binding.platforms
        if may_be_dead and is_here and not any(one.place == binding.place for one in ran):
            cost = Cost(NEVER_RAN, "it did nothing there")
        elif others:
            cost = Cost(LOST_KEYS * times, f"{name} has fewer keys")
        else:
            cost = Cost(LOST_ONLY_KEYS * times, f"{name} has no keys any more")
        return CostedFix(
            "take out", tuple(taken_out_of(binding, self.file, self._shipped)), (cost,), touches=(name_of(binding),)
        )

    def _only_here(self, binding: Binding) -> Iterator[CostedFix]:
        """Other keys on the platform at hand alone."""
        outcome = binding.outcome
        is_plain = (
            isinstance(outcome, Do) and not outcome.arguments and binding.where == "always" and not binding.platforms
        )
        if not is_plain or len(self.trial.platforms) < 2 or is_family(binding.keys):
            return
        times = FREQUENT if self.subject.is_frequent(outcome) else HABIT
        for free in self.nearest(binding, self.free_here)[:_NEAREST]:
            costs = (Cost(times * 0.9, f"a habit of {outcome} on {self.of.platform}"), Cost(EXCEPTION, "an exception"))
            change = Bind(entry_name(binding), free.keys, "", self.of.platform)
            yield CostedFix("move", (change,), costs, takes=(free.keys,), touches=(name_of(binding),))

    def _narrowed(self, binding: Binding, gone: States) -> CostedFix | None:
        """A binding that no longer holds in some states."""
        space = self.subject.space
        own = self.subject.states(binding)
        left = space.minus(own, gone)
        if left in (NEVER, own) or self._would_cover(binding, left):
            return None
        try:
            where = space.describe(
                space.minus(space.both(space.states(binding.where, binding.scope), space.possible), gone)
            )
        except TangledError:
            return None
        share = self._given_up(own, left)
        times = FREQUENT if self.subject.is_frequent(binding.outcome) else HABIT
        costs = (
            Cost(NARROWED * times, f"{binding.outcome} in fewer states"),
            Cost(ALL_STATES * share * times, f"{share:.0%} of its states given up"),
        )
        return CostedFix(
            "narrow", tuple(narrowed_in(binding, where, self.file, self._shipped)), costs, touches=(name_of(binding),)
        )

    def _would_cover(self, binding: Binding, states: States) -> bool:
        """Whether a binding of a lower layer, said anew in a higher one, would win over others that it did not win over."""
        if binding.layer.id == self.file.own.name.id:
            return False
        table = self.subject.tables.get(self.subject.settled(self.subject.platform.resolve(binding.keys)))
        others = [row for row in (table.rows if table is not None else ()) if row.binding.outcome != binding.outcome]
        return any(self.subject.space.overlap(row.states, states) for row in others)

    def _given_up(self, own: States, left: States) -> float:
        """Which part of the states of a binding is given up; those in which text is edited count for most."""
        space = self.subject.space

        def part(within: States) -> float:
            return 1 - space.share(space.both(left, within)) / space.share(space.both(own, within))

        everywhere = part(space.possible)
        if space.both(own, space.text) == NEVER:
            return everywhere
        return TEXT_STATES * part(space.text) + (1 - TEXT_STATES) * everywhere

    def _for_the_action(self, binding: Binding) -> Iterator[CostedFix]:
        """A condition that the action can do something in, in place of another one; and more keys, on all platforms."""
        outcome = binding.outcome
        action = self.subject.action_of(outcome)
        if action is None or not isinstance(outcome, Do):
            return
        where = action.fits or action.needs
        if binding.where not in ("always", where):
            costs = (Cost(NARROWED + ALL_STATES / 2, f"{action.name} in other states"),)
            yield CostedFix(
                "narrow",
                tuple(narrowed_in(binding, where, self.file, self._shipped)),
                costs,
                touches=(name_of(binding),),
            )
        if binding.platforms:
            for free in self._near(binding)[:2]:
                change = Bind(
                    action.name,
                    free.keys,
                    "" if binding.where == "always" else binding.where,
                    "",
                    True,
                    outcome.arguments,
                )
                yield CostedFix("bind", (change,), (Cost(NEW_KEYS, "new keys to learn"),), takes=(free.keys,))

    def _given_back(self, finding: Finding) -> Iterator[CostedFix]:
        """Actions whose keys were taken away: the removals taken out, or other keys given."""
        places = {spot.place for spot in finding.spots}
        names = [removal.action for removal in self.file.own.removals if removal.place in places]
        if not names:
            return
        cost = Cost(NEW_KEYS * len(names), "the keys of lower layers and of the editor again")
        yield CostedFix("bind", tuple(RemoveTakeAway(name) for name in names), (cost,), touches=tuple(names))
        free = [one for one in self.free if not one.displaces][: len(names)] or self.free[: len(names)]
        changes = tuple(Bind(name, one.keys) for name, one in zip(names, free, strict=False))
        if len(changes) == len(names):
            keys = tuple(one.keys for one in free)
            yield CostedFix(
                "bind",
                changes,
                (Cost(2 * NEW_KEYS * len(names), "new keys to learn"),),
                takes=keys,
                touches=tuple(names),
            )

    @property
    def unsettled(self) -> Sequence[Unsettled]:
        """What a merge left open in the file."""
        return self.file.own.unsettled

    def _settled(self, finding: Finding) -> Iterator[CostedFix]:
        """What a merge left open: as it stands, or as either side had it."""
        places = {spot.place for spot in finding.spots}
        for one in self.unsettled:
            if one.place in places:
                yield CostedFix(
                    "settle", (Settle(one.at, "as it is", one.keys),), (Cost(HABIT, "a change of one side given up"),)
                )
                stands = open_conflicts.standing(self.file.text, one.at) if one.at else None
                for side in SIDES if one.at else ():
                    if open_conflicts.value_of(getattr(one, side)) != stands:
                        cost = Cost(HABIT * 1.5, "what stands there given up")
                        yield CostedFix("settle", (Settle(one.at, side),), (cost,))

    def _overlaps(self, binding: Binding, finding: Finding) -> Iterator[States]:
        """The states that a binding may give up: those of the finding, and those of each other binding in it."""
        space = self.subject.space
        if finding.states not in (NEVER, space.possible):
            yield finding.states
        for other in self.concerned(finding):
            if other is not binding and other.outcome != binding.outcome:
                states = self.subject.states(other)
                if states != space.possible:
                    yield states

    # --- free keys

    @cached_property
    def around(self) -> PlatformAround:
        """The platform at hand, with all that keys have to work in."""
        return self._around(self.of.platform)

    def _around(self, platform: str) -> PlatformAround:
        trial = self.trial
        return around(trial.keymap(platform), trial.subject(platform), trial.editors, trial.resources)

    @cached_property
    def free(self) -> tuple[FreeTrigger, ...]:
        """The keys that are free in all states, on all platforms of the workspace; those that displace nothing first."""
        places = [self._around(platform) for platform in self.trial.platforms]
        states = [place.subject.space.possible for place in places]
        found = free_triggers(places, WantedKeys(), states)
        return tuple(sorted(found, key=lambda one: (bool(one.displaces), one.seconds, write(one.keys))))

    @cached_property
    def free_here(self) -> tuple[FreeTrigger, ...]:
        """The keys that are free on the platform at hand."""
        return tuple(free_triggers([self.around], WantedKeys(), [self.subject.space.possible]))

    def _near(self, binding: Binding) -> list[FreeTrigger]:
        return self.nearest(binding)[:_NEAREST]

    def nearest(self, binding: Binding, free: Sequence[FreeTrigger] | None = None) -> list[FreeTrigger]:
        """The free keys that suit a binding, the best first: of those everywhere, or of these."""
        outcome = binding.outcome
        action = self.subject.action_of(outcome) if isinstance(outcome, Do) else None
        suit = Suiting([self.around], WantedKeys(action, binding.keys))
        scored = [
            one._replace(score=one.score - suit.score(one.keys)[0]) for one in (self.free if free is None else free)
        ]
        return sorted(scored, key=lambda one: (round(one.score, 6), write(one.keys)))[:_PER_BINDING]


def name_of(binding: Binding) -> str:
    """A name for a binding that no other has."""
    return f"{entry_name(binding)} {write(binding.keys)} {binding.where} {binding.place.file}"
