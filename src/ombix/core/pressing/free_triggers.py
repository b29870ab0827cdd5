"""Which keys are free, everywhere that they would have to work, and which of them suit an action."""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from functools import cached_property
from itertools import product
from typing import NamedTuple

from msgspec import Struct

from ombix.core.audit.model import AuditSubject, is_own
from ombix.core.catalogue.actions import Action
from ombix.core.conditions import States
from ombix.core.keymap.deciding import DecisionRow, DecisionTable, running
from ombix.core.keymap.outcomes import Do, Nothing
from ombix.core.keys.notation import ALT, CTRL, MOD, SHIFT, Chord, Trigger, parse, write
from ombix.core.pressing.effort import Effortful
from ombix.core.pressing.nearest_keys import FUNCTION_KEYS
from ombix.core.pressing.terminals import Terminal, in_terminal

_LETTERS = "abcdefghijklmnopqrstuvwxyz0123456789,.-/;'[]=\\`"
_NAMED = ("ArrowUp", "ArrowDown", "ArrowLeft", "ArrowRight", "Home", "End", "PageUp", "PageDown", "Enter", "Backspace",
          "Space", "Delete", "Insert")  # fmt: skip
EXPECTED = ("Mod+C", "Mod+X", "Mod+V", "Mod+Z", "Mod+S", "Mod+F", "F1")
"""Keys that people press everywhere, and expect the same of."""

_INITIAL, _OTHER_WORD, _RELATIVE, _OWN, _SAME_START = 0.16, 0.08, 0.14, 0.10, 0.08
"""How many seconds of effort each kind of nearness makes up for: the first letter of the action, of another word of it; the
key of its opposite; a key that it has; the beginning that its kind of work has. Our own."""
_SMALL_WORDS = ("the", "and", "with", "from", "into", "that", "its", "all")
_A_DEFAULT = 0.6
"""What taking an editor's default key away counts as much as, in seconds. Our own."""


class EditorAround(Struct, frozen=True, dict=True):
    """An editor that keys have to work in: its decisions with the keymap on its defaults, and its terminal."""

    name: str
    tables: Mapping[Trigger, DecisionTable]
    terminal: Terminal
    why_not: Callable[[Trigger], str]
    """Why its file cannot have a trigger; empty where it can."""

    @cached_property
    def starts(self) -> dict[Trigger, list[DecisionTable]]:
        """The beginnings of its sequences."""
        return _starts(self.tables.values())


class PlatformAround:
    """A platform that keys have to work on: the keymap there, its layouts, what is reserved, and its editors."""

    def __init__(self, subject: AuditSubject, editors: Sequence[EditorAround], effortful: Effortful) -> None:
        self.subject = subject
        self.editors = editors
        self.effortful = effortful

    @cached_property
    def _kept(self) -> dict[Chord, str]:
        subject = self.subject
        resolve = subject.platform.resolve
        return {resolve((one.chord,))[0]: f"{one.by} uses it to {one.does}" for one in subject.reserved}

    @cached_property
    def _starts(self) -> dict[Trigger, list[DecisionTable]]:
        """The beginnings of the sequences that are bound."""
        return _starts(self.subject.tables.values())

    @cached_property
    def _arriving(self) -> dict[str, dict[Trigger, Trigger]]:
        """By terminal, what the own keys arrive as."""
        found: dict[str, dict[Trigger, Trigger]] = {}
        for editor in self.editors:
            terminal = editor.terminal
            if terminal.name not in found:
                found[terminal.name] = {terminal.canonical(table): table for table in self.subject.tables}
        return found

    def taken(self, trigger: Trigger, states: States) -> str:
        """Why keys are not free in these states, whatever the editors' defaults are; empty where they are."""
        subject, keys = self.subject, self.subject.platform.resolve(trigger)
        if any(chord in self._kept for chord in keys):
            return next(self._kept[chord] for chord in keys if chord in self._kept)
        settled = subject.settled(keys)
        if reason := self._bound(settled, states):
            return reason
        for setup in subject.setups or ([subject.usual_setup] if subject.usual_setup else []):
            pressed = setup.press_sequence(keys)
            if isinstance(pressed, str):
                return pressed
            if not setup.is_plain(keys) or setup.typed_all(keys) != keys:
                return f"on the layout {setup.layout.title} it is pressed as {setup.show(keys)}"
            if text := setup.swallowed(keys[0]):
                return f"it types {text} on the layout {setup.layout.title}"
        for editor in self.editors:
            there = in_terminal(subject.platform, editor.terminal).resolve(trigger)
            if reason := self._not_in(editor, there, settled if there == keys else there):
                return reason
        return ""

    def _bound(self, keys: Trigger, states: States) -> str:
        space, tables = self.subject.space, self.subject.tables
        table = tables.get(keys)
        for row in table.rows if table is not None else ():
            if not isinstance(row.binding.outcome, Nothing) and space.overlap(row.states, states):
                return f"it is {row.binding.outcome}"
        for length in range(1, len(keys)):
            start = tables.get(keys[:length])
            if start is not None and space.overlap(running(start, space), states):
                return f"{write(keys[:length])}, which it begins with, is {_first(start)}"
        for longer in self._starts.get(keys, ()):
            if space.overlap(running(longer, space), states):
                return f"{write(longer.trigger)} begins with it"
        return ""

    def _not_in(self, editor: EditorAround, keys: Trigger, settled: Trigger) -> str:
        terminal = editor.terminal
        sent = terminal.send(keys)
        if not isinstance(sent, bytes):
            return f"{sent} ({editor.name})"
        other = terminal.canonical(keys)
        if other != keys:
            return f"in {editor.name} it arrives as {write(other)}"
        alike = self._arriving[terminal.name].get(keys)
        if alike is not None and alike != settled:
            return f"in {editor.name} {write(alike)} arrives as it"
        return editor.why_not(keys)

    def defaults(self, trigger: Trigger, states: States) -> Iterator[tuple[str, str]]:
        """The editors whose defaults have these keys in these states, and what they are there."""
        for editor in self.editors:
            keys = in_terminal(self.subject.platform, editor.terminal).resolve(trigger)
            for length in range(1, len(keys) + 1):
                if row := self._default_row(editor.tables.get(keys[:length]), states):
                    yield editor.name, str(row.binding.outcome)
                    break
            else:
                for longer in editor.starts.get(keys, ()):
                    if self._default_row(longer, states):
                        yield editor.name, f"the beginning of {write(longer.trigger)}"
                        break

    def _default_row(self, table: DecisionTable | None, states: States) -> DecisionRow | None:
        """What is an editor's default in a table and in some of these states."""
        for row in table.rows if table is not None else ():
            is_default = not is_own(row.binding) and not isinstance(row.binding.outcome, Nothing)
            if is_default and self.subject.space.overlap(row.states, states):
                return row
        return None

    def seconds(self, trigger: Trigger) -> float:
        """What pressing costs."""
        found = self.effortful.effort(self.subject.platform.resolve(trigger))
        return float("inf") if isinstance(found, str) else found.seconds


class WantedKeys(NamedTuple):
    """What keys are looked for: for an action, or for none; where something else is on them that they should be near to."""

    action: Action | None = None
    near: Trigger = ()


class FreeTrigger(NamedTuple):
    """Keys that are free: what pressing costs, why they suit, and the editors' defaults that they take the place of."""

    keys: Trigger
    seconds: float
    score: float
    reasons: tuple[str, ...]
    displaces: tuple[tuple[str, str], ...]


def free_triggers(
    around: Sequence[PlatformAround], wanted: WantedKeys, where: Sequence[States]
) -> Iterator[FreeTrigger]:
    """Keys that are free on all these platforms, in the states of `where` (those of each platform's space): the best first."""
    suit = Suiting(around, wanted)
    found = []
    for trigger in candidates(around):
        if any(one.taken(trigger, states) for one, states in zip(around, where, strict=True)):
            continue
        pairs = zip(around, where, strict=True)
        displaces = tuple(dict.fromkeys(pair for one, states in pairs for pair in one.defaults(trigger, states)))
        seconds = max(one.seconds(trigger) for one in around)
        bonus, reasons = suit.score(trigger)
        score = seconds - bonus + _A_DEFAULT * bool(displaces)
        found.append(FreeTrigger(trigger, seconds, score, reasons, displaces))
    yield from sorted(found, key=lambda one: (round(one.score, 6), write(one.keys)))


def why_not(around: Sequence[PlatformAround], trigger: Trigger, where: Sequence[States]) -> Iterator[tuple[str, str]]:
    """For each platform on which keys are not free, its name and why."""
    for one, states in zip(around, where, strict=True):
        if reason := one.taken(trigger, states):
            yield one.subject.platform.name, reason


def candidates(around: Sequence[PlatformAround]) -> Iterator[Trigger]:
    """What keys are looked for among: letters, signs, function and named keys with modifiers, and the keys behind the beginnings
    of sequences that the keymap has."""
    held = [sum(bits) for bits in product((0, MOD), (0, ALT), (0, SHIFT))]
    if all(one.subject.platform.main_modifier != CTRL for one in around):
        held += [CTRL, CTRL | SHIFT]
    expected = {parse(keys) for keys in EXPECTED}
    for modifiers in held:
        for key in (*_LETTERS, *FUNCTION_KEYS, *_NAMED):
            is_findable = modifiers & ~SHIFT or key in FUNCTION_KEYS
            is_other_sign = modifiers & SHIFT and len(key) == 1 and not key.isalpha()
            trigger = (Chord(modifiers, key),)
            if is_findable and not is_other_sign and trigger not in expected:
                yield trigger
    for start in _written_starts(around):
        for key in _LETTERS[:36]:
            yield (*start, Chord(0, key))


def _written_starts(around: Sequence[PlatformAround]) -> Iterator[Trigger]:
    """The beginnings of the own sequences, as they are written, the shortest first."""
    found: dict[Trigger, None] = {}
    for one in around:
        for layer in one.subject.own_layers:
            for binding in layer.bindings:
                for length in range(1, len(binding.trigger)):
                    found[binding.trigger[:length]] = None
    yield from sorted(
        (start for start in found if not any("{" in chord.key for chord in start)), key=lambda one: (len(one), one)
    )


class Suiting:
    """How well keys suit an action, and why."""

    def __init__(self, around: Sequence[PlatformAround], wanted: WantedKeys) -> None:
        action = wanted.action
        self._near = wanted.near
        words = [*action.name.partition(".")[2].split("-"), *action.title.lower().split()] if action else []
        self._first = words[:1]
        self._words = [word for word in words[1:] if len(word) > 2 and word not in _SMALL_WORDS]
        self._own: list[Trigger] = []
        self._relatives: list[tuple[str, Trigger]] = []
        self._starts: dict[Trigger, str] = {}
        for layer in around[0].subject.own_layers if action else ():
            for binding in layer.bindings:
                if isinstance(binding.outcome, Do):
                    self._note(binding.outcome.action, binding.trigger, action)

    def _note(self, name: str, trigger: Trigger, action: Action | None) -> None:
        assert action is not None
        if name == action.name:
            self._own.append(trigger)
        elif name == action.inverse:
            self._relatives.append((name, trigger))
        elif name.partition(".")[0] == action.domain and len(trigger) > 1:
            self._starts.setdefault(trigger[:-1], name)

    def score(self, trigger: Trigger) -> tuple[float, tuple[str, ...]]:
        """The seconds that nearness makes up for, and each reason."""
        key, bonus, reasons = trigger[-1].key, 0.0, []
        if any(word[:1] == key for word in self._first):
            bonus, reasons = bonus + _INITIAL, [f"{key.upper()} as in {self._first[0]}"]
        elif word := next((word for word in self._words if word[:1] == key), ""):
            bonus, reasons = bonus + _OTHER_WORD, [f"{key.upper()} as in {word}"]
        for name, other in self._relatives:
            if other[-1].key == key and trigger != other:
                bonus += _RELATIVE
                reasons.append(f"beside {write(other)}, its opposite {name}")
                break
        if any(other[-1].key == key for other in self._own):
            bonus += _OWN
            reasons.append("the key that it has, held otherwise")
        if len(trigger) > 1 and trigger[:-1] in self._starts:
            bonus += _SAME_START
            reasons.append(f"begins as {self._starts[trigger[:-1]]} does")
        if self._near:
            near, said = _nearness(self._near, trigger)
            bonus += near
            reasons += [said] if said else []
        return bonus, tuple(reasons)


def _nearness(old: Trigger, new: Trigger) -> tuple[float, str]:
    before, after = old[-1], new[-1]
    if before.key == after.key and old[:-1] == new[:-1]:
        return _OWN + _INITIAL / (before.modifiers ^ after.modifiers or 1).bit_count(), f"near {write(old)}"
    if before.modifiers == after.modifiers and old[:-1] == new[:-1]:
        return _SAME_START / 2, ""
    return (_OWN, f"the key of {write(old)}") if before.key == after.key else (0.0, "")


def _first(table: DecisionTable) -> str:
    return str(next(row.binding.outcome for row in table.rows if not isinstance(row.binding.outcome, Nothing)))


def _starts(tables: Iterable[DecisionTable]) -> dict[Trigger, list[DecisionTable]]:
    found: dict[Trigger, list[DecisionTable]] = {}
    for table in tables:
        for length in range(1, len(table.trigger)):
            found.setdefault(table.trigger[:length], []).append(table)
    return found
