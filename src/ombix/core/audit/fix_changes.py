"""Ways out of findings: keys that are free here, and the changes that put something on them."""

from collections.abc import Iterator
from itertools import product

from ombix.core.audit.model import AuditSubject
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.changes import Bind, KeymapChange, Move, Remove
from ombix.core.keymap.outcomes import Do, Insert, Play
from ombix.core.keys.notation import ALT, CTRL, MOD, SHIFT, Chord, Trigger, parse
from ombix.core.pressing.nearest_keys import FUNCTION_KEYS, FreeKeys

_LETTERS = "abcdefghijklmnopqrstuvwxyz0123456789"
_NAMED = ("ArrowUp", "ArrowDown", "ArrowLeft", "ArrowRight", "Home", "End", "PageUp", "PageDown", "Enter", "Backspace")

_EXPECTED = ("Mod+C", "Mod+X", "Mod+V", "Mod+Z", "Mod+S", "Mod+F", "F1")
"""Keys that people press everywhere, and expect the same of."""


def free_key(subject: AuditSubject, near: Trigger) -> Trigger | None:
    """The nearest key that nothing has, that nothing begins with, that arrives everywhere as no other, and that can be
    pressed as it reads on all layouts of the workspace; None where there is none.

    Different keys get different ones: who follows all proposals makes no clash.
    """
    if not subject.proposes:
        return None
    platform = subject.platform
    found = _pool(subject).nearest(platform.resolve(near))
    if found is None or not any(chord.modifiers & MOD for chord in near):
        return found
    # Whoever wrote Mod gets keys that are written so.
    main = platform.main_modifier
    return tuple(
        chord._replace(modifiers=chord.modifiers & ~main | MOD) if chord.modifiers & main else chord for chord in found
    )


def move_away(subject: AuditSubject, binding: Binding) -> tuple[KeymapChange, ...]:
    """The change that puts a binding on a free key near its own; none where there is no such key or no name for it."""
    name, to = name_of(binding), free_key(subject, binding.keys)
    return (Move(name, binding.keys, binding.where, to),) if name and to else ()


def take_out(binding: Binding) -> tuple[KeymapChange, ...]:
    """The change that takes a binding out of its file."""
    name = name_of(binding)
    return (Remove(name, binding.keys, binding.where),) if name else ()


def give_keys(subject: AuditSubject, action: str, near: Trigger, where: str = "") -> tuple[KeymapChange, ...]:
    """The change that gives an action a free key."""
    to = free_key(subject, near)
    return (Bind(action, to, where),) if to else ()


def name_of(binding: Binding) -> str:
    """What a change names a binding by; empty for what changes do not name."""
    outcome = binding.outcome
    if isinstance(outcome, Insert):
        return outcome.key
    return outcome.action if isinstance(outcome, Do) else outcome.macro if isinstance(outcome, Play) else ""


def _pool(subject: AuditSubject) -> "_Pool":
    """The chords that may be free; made once for a subject."""
    known = subject.notes.get("free keys")
    if not isinstance(known, _Pool):
        known = subject.notes["free keys"] = _Pool(subject)
    return known


class _Pool:
    """Chords that people can find, and which of them nothing has."""

    def __init__(self, subject: AuditSubject) -> None:
        self._terminals = list({terminal.name: terminal for terminal in subject.terminals.values()}.values())
        self._used = {trigger[:1] for trigger in subject.tables}
        for terminal in self._terminals:
            self._used |= {terminal.canonical(trigger) for trigger in self._used}
        resolve = subject.platform.resolve
        self._kept = {resolve((one.chord,)) for one in subject.reserved}
        self._kept |= {resolve(parse(keys)) for keys in _EXPECTED}
        self._subject = subject
        self._proposed: dict[Trigger, Trigger | None] = {}
        self._chords = FreeKeys(_chords(subject.platform.main_modifier))

    def nearest(self, near: Trigger) -> Trigger | None:
        """The free chord that is proposed for these keys, the same each time; None where none is left."""
        if near not in self._proposed:
            self._proposed[near] = None
            for chord in self._chords.by_nearness(near):
                self._chords.remove(chord)
                if self._is_free(chord) and _is_pressable(chord, self._subject):
                    self._proposed[near] = chord
                    break
        return self._proposed[near]

    def _is_free(self, trigger: Trigger) -> bool:
        """Whether nothing has the chord, and it arrives everywhere as no other."""
        if trigger in self._used or trigger in self._kept:
            return False
        return all(
            isinstance(terminal.send(trigger), bytes) and terminal.canonical(trigger) == trigger
            for terminal in self._terminals
        )


def _chords(main: int) -> Iterator[Trigger]:
    """Letters, digits, function keys and named keys with usual modifiers."""
    held = [sum(bits) for bits in product((0, main), (0, ALT), (0, SHIFT), (0, CTRL) if main != CTRL else (0,))]
    for modifiers in sorted(held, key=int.bit_count):
        for key in (*_LETTERS, *FUNCTION_KEYS, *_NAMED):
            if not (modifiers & SHIFT and key.isdigit()):  # another sign, by the layout
                yield (Chord(modifiers, key),)


def _is_pressable(trigger: Trigger, subject: AuditSubject) -> bool:
    return all(setup.is_plain(trigger) and setup.typed_all(trigger) == trigger for setup in subject.setups)
