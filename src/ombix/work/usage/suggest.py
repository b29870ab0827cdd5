"""Better keys, given what is used: an assignment at the least cost, each change tried before it is proposed."""

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from functools import cached_property
from typing import NamedTuple

from ombix.core.audit.model import is_own
from ombix.core.conditions import NEVER
from ombix.core.errors import InputError, OmbixError, Place
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.changes import Bind, KeymapChange, Move, Remove, Unbind, in_words
from ombix.core.keymap.outcomes import Do
from ombix.core.keys.notation import SHIFT, Trigger, is_family, write
from ombix.core.pressing.free_triggers import FreeTrigger, Suiting, WantedKeys
from ombix.core.usage.counts import By
from ombix.core.usage.key_assignment import (
    EDITOR_DEFAULT,
    LEARNING_DAYS,
    LETTERS,
    PAIRS,
    WEIGHTS,
    Assignment,
    KeyChoice,
    PairBonus,
    assigned,
    cost_of,
)
from ombix.core.usage.keystroke_model import KeystrokeModel, Methods
from ombix.core.usage.strain import Strain, strain
from ombix.files.disk import Files, absolute
from ombix.files.writer import Contents, Writer
from ombix.work.mend.fixes import FixSearch
from ombix.work.usage.savings import ActionUse
from ombix.work.usage.savings_answer import Range
from ombix.work.usage.suggest_answer import Suggestion, SuggestReport
from ombix.workspace.keymap_file import entry_name
from ombix.workspace.what_if import new_findings

MOST_ACTIONS = 300
_MOST_TRIES = 12
_SLIPS = 0.05
"""Seconds a use that changed keys cost more while they are learnt. Our own."""
_TOGETHER = {
    ("ArrowUp", "ArrowDown"), ("ArrowLeft", "ArrowRight"), ("PageUp", "PageDown"), ("Home", "End"), ("[", "]"), (",", "."),
}  # fmt: skip
"""Keys that people take for opposites."""


class SuggestOptions(NamedTuple):
    """What is wished for: how many changes at most, on which platform, which of them are taken (`all`, or numbers from 1; empty:
    none), and whether nothing is written."""

    most: int = 5
    on: str = ""
    take: str = ""
    dry_run: bool = False


class Considered(NamedTuple):
    """An action that keys are looked for: how often a day it is used, how that is done now, and its binding, where it has one."""

    name: str
    a_day: float
    by: Mapping[By, float]
    binding: Binding | None


class Suggested(NamedTuple):
    """The changes with what is to be said of them, and the text of the keymap with all of them."""

    changes: tuple[tuple[KeymapChange, ...], ...]
    said: tuple[Suggestion, ...]
    before: float
    after: float
    gap: float
    considered: int
    free: int
    strain: tuple[Strain, Strain]


class Suggesting:
    """Looks for better keys in a keymap, for what is used."""

    def __init__(
        self, ways: FixSearch, used: Sequence[ActionUse], weights: Mapping[str, float], model: KeystrokeModel
    ) -> None:
        self._ways = ways
        self._used = {one.action: one for one in used}
        self._weights = {name: weights.get(name, 1.0) for name in WEIGHTS}
        self._model = model
        self._methods = Methods(model)

    def suggest(self, most: int) -> Suggested:
        """No more than so many changes. Each was tried: none brings a finding on any platform of the workspace."""
        forbidden: set[tuple[int, int]] = set()
        for _ in range(_MOST_TRIES):
            choices = [choice for choice in self._choices if (choice.action, choice.keys) not in forbidden]
            found = assigned(choices, self._bonuses(choices), most)
            changed = [choices[number] for number in found.chosen if choices[number].is_change]
            bad = self._bringing(changed)
            if not bad:
                return self._suggested(found, choices, changed)
            forbidden |= {(one.action, one.keys) for one in bad}
        choices = [choice for choice in self._choices if not choice.is_change]
        return self._suggested(assigned(choices, (), 0), choices, [])

    # --- what is considered

    @cached_property
    def _actions(self) -> list[Considered]:
        ways, subject = self._ways, self._ways.subject
        own = [binding for binding in ways.file.own.bindings if is_own(binding) and entry_name(binding)]
        count = Counter(entry_name(one) for one in own)
        on_keys = Counter(subject.platform.resolve(one.keys) for one in own)
        found = []
        for one in own:
            name = entry_name(one)
            is_plain = (
                not one.platforms and not is_family(one.keys) and on_keys[subject.platform.resolve(one.keys)] == 1
            )
            if count[name] == 1 and is_plain and not (isinstance(one.outcome, Do) and one.outcome.arguments):
                use = self._used.get(name)
                found.append(Considered(name, sum(use.by.values()) if use else 0.0, use.by if use else {}, one))
        bound = {entry_name(one) for one in own}
        for name, use in self._used.items():
            action = subject.catalogue.actions.get(name)
            others = sum(times for way, times in use.by.items() if way != "keys")
            is_missing = not use.trigger or others > use.by.get("keys", 0.0)
            if name not in bound and action is not None and not action.arguments and is_missing and others:
                found.append(Considered(name, others, {k: v for k, v in use.by.items() if k != "keys"}, None))
        found.sort(key=lambda one: (-one.a_day, one.name))
        return found[:MOST_ACTIONS]

    @cached_property
    def _keys(self) -> list[FreeTrigger]:
        """The keys that are free, and those that the actions have, which become free where one moves."""
        around = self._ways.around
        present = [action.binding.keys for action in self._actions if action.binding is not None]
        held = {around.subject.platform.resolve(keys) for keys in present}
        free = [one for one in self._ways.free if around.subject.platform.resolve(one.keys) not in held]
        alone = [one for one in free if not any(_begins(one.keys, other) for other in present)]
        possible = around.subject.space.possible
        own = [
            FreeTrigger(keys, around.seconds(keys), 0.0, (), tuple(around.defaults(keys, possible))) for keys in present
        ]
        return [*own, *alone]

    @cached_property
    def _choices(self) -> list[KeyChoice]:
        found = []
        around = [self._ways.around]
        for number, action in enumerate(self._actions):
            known = self._ways.subject.catalogue.actions.get(action.name)
            suit = Suiting(around, WantedKeys(known))
            if action.binding is None:
                found.append(KeyChoice(number, -1, action.a_day * (self._now(action) - self._model.mental), False))
            for at, one in enumerate(self._keys):
                is_own = action.binding is not None and one.keys == action.binding.keys
                if (at < len(self._present) and not is_own and self._is_narrow(at)) or one.seconds == float("inf"):
                    continue
                found.append(KeyChoice(number, at, self._cost(action, one, suit, is_own), not is_own))
        return found

    @cached_property
    def _present(self) -> list[Considered]:
        """The actions whose keys stand first among the keys, in that order."""
        return [action for action in self._actions if action.binding is not None]

    def _is_narrow(self, at: int) -> bool:
        """Whether keys that an action has are not its alone in all states: others may have them elsewhere."""
        binding = self._present[at].binding
        assert binding is not None
        subject = self._ways.subject
        table = subject.tables.get(subject.settled(subject.platform.resolve(binding.keys)))
        rows = [row for row in table.rows if is_own(row.binding)] if table is not None else []
        waits = table is not None and table.waits != NEVER
        return len(binding.keys) > 1 or waits or any(row.binding.place != binding.place for row in rows)

    def _now(self, action: Considered) -> float:
        """Seconds each time, as it is started now."""
        total = sum(action.by.values()) or 1.0
        return sum(self._methods.by(way).usual * times for way, times in action.by.items()) / total

    def _cost(self, action: Considered, one: FreeTrigger, suit: Suiting, is_present: bool) -> float:
        weights = self._weights
        bonus, _reasons = suit.score(one.keys)
        cost = action.a_day * (weights["effort"] * one.seconds + weights["letters"] * max(0.0, LETTERS - bonus))
        if not is_present:
            learning = self._model.look_up * sum(self._model.look_ups) / 2 / LEARNING_DAYS
            cost += weights["habits"] * (learning + action.a_day * _SLIPS)
            cost += weights["editors"] * EDITOR_DEFAULT * len(one.displaces)
        return cost

    def _bonuses(self, choices: Sequence[KeyChoice]) -> list[PairBonus]:
        """Opposites on keys that belong together."""
        place = {one.name: number for number, one in enumerate(self._actions)}
        at = {(one.action, one.keys): number for number, one in enumerate(choices)}
        partners: dict[tuple[Trigger, int], list[int]] = {}
        for number, one in enumerate(self._keys):
            last = one.keys[-1]
            partners.setdefault((one.keys[:-1], last.modifiers), []).append(number)
        found = []
        catalogue = self._ways.subject.catalogue.actions
        for name, first in place.items():
            known = catalogue.get(name)
            second = place.get(known.inverse or "") if known is not None else None
            if second is None or first >= second:
                continue
            worth = self._weights["pairs"] * PAIRS * (self._actions[first].a_day + self._actions[second].a_day)
            for low, high in self._together:
                for pair in ((low, high), (high, low)):
                    numbers = at.get((first, pair[0])), at.get((second, pair[1]))
                    if worth and numbers[0] is not None and numbers[1] is not None:
                        found.append(PairBonus(numbers[0], numbers[1], worth))
        return found

    @cached_property
    def _together(self) -> list[tuple[int, int]]:
        """Pairs of keys that belong together: with Shift and without, and those that people take for opposites."""
        numbers = {one.keys: number for number, one in enumerate(self._keys)}
        found = []
        for keys, number in numbers.items():
            last = keys[-1]
            others = [last._replace(modifiers=last.modifiers ^ SHIFT)] if not last.modifiers & SHIFT else []
            others += [last._replace(key=second) for first, second in _TOGETHER if last.key == first]
            found += [(number, numbers[other]) for one in others if (other := (*keys[:-1], one)) in numbers]
        return found

    # --- tried, and said

    def _changes(self, one: KeyChoice) -> tuple[KeymapChange, ...]:
        action, keys = self._actions[one.action], self._keys[one.keys]
        if action.binding is None:
            return (Bind(action.name, keys.keys),)
        way = self._ways.moved(action.binding, keys)
        return way.changes if way is not None else ()

    def _bringing(self, changed: Sequence[KeyChoice]) -> list[KeyChoice]:
        """The changes that cannot be made, or bring findings."""
        bad = [one for one in changed if not self._changes(one)]
        if bad or not changed:
            return bad
        new = self._new(changed)
        if new is None or not new:
            return list(changed) if new is None else []
        keys = {keys for finding in new for keys in finding}
        resolve, settled = self._ways.subject.platform.resolve, self._ways.subject.settled
        mine = [one for one in changed if settled(resolve(self._keys[one.keys].keys)) in keys]
        return mine or list(changed)

    def _new(self, changed: Sequence[KeyChoice]) -> list[tuple[Trigger, ...]] | None:
        """The keys of the findings that changes bring; None where they cannot be made."""
        try:
            text = self._ways.after([change for one in changed for change in self._changes(one)])
            trial = self._ways.trial_of(text)
            found = []
            for platform in self._ways.trial.platforms:
                before, now = self._ways.trial.findings(platform), trial.findings(platform)
                found += [finding.keys for finding in new_findings(before, now)]
        except OmbixError:
            return None
        return found

    def _suggested(self, found: Assignment, choices: Sequence[KeyChoice], changed: Sequence[KeyChoice]) -> Suggested:
        now = [number for number, one in enumerate(choices) if not one.is_change]
        ordered = sorted(changed, key=lambda one: (-self._saves(one).usual, self._actions[one.action].name))
        said = tuple(map(self._said, ordered))
        return Suggested(
            tuple(map(self._changes, ordered)), said, cost_of(choices, self._bonuses(choices), now), found.cost, found.gap,
            len(self._actions), len(self._keys) - len(self._present), (self._strain([]), self._strain(changed)),
        )  # fmt: skip

    def _strain(self, changed: Sequence[KeyChoice]) -> Strain:
        """The strain of all that has keys, with changes."""
        keys = {
            number: one.binding.keys for number, one in enumerate(self._actions) if one.binding is not None
        } | {one.action: self._keys[one.keys].keys for one in changed}  # fmt: skip
        resolve, around = self._ways.subject.platform.resolve, self._ways.around
        used = [(resolve(trigger), self._actions[number].a_day) for number, trigger in keys.items()]
        return strain(used, around.effortful, around.effortful.keyboard)

    def _saves(self, one: KeyChoice) -> Range:
        """Seconds a day: of keys in place of another way, by the Keystroke-Level Model; of other keys, by their effort."""
        action, keys = self._actions[one.action], self._keys[one.keys]
        if action.binding is None:
            method = self._methods.keys(self._ways.subject.platform.resolve(keys.keys))
            found = []
            for at in range(3):
                others = sum(self._methods.by(way).seconds[at] * times for way, times in action.by.items())
                found.append(others - method.seconds[at] * action.a_day)
            return Range(round(min(found), 2), round(found[1], 2), round(max(found), 2))
        less = (self._ways.around.seconds(action.binding.keys) - keys.seconds) * action.a_day
        quick, slow = sorted(
            (self._methods.quick / self._methods.key * less, self._methods.slow / self._methods.key * less)
        )
        return Range(round(quick, 2), round(less, 2), round(slow, 2))

    def _said(self, one: KeyChoice) -> Suggestion:
        action, keys = self._actions[one.action], self._keys[one.keys]
        show = self._ways.subject.platform.show
        resolve = self._ways.subject.platform.resolve
        known = self._ways.subject.catalogue.actions.get(action.name)
        _bonus, reasons = Suiting([self._ways.around], WantedKeys(known)).score(keys.keys)
        why = []
        if action.binding is not None:
            before = self._ways.around.seconds(action.binding.keys)
            why.append(f"{before:.2f} s to {keys.seconds:.2f} s, {action.a_day:,.0f} times a day" if action.a_day >= 1 else
                       f"its keys go to {self._taker(action.binding.keys)}")  # fmt: skip
        else:
            why.append(", ".join(f"{times:,.1f} times a day by {way}" for way, times in action.by.items()))
        why += [reason for reason in reasons if not reason.startswith("the key that it has")]
        why += [f"{does} in {editor} loses its keys" for editor, does in keys.displaces]
        editors = self._ways.trial.keymap(self._ways.of.platform).editors_at_hand
        lacking = [name for name, dialect in editors.items() if not dialect.vocabulary.can_do(action.name)]
        why += [f"not in {' or '.join(lacking)}"] if lacking else []
        does = "; ".join(map(in_words, self._changes(one)))
        old = show(resolve(action.binding.keys)) if action.binding is not None else ""
        return Suggestion(does, action.name, old, show(resolve(keys.keys)), tuple(why), self._saves(one))

    def _taker(self, keys: Trigger) -> str:
        return f"an action that is used more ({write(keys)})"


def carried_out(found: Suggested, ways: FixSearch, options: SuggestOptions, writer: Writer) -> SuggestReport:
    """What was found, and what of it was taken. Raises InputError for a number that there is not, or a file that was changed
    meanwhile."""
    before, after = found.strain
    names = sorted({*before.seconds["finger"], *after.seconds["finger"]})
    loads = tuple(
        (name, round(before.share("finger", name), 4), round(after.share("finger", name), 4)) for name in names
    )
    report = SuggestReport(
        found.said,
        round(found.before, 2),
        round(found.after, 2),
        round(found.gap, 5),
        found.considered,
        found.free,
        "",
        (),
        loads,
    )
    resolve = ways.subject.platform.resolve
    taken = with_what_they_rest_on(_taken(options.take, len(found.changes)), found.changes, resolve)
    if not taken:
        return report
    path = ways.file.path
    text = ways.after([change for number in taken for change in found.changes[number - 1]])

    def contents() -> Contents:
        if Files().read_text(path) != ways.file.text:
            raise InputError("the file was changed meanwhile", "Look for better keys again.", Place(absolute(path)))
        return {path: text.encode("utf-8")}

    writer.change(f"take {len(taken)} suggestion{'s' * (len(taken) != 1)}", contents, options.dry_run)
    return report._replace(file=absolute(path), taken=tuple(taken))


def with_what_they_rest_on(
    taken: Sequence[int], changes: Sequence[Sequence[KeymapChange]], resolve: Callable[[Trigger], Trigger]
) -> list[int]:
    """The numbers that are taken, with those of the changes that free their keys: a part of an assignment whose keys are still
    somebody else's would be a clash."""
    found = list(taken)
    for number in found:  # which grows as it is gone through
        wanted = [keys for one in changes[number - 1] if (keys := getattr(one, "to", None) or getattr(one, "keys", ()))]
        for other, freeing in enumerate(changes, 1):
            freed = [one.keys for one in freeing if isinstance(one, Move | Remove | Unbind)]
            if other not in found and any(_begins(resolve(keys), resolve(left)) for keys in wanted for left in freed):
                found.append(other)
    return found


def _taken(take: str, count: int) -> list[int]:
    """The numbers that are taken."""
    if take in ("", "all"):
        return list(range(1, count + 1)) if take else []
    found = []
    for word in take.replace(",", " ").split():
        if not word.isascii() or not word.isdigit() or not 1 <= int(word) <= count:
            raise InputError(f"there is no suggestion {word}", f"Take all, or numbers from 1 to {count}.")
        found.append(int(word))
    return list(dict.fromkeys(found))


def _begins(keys: Trigger, other: Trigger) -> bool:
    return keys[: len(other)] == other or other[: len(keys)] == keys
