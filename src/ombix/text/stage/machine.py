"""A simulated editor: keys are pressed one by one, decided by its keymap, and done to its state."""

from collections.abc import Mapping, Sequence

from msgspec.structs import replace

from ombix.core.catalogue.actions import COUNT, Action
from ombix.core.conditions import NEVER, Space, States
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.deciding import decision
from ombix.core.keymap.outcomes import MAX_COUNT, Do, Insert, Nothing, Only, Outcome, Play, Press, Step, Type, Until
from ombix.core.keys.notation import SHIFT, Chord, Trigger, write
from ombix.text.stage.action_effects import for_each_cursor, has_effect, insert, run_checked
from ombix.text.stage.folded_lines import out_of_folds
from ombix.text.stage.key_recorder import KeyRecorder
from ombix.text.stage.macro_player import MAX_WORK, Player, StageKeymap
from ombix.text.stage.marks_and_search import moved_along, rubbed_out_of_prompt, typed_into_prompt
from ombix.text.stage.pending_operators import operated
from ombix.text.stage.snippet_fields import follow, to_stop
from ombix.text.stage.stage_state import State

UNDO, REDO, EARLIER, LATER = "history.undo", "history.redo", "history.earlier", "history.later"
RECORD, RECORD_INTO, STOP = "macro.record", "macro.register", "macro.stop"
PLAY, PLAY_REGISTER, PLAY_LAST = "macro.play", "macro.play-register", "macro.again"
PLAY_TIMES, PLAY_LINES, PLAY_TO_END = "macro.times", "macro.each-line", "macro.to-end"
REPEAT, AGAIN = "edit.repeat", "keys.again"
EXPAND, NEXT_STOP, PREVIOUS_STOP, LEAVE = (
    "snippets.expand", "cursor.next-placeholder", "cursor.previous-placeholder", "snippets.leave",
)  # fmt: skip
_IN_TIME = (UNDO, REDO, EARLIER, LATER)
_RECORDING = (RECORD, RECORD_INTO, STOP)
_PLAYING = (PLAY, PLAY_REGISTER, PLAY_LAST, PLAY_TIMES, PLAY_LINES, PLAY_TO_END)
_BY_THE_MACHINE = (
    *_IN_TIME, *_RECORDING, *_PLAYING, REPEAT, AGAIN, EXPAND, NEXT_STOP, PREVIOUS_STOP, LEAVE,
)  # fmt: skip
"""Actions that the machine does itself: they are about what happened before, or about the keymap."""
_RUB_OUT = "edit.delete-left"
_MODE, _PLAIN = "mode", "plain"


class Machine(Player):
    """An editor on the stage. `state` is its text with all that goes with it, `facts` has one value for each fact.

    A pause is told to `pause`; what waits for a time runs when it is long enough.
    """

    def __init__(self, keymap: StageKeymap, state: State, facts: Mapping[str, str]) -> None:
        super().__init__(keymap, state, facts)
        self._pending: Trigger = ()
        self._recorder = KeyRecorder()
        self._waiting: Do | None = None
        """An operator that waits for a movement."""
        self._last_change: tuple[Do | Type, ...] = ()
        self._last_command: Outcome | Step | None = None
        self._goes_on = False
        """Whether what is typed now belongs to the last change."""
        self._count = ""
        """The digits that were pressed before a command, in a mode of commands."""
        self._length = 0
        """The number of chords that led to what is being done."""

    @property
    def waits_for_more(self) -> Trigger:
        """The keys that were pressed and wait for more."""
        return self._pending

    @property
    def waits_for_time(self) -> bool:
        """Whether what waits for more keys is run where none come in time."""
        return bool(self._pending) and self._keymap.policy.prefix == "timed"

    def press(self, keys: Sequence[Chord]) -> None:
        """Press chords one after the other, without a pause."""
        for chord in keys:
            if not self._depth:
                self._begin()
                self._recorder.add(chord)
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
        is_count = not pending and self._is_count(chord) and (bool(self._count) or found.kind != "runs")
        if found.kind == "runs" and found.binding is not None and not is_count:
            self._do(found.binding.outcome, keys, found.reason, found.binding)
            return
        before = self._bound(pending) if pending else None
        if before is not None:
            self._do(before.outcome, pending, f"{write((chord,))} does not go on", before)
            self._press(chord)
        elif is_count:
            self._count += chord.key
            self._note("waits", keys, f"{self._count} times what comes")
        elif found.kind == "types":
            self._type("".join(_character(key) for key in keys), keys)
        else:
            why = f"no sequence goes on with {write((chord,))}" if pending else found.reason
            self._note("nothing", keys, why)

    def _is_count(self, chord: Chord) -> bool:
        """Whether a digit counts what comes: where keys are commands, and none of them begins with it."""
        is_digit = len(chord.key) == 1 and chord.key.isdecimal() and chord.key.isascii() and not chord.modifiers
        space = self._keymap.space
        is_command = space.holds(space.text, self.facts) and not space.holds(space.typing, self.facts)
        return (
            is_digit
            and is_command
            and self.facts.get(_MODE, _PLAIN) != _PLAIN
            and (chord.key != "0" or bool(self._count))
        )

    def _counted(self, outcome: Outcome | Step) -> Outcome | Step:
        """What a count before it makes of something that is done."""
        times, self._count = min(int(self._count or "1"), MAX_COUNT), ""
        if times == 1 or not isinstance(outcome, Do | Play):
            return outcome
        if isinstance(outcome, Play):
            return replace(outcome, times=outcome.times * times)
        rest = tuple(pair for pair in outcome.arguments if pair[0] != COUNT)
        return Do(outcome.action, tuple(sorted((*rest, (COUNT, str(outcome.count * times))))))

    def _bound(self, keys: Trigger) -> Binding | None:
        table = self._keymap.tables.get(keys)
        row = table.at(self._keymap.space, self.facts) if table else None
        return row.binding if row else None

    # --- doing

    def _do(self, outcome: Outcome | Step, keys: Trigger, why: str, binding: Binding | None = None) -> None:
        if not self._may_go_on(keys, outcome):
            return
        if not self._depth:
            self._length, outcome = len(keys), self._counted(outcome)
        last, is_new = self._last_command, not isinstance(outcome, Do) or outcome.action != AGAIN
        match outcome:
            case Do():
                self._has_failed = not self.perform(outcome)
                note = why if self._shows(outcome) else f"{why}; it shows nothing here"
                if self._waiting is outcome:
                    note = f"{why}; it waits for a movement"
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
                for chord in pressed:
                    if not self._ends_round:
                        self.press((chord,))
                self._depth -= 1
            case Insert(snippet=name):
                self._insert(name, keys, why, binding)
            case Play():
                self._play(outcome, keys, why, binding)
            case _:
                self._do_group(outcome, keys, why)
        if not self._depth:
            self._last_command = outcome if is_new else last

    def perform(self, outcome: Do) -> bool:
        """Do an action as many times as it says: to the state where it has an effect on it, and to the facts. Whether it could
        do its work each time."""
        if self._waiting is not None or self._operator(outcome):
            return self._perform_operator(outcome)
        before, is_done = self.state, True
        for _ in range(min(outcome.count, MAX_COUNT)):
            self._work += len(self.state.text)
            if self._work > MAX_WORK:
                return False
            is_done = self._perform_once(outcome.once) and is_done
        if outcome.action not in (*_PLAYING, REPEAT, AGAIN):
            if before.text != self.state.text and outcome.action not in (*_IN_TIME, EXPAND):
                self._history.changed(before, self.state)
                self._last_change = (outcome,)
                self._after_change()
            self._goes_on = False
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
        elif name in _RECORDING:
            self._record(outcome)
        elif name in _PLAYING:
            is_done = self._play_keys(outcome)
        elif name == REPEAT:
            is_done = self._repeat_change()
        elif name == AGAIN:
            is_done = self._last_command is not None
            if self._last_command is not None:
                self._within(self._last_command, "given before")
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
        self._change_facts(outcome)
        return is_done

    def _within(self, outcome: Outcome | Step, why: str) -> None:
        """Do something as a part of what is being done."""
        self._depth += 1
        self._do(outcome, (), why)
        self._depth -= 1

    def _perform_operator(self, outcome: Do) -> bool:
        """Have an operator wait, or do the one that waits over a movement, an object, or, given twice, over lines."""
        waiting, self._waiting = self._waiting, None
        before = self.state
        if waiting is None or (self._operator(outcome) and outcome.action != waiting.action):
            self._waiting = outcome
            return True
        after, is_done = operated(before, waiting, outcome, self._keymap.catalogue)
        if after.text != before.text and self._is_fixed():
            return False
        self.state, is_change = follow(before, after), self._operator(waiting) == "change"
        if before.text != self.state.text:
            self._history.changed(before, self.state)
        if is_done and self._operator(waiting) != "copy":
            self._last_change, self._goes_on = (waiting, outcome), is_change
        if is_done and is_change and self.facts.get(_MODE, _PLAIN) != _PLAIN:
            self._change_facts(Do("mode.insert"))
        self._after_change()
        return is_done

    def _repeat_change(self) -> bool:
        """Do the last change again, and be in the mode in which that was told."""
        change, mode = self._last_change, self.facts.get(_MODE)
        for one in change:
            self._within(one, "changed before")
        self._last_change = change
        if mode is not None:
            self.facts[_MODE] = mode
        return bool(change)

    def _play_keys(self, outcome: Do) -> bool:
        """Press recorded keys again: once, so many times, in each line, or until they fail."""
        told, recorder = dict(outcome.arguments), self._recorder
        keys = (
            recorder.last
            if outcome.action == PLAY_LAST
            else recorder.keys(told.get("slot", "") if outcome.action == PLAY_REGISTER else "")
        )
        if not keys or recorder.is_recording:
            return False
        if outcome.action == PLAY_TO_END:
            self._within(Until((Press(keys),), "end", MAX_COUNT), "recorded before")
        elif outcome.action == PLAY_LINES:
            self._play_in_lines(keys)
        else:
            times = int(told.get("number", "1")) if outcome.action == PLAY_TIMES else 1
            for _ in range(min(times, MAX_COUNT)):
                self._within(Press(keys), "recorded before")
        return not self._is_stopped

    def _play_in_lines(self, keys: Trigger) -> None:
        """Press keys at the start of each selected line, or of the line of the cursor."""
        start, end = self.state.selection
        first = self.state.text.count("\n", 0, start)
        number = self.state.text.count("\n", start, max(start, end - 1)) + 1
        lines = self.state.text.count("\n")
        for index in range(number):
            grown = self.state.text.count("\n") - lines  # what was played can add lines, or take them away
            starts = [0, *(at + 1 for at, char in enumerate(self.state.text) if char == "\n")]
            at = starts[min(max(first + index + grown, 0), len(starts) - 1)]
            self.state = replace(self.state, cursor=at, anchor=None, goal=None)
            self._within(Press(keys), f"recorded before, line {index + 1}")

    def _become(self, meaning: str) -> None:
        """Have the facts be one of their meanings."""
        space = self._keymap.space
        node = space.means(meaning)
        if node != NEVER:
            led_to = space.example(node)
            names = space.mentioned(space.parse(space.facts.meaning[meaning]))
            self.facts.update({name: led_to[name] for name in names})

    def _record(self, outcome: Do) -> None:
        recorder = self._recorder
        if recorder.is_recording:
            recorder.end(self._length)
        elif outcome.action != STOP:
            recorder.begin(dict(outcome.arguments).get("slot", ""))
        self._become("recording" if recorder.is_recording else "not-recording")

    def _action(self, outcome: Do) -> Action | None:
        return self._keymap.catalogue.actions.get(outcome.action)

    def _operator(self, outcome: Do) -> str:
        """The operator that an action is; empty for none."""
        action = self._action(outcome)
        return action.operator if action is not None else ""

    def _shows(self, outcome: Do) -> bool:
        """Whether an action changes anything that the stage knows of."""
        action = self._action(outcome)
        changes_facts = bool(action and (action.enters or action.leaves or action.sets or action.turns))
        return (
            has_effect(outcome, self._keymap.catalogue)
            or outcome.action in _BY_THE_MACHINE
            or changes_facts
            or bool(self._operator(outcome))
        )

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
        before, self._waiting = self.state, None
        typed = moved_along(before, for_each_cursor(before, lambda one: _typed(one, text)))
        self.state = out_of_folds(before, follow(before, typed), False)
        self._history.changed(before, self.state)
        self._typed_too(text)
        self._after_change()
        self._note("types", keys, why, text=text)

    def _typed_too(self, text: str) -> None:
        """What was typed belongs to the last change where that goes on."""
        last = self._last_change if self._goes_on else ()
        if last and isinstance(last[-1], Type):
            self._last_change = (*last[:-1], Type(last[-1].text + text))
        else:
            self._last_change = (*last, Type(text))
        self._goes_on = True

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
