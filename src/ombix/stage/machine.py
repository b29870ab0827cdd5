"""A simulated editor: keys are pressed one by one, decided by its keymap, and done to its state."""

from collections.abc import Mapping, Sequence

from msgspec.structs import replace

from ombix.core.actions import Action
from ombix.core.conditions import NEVER, Space, States
from ombix.core.deciding import decision
from ombix.core.keymap import Binding
from ombix.core.keys import SHIFT, Chord, Trigger, write
from ombix.core.outcomes import MAX_COUNT, Do, Insert, Nothing, Only, Outcome, Play, Press, Step, Type
from ombix.stage.effects import for_each_cursor, has_effect, insert, run_checked
from ombix.stage.filling import follow, to_stop
from ombix.stage.playing import MAX_WORK, Player, StageKeymap
from ombix.stage.remembering import rubbed_out_of_prompt, typed_into_prompt
from ombix.stage.state import State

UNDO, REDO, RECORD, PLAY = "history.undo", "history.redo", "macro.record", "macro.play"
EARLIER, LATER = "history.earlier", "history.later"
EXPAND, NEXT_STOP, PREVIOUS_STOP, LEAVE = (
    "snippets.expand", "cursor.next-placeholder", "cursor.previous-placeholder", "snippets.leave",
)  # fmt: skip
_IN_TIME = (UNDO, REDO, EARLIER, LATER)
_BY_THE_MACHINE = (*_IN_TIME, RECORD, PLAY, EXPAND, NEXT_STOP, PREVIOUS_STOP, LEAVE)
"""Actions that the machine does itself: they are about what happened before, or about the keymap."""
_RUB_OUT = "edit.delete-left"


class Machine(Player):
    """An editor on the stage. `state` is its text with all that goes with it, `facts` has one value for each fact.

    A pause is told to `pause`; what waits for a time runs when it is long enough.
    """

    def __init__(self, keymap: StageKeymap, state: State, facts: Mapping[str, str]) -> None:
        super().__init__(keymap, state, facts)
        self._pending: Trigger = ()
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
                self._begin()
                if self._recording is not None:
                    self._recording.append(chord)
            self._press(chord)

    def pause(self, milliseconds: int) -> None:
        """Let time pass. What waits for a time runs when it is over."""
        policy = self._keymap.policy
        if not self._pending or policy.prefix != "timed" or milliseconds < policy.wait_ms:
            return
        pending, self._pending = self._pending, ()
        binding = self._bound(pending)
        why = f"nothing followed within {policy.wait_ms} ms"
        if binding is None:
            self._note("nothing", pending, why)
        else:
            self._do(binding.outcome, pending, why, binding)

    def finish(self) -> None:
        """Have what waits come to its end: by time, or by another key that does not go on."""
        self.pause(self._keymap.policy.wait_ms)
        pending, self._pending = self._pending, ()
        binding = self._bound(pending) if pending else None
        if binding is not None:
            self._do(binding.outcome, pending, "another key does not go on", binding)

    # --- deciding

    def _press(self, chord: Chord) -> None:
        keys = (*self._pending, chord)
        one = self._keymap
        found = decision(keys, self.facts, one.tables, one.space, one.catalogue, one.policy)
        if found.kind == "waits":
            self._pending = keys
            also = f"; {found.binding.outcome} after {found.wait_ms} ms" if found.binding and found.wait_ms else ""
            self._note("waits", keys, found.reason + also)
            return
        pending, self._pending = self._pending, ()
        if found.kind == "runs" and found.binding is not None:
            self._do(found.binding.outcome, keys, found.reason, found.binding)
            return
        before = self._bound(pending) if pending else None
        if before is not None:
            self._do(before.outcome, pending, f"{write((chord,))} does not go on", before)
            self._press(chord)
        elif found.kind == "types":
            self._type("".join(_character(each) for each in keys), keys)
        else:
            why = f"no sequence goes on with {write((chord,))}" if pending else found.reason
            self._note("nothing", keys, why)

    def _bound(self, keys: Trigger) -> Binding | None:
        table = self._keymap.tables.get(keys)
        row = table.at(self._keymap.space, self.facts) if table else None
        return row.binding if row else None

    # --- doing

    def _do(self, outcome: Outcome | Step, keys: Trigger, why: str, binding: Binding | None = None) -> None:
        if not self._may_go_on(keys, outcome):
            return
        match outcome:
            case Do():
                self._has_failed = not self.perform(outcome)
                note = why if self._shows(outcome) else f"{why}; it shows nothing here"
                self._note("runs", keys, note, outcome, binding)
            case Nothing():
                reason = binding.why if binding and binding.why else "taken away on purpose"
                self._note("nothing", keys, reason, outcome, binding)
            case Only(editor=editor):
                self._note("runs", keys, f"a command of {editor}, which the stage does not run", outcome, binding)
            case Type(text=text):
                self._type(text, keys, why, is_step=True)
            case Press(keys=pressed):
                self._depth += 1
                self.press(pressed)
                self._depth -= 1
            case Insert(snippet=name):
                self._insert(name, keys, why, binding)
            case Play():
                self._play(outcome, keys, why, binding)
            case _:
                self._do_group(outcome, keys, why)

    def perform(self, outcome: Do) -> bool:
        """Do an action as many times as it says: to the state where it has an effect on it, and to the facts. Whether it could
        do its work each time."""
        is_done = True
        for _ in range(min(outcome.count, MAX_COUNT)):
            self._work += len(self.state.text)
            if self._work > MAX_WORK:
                return False
            is_done = self._perform_once(outcome.once) and is_done
        return is_done

    def _perform_once(self, outcome: Do) -> bool:
        before, name = self.state, outcome.action
        is_done = True
        if before.prompt is not None and name == _RUB_OUT:
            self.state = rubbed_out_of_prompt(before)
            return True
        if name in _IN_TIME:
            past = self._history
            moved = {UNDO: past.undo, REDO: past.redo, EARLIER: past.earlier, LATER: past.later}[name](before)
            is_done, self.state = moved is not before, moved
        elif name == RECORD:
            self._record()
        elif name == PLAY and self._recorded:
            self._do(Press(self._recorded), self._recorded, "recorded before")
        elif name == EXPAND:
            is_done = self._expand()
        elif name in (NEXT_STOP, PREVIOUS_STOP):
            self.state = to_stop(before, 1 if name == NEXT_STOP else -1)
            is_done = self.state is not before
        elif name == LEAVE:
            self.state = replace(before, filling=None)
        elif has_effect(outcome, self._keymap.catalogue):
            goes_round = not self._rounds
            after, is_done = run_checked(outcome, replace(before, goes_round=goes_round), self._keymap.catalogue)
            after = replace(after, goes_round=True)
            if after.text == before.text or not self._is_fixed():
                self.state = follow(before, after)
        if before.text != self.state.text and name not in (*_IN_TIME, EXPAND, PLAY):
            self._history.changed(before, self.state)
        self._change_facts(outcome)
        return is_done

    def _become(self, meaning: str) -> None:
        """Have the facts be one of their meanings."""
        space = self._keymap.space
        node = space.means(meaning)
        if node != NEVER:
            led_to = space.example(node)
            names = space.mentioned(space.parse(space.facts.meaning[meaning]))
            self.facts.update({name: led_to[name] for name in names})

    def _record(self) -> None:
        if self._recording is None:
            self._recording = []
        else:
            self._recorded, self._recording = tuple(self._recording[:-1]), None
        self._become("not-recording" if self._recording is None else "recording")

    def _action(self, outcome: Do) -> Action | None:
        return self._keymap.catalogue.actions.get(outcome.action)

    def _shows(self, outcome: Do) -> bool:
        """Whether an action changes anything that the stage knows of."""
        action = self._action(outcome)
        changes_facts = bool(action and (action.enters or action.leaves or action.sets or action.turns))
        return has_effect(outcome, self._keymap.catalogue) or outcome.action in _BY_THE_MACHINE or changes_facts

    def _change_facts(self, outcome: Do) -> None:
        action, space = self._action(outcome), self._keymap.space
        if action is None:
            return
        for text in filter(None, (action.enters, action.sets)):
            node = space.parse(text)
            led_to = space.example(node)
            self.facts.update({name: led_to[name] for name in space.mentioned(node)})
        if action.turns:
            self.facts[action.turns] = "no" if self.facts[action.turns] == "yes" else "yes"
        if action.leaves and not action.enters and space.holds(space.parse(action.leaves), self.facts):
            was_selected = not self._is("nothing-selected")
            for name in space.mentioned(space.parse(action.leaves)):
                fact = space.facts.by_name[name]
                if fact.rest and not (fact.without and self.facts[name] == fact.without):
                    self.facts[name] = fact.rest
            if was_selected and self._is("nothing-selected"):
                self.state = replace(self.state, anchor=None, marking=False)
        self._after_change()

    def _type(self, text: str, keys: Trigger, why: str = "the keys are not bound", is_step: bool = False) -> None:
        space = self._keymap.space
        prompt = self.state.prompt
        if prompt is not None and not space.holds(space.text, self.facts):
            self.state = typed_into_prompt(self.state, text)
            self._note("types", keys, f"into the question of {prompt.action}", text=text)
            return
        # The text of a step goes in in every mode.
        goes_in = space.holds(space.text if is_step else space.typing, self.facts)
        if not goes_in or self._is_fixed():
            where = "the text cannot be changed" if goes_in else f"not into the text: {self._where()}"
            self._note("nothing", keys, where)
            return
        before = self.state
        self.state = follow(before, for_each_cursor(before, lambda one: _typed(one, text)))
        self._history.changed(before, self.state)
        self._after_change()
        self._note("types", keys, why, text=text)

    def _where(self) -> str:
        """Where the keys go, in the facts that typing depends on."""
        names = [name for name in self.facts if name in self._keymap.space.mentioned(self._keymap.space.typing)]
        return ", ".join(f"the {name} is {self.facts[name]}" for name in names)

    def _after_change(self) -> None:
        if not self.state.has_selection:
            self._become("nothing-selected")
        elif not (self.state.others or self._is("several-selected")):
            self._become("one-selected")
        else:
            self._become("several-selected")
        self._become("several-cursors" if self.state.others else "one-cursor")
        if self._history:
            self._become("changed")


def _typed(state: State, text: str) -> State:
    return insert(state if state.settings.typing_replaces_selection else replace(state, anchor=None), text)


def _character(chord: Chord) -> str:
    return chord.key.upper() if chord.modifiers & SHIFT else " " if chord.key == "Space" else chord.key


def start_state(space: Space, condition: str | States, never: Sequence[str]) -> dict[str, str]:
    """A state of an editor that fulfils a condition, and otherwise the plainest: see `Fact.plainest`.

    `never` are the conditions that no state of the editor fulfils. Raises ValueError where there is no such state.
    """
    node = space.states(condition) if isinstance(condition, str) else space.both(condition, space.possible)
    for text in never:
        node = space.minus(node, space.parse(text))
    if node == NEVER:
        raise ValueError(condition)
    for fact in space.facts.facts:
        for value in fact.plain_order:
            chosen = space.both(node, space.literal(fact.name, [value]))
            if chosen != NEVER:
                node = chosen
                break
    state = space.example(node)
    return {fact.name: state.get(fact.name, fact.values[0]) for fact in space.facts.facts}
