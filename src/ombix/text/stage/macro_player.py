"""Macros and snippets on the stage: their steps one after the other, bounded, with what happened."""

from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from ombix.core.catalogue.actions import Catalogue
from ombix.core.conditions import Space
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.deciding import DecisionTable, Policy
from ombix.core.keymap.outcomes import Insert, Macro, Outcome, Play, Repeat, Step, Until, When
from ombix.core.keys.notation import Trigger
from ombix.core.snippets.macro_steps import MOST_STEPS, circle_from
from ombix.core.snippets.model import Snippet
from ombix.core.snippets.surroundings import Enclosing, Language
from ombix.text.stage.snippet_fields import choose, put_in, word_before
from ombix.text.stage.stage_state import State
from ombix.text.stage.text_history import UndoTree

MAX_DEPTH = 20
"""Macros that play macros, and keys that press keys."""
MAX_STEPS = MOST_STEPS
"""Steps of one press."""
MAX_WORK = 500_000_000
"""Characters of texts that the steps of one press may go through."""

HappeningKind = Literal["runs", "types", "waits", "nothing"]


class Happening(Struct, frozen=True):
    """One thing that pressing keys led to.

    `runs`: `outcome` was run, because of `binding`. `types`: `text` went into the text, or into a question. `waits`: more
    keys are awaited. `nothing`: nothing came of the keys. `why` says more. `state` and `facts` are those behind it.
    """

    kind: HappeningKind
    keys: Trigger
    why: str
    state: State
    facts: dict[str, str]
    outcome: Outcome | None = None
    binding: Binding | None = None
    text: str = ""


class StageKeymap(Struct, frozen=True):
    """What an editor on the stage decides by: the decisions of its keymap, its macros, and how it decides."""

    tables: Mapping[Trigger, DecisionTable]
    macros: Mapping[str, Macro]
    policy: Policy
    space: Space
    catalogue: Catalogue
    snippets: Mapping[str, Snippet] = {}
    languages: Mapping[str, Language] = {}
    """What is known of languages, for the variables of snippets."""


class Player(ABC):
    """What runs steps on a state: `_do` does one, `_after_change` has the facts follow the state."""

    def __init__(self, keymap: StageKeymap, state: State, facts: Mapping[str, str]) -> None:
        self.state = state
        self.facts = dict(facts)
        self.happened: list[Happening] = []
        self._keymap = keymap
        self._history = UndoTree()
        self._depth = 0
        self._rounds = 0
        """Loops that are being run, one in the other."""
        self._steps = self._work = 0
        self._is_stopped = False
        self._has_failed = False

    def begin_anew(self, state: State) -> None:
        """Go on with another state, with the facts as they are; what happened, and what could be taken back, is forgotten."""
        self.state = state
        self.happened.clear()
        self._history = UndoTree()

    @abstractmethod
    def _do(self, outcome: Outcome | Step, keys: Trigger, why: str, binding: Binding | None = None) -> None: ...

    @abstractmethod
    def _after_change(self) -> None: ...

    def play(self, macro: str, times: int = 1) -> None:
        """Run a macro as if keys had been pressed for it."""
        self._begin()
        self._do(Play(macro, times), (), "it was asked for")

    def put_in(self, snippet: str) -> None:
        """Put a snippet in as if keys had been pressed for it."""
        self._begin()
        self._do(Insert(snippet), (), "it was asked for")

    def fill(self, text: str) -> None:
        """Put a text into the gap of a snippet that is at hand."""
        before, self.state = self.state, choose(self.state, text)
        if before.text != self.state.text:
            self._history.changed(before, self.state)

    @property
    def changes(self) -> int:
        """How many changes can be taken back one after the other."""
        return len(self._history)

    @property
    def is_stopped(self) -> bool:
        """Whether the last press was stopped because it did too much."""
        return self._is_stopped

    @property
    def _ends_round(self) -> bool:
        """Whether nothing more is done of what is being done: all was stopped, or a step failed in a loop that goes on until one
        does."""
        return self._is_stopped or (self._rounds > 0 and self._has_failed)

    def _begin(self) -> None:
        self._steps = self._work = 0
        self._is_stopped = self._has_failed = False

    def _may_go_on(self, keys: Trigger, outcome: Outcome | Step) -> bool:
        """Whether one more step may be done; that it may not is noted once."""
        self._steps += 1
        self._work += len(self.state.text)
        if self._is_stopped:
            return False
        if self._depth > MAX_DEPTH:
            self._note("nothing", keys, "it goes round in a circle", outcome if isinstance(outcome, Play) else None)
            self._has_failed = True
            return False
        if self._steps > MAX_STEPS or self._work > MAX_WORK:
            much = f"{MAX_STEPS:,} steps" if self._steps > MAX_STEPS else "more work than can be waited for"
            self._is_stopped = self._has_failed = True
            self._note("nothing", keys, f"stopped after {much}")
            return False
        return True

    def _play(self, outcome: Play, keys: Trigger, why: str, binding: Binding | None) -> None:
        name, macros = outcome.macro, self._keymap.macros
        macro = macros.get(name)
        circle = circle_from(name, macros) if macro and not self._depth else ()
        if circle:
            why = f"nothing was done: {' plays '.join((*circle, circle[0]))}, a circle"
            self._has_failed = True
            self._note("nothing", keys, why, outcome, binding)
            return
        self._note("runs", keys, why if macro else "there is no such macro", outcome, binding)
        self._depth += 1
        self._run(macro.steps if macro else (), keys, f"a step of {name}", outcome.times)
        self._depth -= 1

    def _do_group(self, group: Repeat | Until | When, keys: Trigger, why: str) -> None:
        if isinstance(group, Until):
            self._repeat_until(group, keys, why)
        elif isinstance(group, Repeat):
            self._run(group.steps, keys, why, group.times)
        else:
            space = self._keymap.space
            if space.holds(space.parse(group.where, group.scope), self.facts):
                self._run(group.steps, keys, why)

    def _run(self, steps: Sequence[Step], keys: Trigger, why: str, times: int = 1) -> None:
        for _ in range(times):
            for step in steps:
                if self._ends_round:
                    return
                self._do(step, keys, why)

    def _repeat_until(self, loop: Until, keys: Trigger, why: str) -> None:
        """Steps again and again, each round up to the first step that fails. No search begins anew at the other end, and a
        round that changes nothing is the last one."""
        self._rounds += 1
        if not self._round_after_round(loop, keys, why):
            self._note("nothing", keys, f"stopped after {loop.most} rounds")
        self._rounds -= 1
        self._has_failed = False

    def _round_after_round(self, loop: Until, keys: Trigger, why: str) -> bool:
        """Whether the steps came to their end before they had been done as often as they may."""
        for count in range(loop.most):
            before, facts = self.state, dict(self.facts)
            if loop.until == "end" and before.cursor >= len(before.text):
                return True
            for step in loop.steps:
                self._has_failed = False
                self._do(step, keys, f"{why}, round {count + 1}")
                if self._has_failed or self._is_stopped:
                    return True
            if (self.state, self.facts) == (before, facts):
                return True
        return False

    def _insert(self, name: str, keys: Trigger, why: str, binding: Binding | None) -> None:
        snippet = self._keymap.snippets.get(name)
        if snippet is None:
            self._has_failed = True
            self._note("nothing", keys, "there is no such snippet", Insert(name), binding)
            return
        if self._is_fixed():
            self._note("nothing", keys, "the text cannot be changed", Insert(name), binding)
            return
        before = self.state
        self.state = put_in(snippet, before, self._enclosing())
        self._history.changed(before, self.state)
        self._after_change()
        self._note("runs", keys, why, Insert(name), binding)

    def _enclosing(self) -> Enclosing | None:
        language = self._keymap.languages.get(self.facts.get("language", ""))
        return language.enclosing if language is not None else None

    def _expand(self) -> bool:
        """Put in the snippet whose word stands before the cursor, in place of the word."""
        space, state = self._keymap.space, self.state
        known = [
            snippet
            for snippet in self._keymap.snippets.values()
            if space.holds(space.parse(snippet.where, snippet.scope), self.facts)
        ]
        found = word_before(state, known)
        if found is None or self._is_fixed():
            return False
        snippet, word = found
        self.state = replace(state, anchor=state.cursor - len(word))
        after = put_in(snippet, self.state, self._enclosing())
        self.state = after
        self._history.changed(state, after)
        return True

    def _is_fixed(self) -> bool:
        """Whether the text cannot be changed."""
        return self._is("fixed")

    def _is(self, meaning: str) -> bool:
        """Whether the state is one of the facts' meanings."""
        space = self._keymap.space
        return space.holds(space.means(meaning), self.facts)

    def _note(
        self, kind: HappeningKind, keys: Trigger, why: str, outcome: Outcome | None = None, binding: Binding | None = None,
        text: str = "",
    ) -> None:  # fmt: skip
        self.happened.append(Happening(kind, keys, why, self.state, dict(self.facts), outcome, binding, text))
