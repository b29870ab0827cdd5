"""Practice: a few keys at a time, repeated at growing intervals, decided in the keymap itself."""

import os
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from typing import TYPE_CHECKING

from msgspec import Struct

from ombix.core.conditions import States
from ombix.core.errors import InputError, did_you_mean
from ombix.core.keymap.deciding import decision
from ombix.core.keymap.outcomes import Do, Nothing, Only, Outcome
from ombix.core.keys.notation import Chord, Trigger, parse, write
from ombix.core.pressing.sent_keys import keys_sent
from ombix.core.pressing.terminals import Terminal
from ombix.files.practice_progress import Memory, Progress
from ombix.text.effects.examples import Example, examples
from ombix.text.stage.machine import start_state
from ombix.work.learn.practice_answer import Grade, PracticeAnswer, PracticeItem, PracticeList
from ombix.work.learn.sheet import PLAIN_STATES
from ombix.workspace.context import setup_at_hand
from ombix.workspace.effective_keymap import EffectiveKeymap
from ombix.workspace.not_in_editor import not_in_editor
from ombix.workspace.resources import Resources

if TYPE_CHECKING:
    from fsrs import Scheduler

TERMINAL = "xterm"
"""The terminal that answers are taken to come from."""
_LONGEST_TEXT = 160
_GOES_OUT = frozenset(b"\x1b")
_EASY, _SLOW = 1.5, 8.0
"""Seconds: an answer that is faster is easy, one that is slower is hard, where time is taken."""


class PracticeOptions(Struct, frozen=True):
    """What is asked: how many, how many new ones among them, only what is named (actions, titles, macros, kinds of work; none:
    all), how often keys are used."""

    count: int = 10
    new: int = 4
    only: tuple[str, ...] = ()
    counts: Mapping[str, int] = {}
    within: str = ""


def now() -> datetime:
    """The time, or that of SOURCE_DATE_EPOCH (reproducible-builds.org), in seconds since 1970."""
    told = os.environ.get("SOURCE_DATE_EPOCH", "")
    return datetime.fromtimestamp(int(told), UTC) if told.isdecimal() else datetime.now(UTC)


class Practice:
    """The things of a keymap, and what is known of them; without a `progress`, nothing is, and nothing is kept. Raises InputError
    for a name or a state that cannot be."""

    def __init__(
        self, here: EffectiveKeymap, progress: Progress | None, options: PracticeOptions, resources: Resources
    ) -> None:
        self._here = here
        self._progress = progress
        self._options = options
        self._resources = resources
        self._terminal: Terminal = resources.shipped.terminal(TERMINAL)
        self._memories = progress.all() if progress is not None else {}
        self._states: dict[str, dict[str, str]] = {}
        self._starts: dict[States, dict[str, str]] = {}
        self._examples: dict[str, dict[str, tuple[Example, ...]]] = {}
        every = self._all()
        # By the first name that means it: what was named first is asked first.
        self._order = {
            does: at for at, name in reversed([*enumerate(options.only)]) for does in self._named(name, every)
        }
        self._items = {one.name: one for one in every if not options.only or one.does in self._order}

    # --- what there is

    def _all(self) -> list[PracticeItem]:
        here, within = self._here, self._here.within(self._options.within)
        rows: dict[tuple[str, str], tuple[Outcome, States, list[Trigger]]] = {}
        for trigger, table in here.tables.items():
            for row in table.rows:
                states = row.states if within is None else here.space.both(row.states, within)
                outcome = row.binding.outcome
                if isinstance(outcome, Nothing | Only) or not here.space.overlap(states, here.space.possible):
                    continue
                found = rows.setdefault((str(outcome), here.when(row, states)), (outcome, states, []))
                found[2].append(trigger)
        return [
            self._item(outcome, states, when, triggers) for (_does, when), (outcome, states, triggers) in rows.items()
        ]

    def _item(self, outcome: Outcome, states: States, when: str, triggers: Sequence[Trigger]) -> PracticeItem:
        keys = tuple(map(write, triggers))
        name = f"{outcome} · {when} · {', '.join(keys)}"
        if states not in self._starts:
            self._starts[states] = start_state(self._here.space, states, ())
        self._states[name] = self._starts[states]
        action = self._here.catalogue.actions.get(outcome.action) if isinstance(outcome, Do) else None
        example = self._example(outcome) if isinstance(outcome, Do) else None
        memory = self._memories.get(name)
        is_sent = any(map(self._is_told, triggers))
        return PracticeItem(
            name, str(outcome), self._here.title(outcome), action.does if action else "",
            "" if when in PLAIN_STATES else when, tuple(map(self._here.context.platform.show, triggers)),
            example.before if example else "", example.after if example else "", is_sent,
            str(memory.card["due"]) if memory else "", memory.right if memory else 0, memory.wrong if memory else 0,
        )  # fmt: skip

    def _is_told(self, trigger: Trigger) -> bool:
        """Whether the terminal sends keys, and as others are not sent: Ctrl+Tab may arrive as Tab, and then Tab would be right."""
        return isinstance(self._terminal.send(trigger), bytes) and self._terminal.canonical(trigger) == trigger

    def _example(self, outcome: Do) -> Example | None:
        """A short text that the action changes, or whose cursor it moves."""
        domain = outcome.domain
        if domain not in self._examples:
            self._examples[domain] = examples(domain, self._resources.shipped.examples(domain))
        for one in self._examples[domain].get(outcome.action, ()):
            if one.before != one.after and not one.arguments and len(one.before) < _LONGEST_TEXT:
                return one
        return None

    # --- what is asked

    def listed(self) -> PracticeList:
        """What is due, what comes later, and what is new; each in the order in which it is asked."""
        at = now().isoformat()
        known = sorted((item for item in self._items.values() if item.due), key=lambda one: one.due)
        due = tuple(one for one in known if one.due <= at)
        later = tuple(one for one in known if one.due > at)
        return PracticeList(at, due, later, tuple(self._new()))

    def _new(self) -> list[PracticeItem]:
        """What was never asked: first what is used most, then what is used all day."""
        counts = {
            write(self._here.context.platform.resolve(parse(keys))): count
            for keys, count in self._options.counts.items()
        }

        def rank(one: PracticeItem) -> tuple[int, bool]:
            action = self._here.catalogue.actions.get(one.does.partition("(")[0])
            used = max((counts.get(keys, 0) for keys in one.name.rpartition(" · ")[2].split(", ")), default=0)
            return -used, not (action is not None and action.frequent)

        return sorted((item for item in self._items.values() if not item.due), key=rank)

    def _named(self, name: str, items: Sequence[PracticeItem]) -> set[str]:
        """What a name means: an action, a macro or a snippet, by its name or its title, or all of a kind of work. Raises InputError
        for what has no keys, and says why an editor cannot have them."""
        wanted = name.lower()
        found = {
            item.does for item in items
            if wanted in (item.does, item.title.lower(), item.does.partition(" ")[2]) or item.does.startswith(f"{name}(")
        }  # fmt: skip
        domains = {name, *(key for key, title in self._here.catalogue.domains.items() if title.lower() == wanted)}
        found = found or {item.does for item in items if item.does.partition(".")[0] in domains}
        if found:
            return found
        lost = next((one for one in not_in_editor(self._here) if wanted in (one.does, one.title.lower())), None)
        if lost is not None and self._here.context.editor is not None:
            raise InputError(
                f"{name} is not on {lost.shown} in {self._here.context.editor.name}: {lost.why}", "See: ombix show"
            )
        known = [*self._here.catalogue.domains, *(item.does for item in items)]
        raise InputError(f"{name} has no keys", did_you_mean(name, known) or "See: ombix show")

    def questions(self) -> list[PracticeItem]:
        """What is asked now: what is due, with new things between, each of these beside what it could be mistaken for."""
        found, options = self.listed(), self._options
        if options.only:  # what was named is asked, be it due or not
            named = sorted((*found.due, *found.new, *found.later), key=lambda one: self._order[one.does])
            return named[: options.count]
        new = list(found.new[: min(options.new, options.count)])
        due = list(found.due[: max(0, options.count - len(new))])
        asked: list[PracticeItem] = []
        while due or new:
            if due:
                asked.append(due.pop(0))
            if new and (not due or len(asked) % 3 == 2):
                one = new.pop(0)
                asked.append(one)
                near = min((other for other in (*due, *new)), key=lambda other: _unlike(one, other), default=None)
                if near is not None and _unlike(one, near) < 2:
                    asked.append(near)
                    (due if near in due else new).remove(near)
        return asked[: options.count]

    def know(self) -> int:
        """Take all that was named as known, without asking; how many things that are."""
        for item in list(self._items.values()):
            self.grade(item, "easy")
        return len(self._items)

    # --- answers

    def state_of(self, item: PracticeItem) -> dict[str, str]:
        """The state in which an item is asked."""
        return self._states[item.name]

    def answer(self, item: PracticeItem, data: bytes) -> PracticeAnswer | None:
        """What the keys that arrived as bytes do where an item is asked; None where more keys are awaited."""
        triggers = [parse(keys) for keys in item.name.rpartition(" · ")[2].split(", ")]
        for trigger in triggers:
            if self._terminal.send(trigger) == data:
                return PracticeAnswer(True, self._here.context.platform.show(trigger), item.title)
        return self._decided(item, tuple(keys_sent(data, self._terminal)[0]))

    def typed(self, item: PracticeItem, keys: str) -> PracticeAnswer | None:
        """What keys that were written do there. Raises InputError for what is no keys."""
        from ombix.work.look.what import read_keys

        return self._decided(item, self._here.context.platform.resolve(read_keys(keys)[0]))

    def _decided(self, item: PracticeItem, keys: tuple[Chord, ...]) -> PracticeAnswer | None:
        here = self._here
        setup = setup_at_hand(here.context, self._resources)
        keys = here.arriving(keys)
        keys = keys if keys in here.tables else here.arriving(setup.typed_all(keys))
        found = decision(keys, self._states[item.name], here.tables, here.space, here.catalogue, here.policy)
        shown = here.context.platform.show(keys)
        if found.kind == "waits":
            return None
        if found.kind == "runs" and found.binding is not None:
            return PracticeAnswer(str(found.binding.outcome) == item.does, shown, here.title(found.binding.outcome))
        return PracticeAnswer(False, shown, "they are typed" if found.kind == "types" else "nothing")

    def grade(self, item: PracticeItem, grade: Grade) -> PracticeItem:
        """Remember how well an item was known, and when it is to be asked again."""
        from fsrs import Card, Rating

        ratings = {"again": Rating.Again, "hard": Rating.Hard, "good": Rating.Good, "easy": Rating.Easy}
        if self._progress is not None:
            self._memories = self._progress.all()  # another session may have gone on meanwhile
        memory = self._memories.get(item.name)
        card: Card = Card.from_dict(dict(memory.card)) if memory else Card(card_id=len(self._memories) + 1, due=now())  # type: ignore[arg-type]
        card, _log = _scheduler().review_card(card, ratings[grade], now())
        is_right = grade != "again"
        right, wrong = (memory.right if memory else 0) + is_right, (memory.wrong if memory else 0) + (not is_right)
        self._memories[item.name] = Memory(dict(card.to_dict()), right, wrong)
        if self._progress is not None:
            self._progress.keep(self._memories)
        found = item._replace(due=str(card.to_dict()["due"]), right=right, wrong=wrong)
        self._items[item.name] = found
        return found


def _scheduler() -> "Scheduler":
    """Without chance in it: the same answers give the same times."""
    from fsrs import Scheduler

    return Scheduler(enable_fuzzing=False)


def graded(tries: int, seconds: float | None) -> Grade:
    """The grade of an answer that was right at a try (0: never), in so many seconds (None: no time was taken)."""
    if tries == 0:
        return "again"
    if tries > 1 or (seconds is not None and seconds > _SLOW):
        return "hard"
    return "easy" if seconds is not None and seconds < _EASY else "good"


def _unlike(one: PracticeItem, other: PracticeItem) -> int:
    """How unlike the keys of two things are: 0 the same key with other modifiers, 1 the same modifiers with another key."""
    first, second = (parse(item.name.rpartition(" · ")[2].split(", ")[0])[-1] for item in (one, other))
    if first.key == second.key:
        return 0
    return 1 if first.modifiers == second.modifiers and len(first.key) == len(second.key) == 1 else 2
