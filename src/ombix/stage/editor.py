"""A simulated editor: keys are pressed one by one, decided by its keymap, and done to a text and to its state."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from ombix.core.actions import Catalogue
from ombix.core.conditions import NEVER, Space
from ombix.core.deciding import Policy, Table, decision
from ombix.core.keymap import MAX_COUNT, Binding, Do, Macro, Nothing, Only, Outcome, Play, Press, Type
from ombix.core.keys import SHIFT, Chord, Trigger, write
from ombix.stage.text import EFFECTS, Habits, Page, insert, run

MAX_DEPTH = 20
"""Macros that play macros, and keys that press keys."""
MAX_STEPS = 10_000
"""Steps of one press."""

REST = {"pane": "text", "popup": "none", "selection": "none", "mode": "normal"}
"""Where an action leads that leaves a state without saying where to."""


@dataclass(frozen=True, slots=True)
class Happened:
    """One thing that pressing keys led to.

    `runs`: `outcome` was run, because of `binding`. `types`: `text` went into the text. `waits`: more keys are awaited.
    `nothing`: nothing came of the keys. `why` says more. `page` and `facts` are those behind it.
    """

    kind: Literal["runs", "types", "waits", "nothing"]
    keys: Trigger
    why: str
    page: Page
    facts: dict[str, str]
    outcome: Outcome | None = None
    binding: Binding | None = None
    text: str = ""


class Editor:
    """An editor on the stage. `tables` are the decisions of its keymap; `facts` its state, one value for each fact.

    A pause is told to `pause`; what waits for a time runs when it is long enough.
    """

    def __init__(
        self, tables: Mapping[Trigger, Table], macros: Mapping[str, Macro], policy: Policy, space: Space,
        catalogue: Catalogue, page: Page, facts: Mapping[str, str], habits: Habits | None = None,
        typing_replaces_selection: bool = True,
    ) -> None:  # fmt: skip
        self.page = page
        self.facts = dict(facts)
        self.happened: list[Happened] = []
        self._tables = tables
        self._macros = macros
        self._policy = policy
        self._space = space
        self._catalogue = catalogue
        self._habits = habits or Habits()
        self._replaces = typing_replaces_selection
        self._pending: Trigger = ()
        self._undo: list[Page] = []
        self._redo: list[Page] = []
        self._depth = 0
        self._steps = 0
        self._recording: list[Chord] | None = None
        self._recorded: Trigger = ()

    @property
    def waits_for_more(self) -> Trigger:
        """The keys that were pressed and wait for more."""
        return self._pending

    def press(self, keys: Sequence[Chord]) -> None:
        """Press chords one after the other, without a pause."""
        for chord in keys:
            if not self._depth:
                self._steps = 0
                if self._recording is not None:
                    self._recording.append(chord)
            self._press(chord)

    def pause(self, milliseconds: int) -> None:
        """Let time pass. What waits for a time runs when it is over."""
        if not self._pending or self._policy.prefix != "timed" or milliseconds < self._policy.wait_ms:
            return
        pending, self._pending = self._pending, ()
        binding = self._bound(pending)
        if binding is None:
            self._note("nothing", pending, f"nothing followed within {self._policy.wait_ms} ms")
        else:
            self._run(binding, pending, f"nothing followed within {self._policy.wait_ms} ms")

    def finish(self) -> None:
        """Have what waits come to its end: by time, or by another key that does not go on."""
        self.pause(self._policy.wait_ms)
        pending, self._pending = self._pending, ()
        binding = self._bound(pending) if pending else None
        if binding is not None:
            self._run(binding, pending, "another key does not go on")

    # --- deciding

    def _press(self, chord: Chord) -> None:
        keys = (*self._pending, chord)
        found = decision(keys, self.facts, self._tables, self._space, self._catalogue, self._policy)
        if found.kind == "waits":
            self._pending = keys
            also = f"; {found.binding.outcome} after {found.wait_ms} ms" if found.binding and found.wait_ms else ""
            self._note("waits", keys, found.reason + also)
            return
        pending, self._pending = self._pending, ()
        if found.kind == "runs" and found.binding is not None:
            self._run(found.binding, keys, found.reason)
            return
        before = self._bound(pending) if pending else None
        if before is not None:
            self._run(before, pending, f"{write((chord,))} does not go on")
            self._press(chord)
        elif found.kind == "types":
            self._type("".join(_character(one) for one in keys), keys)
        else:
            why = f"no sequence goes on with {write((chord,))}" if pending else found.reason
            self._note("nothing", keys, why)

    def _bound(self, keys: Trigger) -> Binding | None:
        table = self._tables.get(keys)
        row = table.at(self._space, self.facts) if table else None
        return row.binding if row else None

    # --- doing

    def _run(self, binding: Binding, keys: Trigger, why: str) -> None:
        self._do(binding.outcome, keys, why, binding)

    def _do(self, outcome: Outcome | Press | Type, keys: Trigger, why: str, binding: Binding | None = None) -> None:
        self._steps += 1
        if self._depth > MAX_DEPTH or self._steps > MAX_STEPS:
            self._note("nothing", keys, "it goes round in a circle", outcome if isinstance(outcome, Play) else None)
            return
        if isinstance(outcome, Do):
            self.perform(outcome)
            note = why if outcome.action in EFFECTS or self._changes_facts(outcome) else f"{why}; it shows nothing here"
            self._note("runs", keys, note, outcome, binding)
        elif isinstance(outcome, Nothing):
            self._note(
                "nothing", keys, binding.why if binding and binding.why else "taken away on purpose", outcome, binding
            )
        elif isinstance(outcome, Only):
            self._note("runs", keys, f"a command of {outcome.editor}, which the stage does not run", outcome, binding)
        elif isinstance(outcome, Type):
            self._type(outcome.text, keys, why, is_step=True)
        elif isinstance(outcome, Press):
            self._depth += 1
            self.press(outcome.keys)
            self._depth -= 1
        else:
            macro = self._macros.get(outcome.macro)
            self._note("runs", keys, why if macro else "there is no such macro", outcome, binding)
            self._depth += 1
            for step in macro.steps if macro else ():
                self._do(step, keys, f"a step of {outcome.macro}")
            self._depth -= 1

    def perform(self, outcome: Do) -> None:
        """Do an action as many times as it says: to the text where it has an exact effect on it, and to the state."""
        for _ in range(min(outcome.count, MAX_COUNT)):
            self._perform_once(outcome)

    def _perform_once(self, outcome: Do) -> None:
        before = self.page
        name = outcome.action
        if name in EFFECTS:
            if self.facts.get("readonly") != "yes" or run(name, self.page, self._habits).text == self.page.text:
                self.page = run(name, self.page, self._habits)
        elif name == "history.undo" and self._undo:
            self._redo.append(self.page)
            self.page = self._undo.pop()
        elif name == "history.redo" and self._redo:
            self._undo.append(self.page)
            self.page = self._redo.pop()
        elif name == "macro.record":
            self._record()
        elif name == "macro.play" and self._recorded:
            self._do(Press(self._recorded), self._recorded, "recorded before")
        if before.text != self.page.text and not name.startswith("history."):
            self._undo.append(before)
            self._redo.clear()
        self._change_facts(outcome)

    def _record(self) -> None:
        if self._recording is None:
            self._recording = []
        else:
            self._recorded, self._recording = tuple(self._recording[:-1]), None
        if "recording" in self.facts:
            self.facts["recording"] = "no" if self._recording is None else "yes"

    def _changes_facts(self, outcome: Do) -> bool:
        action = self._catalogue.actions.get(outcome.action)
        is_known = outcome.action in ("history.undo", "history.redo", "macro.record", "macro.play")
        return is_known or bool(action and (action.enters or action.leaves or action.sets))

    def _change_facts(self, outcome: Do) -> None:
        action = self._catalogue.actions.get(outcome.action)
        if action is None:
            return
        for text in filter(None, (action.enters, action.sets)):
            node = self._space.parse(text)
            led_to = self._space.example(node)
            self.facts.update({name: led_to[name] for name in self._space.mentioned(node)})
        if action.leaves and not action.enters:
            for name in REST.keys() & self._space.mentioned(self._space.parse(action.leaves)):
                if name != "mode" or self.facts["mode"] != "plain":
                    self.facts[name] = REST[name]
                if name == "selection":
                    self.page = replace(self.page, anchor=None, marking=False)
        self._after_change()

    def _type(self, text: str, keys: Trigger, why: str = "the keys are not bound", is_step: bool = False) -> None:
        types = is_step or self.facts.get("mode") in ("plain", "insert")  # the text of a step goes in in every mode
        goes_in = self.facts.get("pane") == "text" and types
        if not goes_in or self.facts.get("readonly") == "yes":
            where = "the text cannot be changed" if goes_in else f"not into the text: {self._where()}"
            self._note("nothing", keys, where)
            return
        before = self.page
        if not self._replaces:
            self.page = replace(self.page, anchor=None)
        self.page = insert(self.page, text)
        self._undo.append(before)
        self._redo.clear()
        self._after_change()
        self._note("types", keys, why, text=text)

    def _where(self) -> str:
        return f"the pane is {self.facts.get('pane')}, the mode {self.facts.get('mode')}"

    def _after_change(self) -> None:
        if "selection" in self.facts and not (self.facts["selection"] == "many" and self.page.has_selection):
            self.facts["selection"] = "one" if self.page.has_selection else "none"
        if "modified" in self.facts and self._undo:
            self.facts["modified"] = "yes"

    def _note(
        self, kind: Literal["runs", "types", "waits", "nothing"], keys: Trigger, why: str, outcome: Outcome | None = None,
        binding: Binding | None = None, text: str = "",
    ) -> None:  # fmt: skip
        self.happened.append(Happened(kind, keys, why, self.page, dict(self.facts), outcome, binding, text))


def _character(chord: Chord) -> str:
    return chord.key.upper() if chord.modifiers & SHIFT else " " if chord.key == "Space" else chord.key


def start_state(space: Space, condition: str, never: Sequence[str]) -> dict[str, str]:
    """A state of an editor that fulfils a condition, and otherwise the plainest: text, nothing selected, nothing open.

    `never` are the conditions that no state of the editor fulfils. Raises ValueError where there is no such state.
    """
    node = space.states(condition)
    for text in never:
        node = space.minus(node, space.parse(text))
    if node == NEVER:
        raise ValueError(condition)
    for fact in space.facts.facts:
        for value in (_PLAINEST.get(fact.name, ()), fact.values):
            chosen = next(
                (one for each in value if (one := space.both(node, space.literal(fact.name, [each]))) != NEVER), None
            )
            if chosen is not None:
                node = chosen
                break
    state = space.example(node)
    return {fact.name: state.get(fact.name, fact.values[0]) for fact in space.facts.facts}


_PLAINEST: dict[str, tuple[str, ...]] = {
    "pane": ("text",), "mode": ("plain", "normal", "insert"), "selection": ("none", "one"), "popup": ("none",),
    "readonly": ("no",), "modified": ("no",), "program": ("stopped",), "recording": ("no",),
}  # fmt: skip
