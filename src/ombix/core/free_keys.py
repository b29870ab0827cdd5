"""Free keys near the old ones: for what could not have its own in a port, and for the defaults that lost theirs."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace

from ombix.core.carrying import Ground
from ombix.core.errors import Place
from ombix.core.keymap import Binding, Nothing, Only, Outcome
from ombix.core.keys import MOD, SHIFT, Trigger, is_mouse, is_place, is_tap, write
from ombix.core.verdicts import Rehomed

MAX_FUNCTION_KEY = 12
"""The function keys that keyboards have."""


def give_lost_ones_keys(ground: Ground, free: "FreeKeys") -> None:
    """Free keys for bindings that could not have their own, where the target has the action and no other keys for it.

    The rule: the same key with other modifiers, the fewest first; where there is none, or for what is no key with a name
    (a tap, a click), the lowest free function key with the fewest modifiers. A sequence gets another first chord, the same
    for all that begin alike, whether or not the action has other keys; failing that, one chord by the rule, for its last
    key.
    """
    target = ground.target
    leaders: dict[Trigger, Trigger] = {}
    for lost in ground.lost:
        entry = ground.result.entries[lost.index]
        old, outcome = entry.source.trigger, entry.source.outcome
        if isinstance(outcome, Nothing | Only):
            continue
        bound = [keys for name in lost.homes if (keys := ground.keys_of(outcome, name)) is not None]
        if bound:
            entry = ground.result.entries[lost.index] = replace(entry, elsewhere=bound[0])
        if not lost.needs_other_keys:
            continue
        for new in _candidates(old, free, leaders):
            if bound and len(new) == 1:
                break
            if not any(target.can_bind(new, name) for name in lost.homes):
                continue
            job = ground.job(lost.row, lost.table)
            job.moved = f"on {write(new)}, as {entry.how}"
            made, bindings = job.run(new)
            if made.verdict != "lost":
                ground.result.entries[lost.index] = made
                ground.write(bindings)
                if len(new) == len(old) > 1:
                    leaders[old[:1]] = new[:1]
                free.remove(new[:1])
                break


def _candidates(old: Trigger, free: "FreeKeys", leaders: Mapping[Trigger, Trigger]) -> Iterator[Trigger]:
    """Keys to be tried in place of `old`, the nearest first."""
    if len(old) > 1:
        known = leaders.get(old[:1])
        starts = [known] if known is not None else free.on_the_same_key(old[:1])
        yield from ((*start, *old[1:]) for start in starts)
    yield from free.on_the_same_key(old)
    yield from free.function_keys(old)


def give_defaults_keys(ground: Ground, free: "FreeKeys") -> None:
    """Free keys for the target's defaults that lost theirs.

    The rule: the same key with other modifiers, the fewest first; then a function key; then another key with the same
    modifiers. Only single chords that nothing has by default, that the source does not bind, and that arrive as no other.
    """
    target = ground.target
    lost: dict[tuple[Outcome, Trigger], list[str]] = {}
    for entry in ground.result.entries:
        for section, outcome in entry.displaced:
            if not isinstance(outcome, Nothing) and ground.keys_of(outcome, section) is None:
                place = ground.canonical(entry.trigger or entry.source.trigger)
                lost.setdefault((outcome, place), []).append(section)
        for keys, section, outcome in entry.cleared:
            if ground.keys_of(outcome, section) is None:
                lost.setdefault((outcome, keys), []).append(section)
    homed: set[tuple[Outcome, str]] = set()
    for (outcome, old), found in lost.items():
        sections = [section for section in found if (outcome, section) not in homed]
        if not sections:
            continue
        nearest = (one for one in free.by_nearness(old) if all(target.can_bind(one, section) for section in sections))
        new = next(nearest, None)
        if new is None:
            continue
        free.remove(new)
        homed.update((outcome, section) for section in sections)
        rows = ground.default_rows(old, ground.nodes[sections[0]])
        written = next((row.written for row, _part in rows if row.outcome == outcome), "")
        where = target.where(sections)
        ground.result.rehomed.append(Rehomed(outcome, old, new, tuple(sections)))
        ground.result.layer.bindings.append(Binding(new, outcome, Place("port"), "port", where, written=written))


class FreeKeys:
    """Single chords that nothing has by default, that the source does not bind, that nothing was put on, that arrive as no
    other, and that are not to be avoided."""

    def __init__(self, ground: Ground, avoid: Callable[[Trigger], bool]) -> None:
        used = {ground.canonical(trigger) for trigger in ground.tables}
        used |= {place for place, _section in ground.taken}
        starts = {trigger[:1] for trigger in (*ground.defaults, *used)}
        self._free = {
            trigger: None
            for trigger in ground.target.bindable()
            if (place := ground.canonical(trigger)) == trigger and place not in used and place not in starts
            and not place[0].modifiers & MOD and not avoid(trigger) and _can_be_found(trigger)
        }  # fmt: skip
        names = {f"F{number}" for number in range(1, MAX_FUNCTION_KEY + 1)}
        self._on_function_keys = [trigger for trigger in self._free if trigger[0].key in names]
        self._by_key: dict[str, list[Trigger]] = {}
        for trigger in self._free:
            self._by_key.setdefault(trigger[0].key, []).append(trigger)

    def remove(self, trigger: Trigger) -> None:
        """A chord is free no longer."""
        self._free.pop(trigger, None)

    def on_the_same_key(self, old: Trigger) -> list[Trigger]:
        """The free chords on the last key of `old`, the nearest first."""
        found = [one for one in self._by_key.get(old[-1].key, ()) if one in self._free]
        return sorted(found, key=lambda one: _nearness(old, one))

    def function_keys(self, old: Trigger) -> list[Trigger]:
        """The free chords on function keys, the lowest first."""
        self._on_function_keys = [one for one in self._on_function_keys if one in self._free]
        found = [one for one in self._on_function_keys if one[0].key != old[-1].key]
        return sorted(found, key=lambda one: _nearness(old, one))

    def by_nearness(self, old: Trigger) -> list[Trigger]:
        """All free chords, the nearest first."""
        return sorted(self._free, key=lambda one: _nearness(old, one))


def _can_be_found(trigger: Trigger) -> bool:
    """Whether it is a chord that can be found on a keyboard by its name: with a modifier, or a function key."""
    (chord,) = trigger
    is_function = chord.key[0] == "F" and chord.key[1:].isdigit() and int(chord.key[1:]) <= MAX_FUNCTION_KEY
    is_key = not is_mouse(chord) and not is_place(chord) and not is_tap(chord)
    return is_key and (bool(chord.modifiers & ~SHIFT) or is_function)


def _nearness(old: Trigger, new: Trigger) -> tuple[int, int, int, str]:
    """How far a free chord is from the old keys; less is nearer."""
    before, after = old[-1], new[0]
    if after.key == before.key:
        return 0, (after.modifiers ^ before.modifiers).bit_count(), after.modifiers, ""
    is_function = len(after.key) > 1 and after.key[0] == "F" and after.key[1:].isdigit()
    if is_function:
        return 1, after.modifiers.bit_count(), int(after.key[1:]), ""
    return 2, (after.modifiers ^ before.modifiers).bit_count(), len(after.key), after.key
