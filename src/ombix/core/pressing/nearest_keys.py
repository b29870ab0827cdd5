"""Free keys, ordered by how near they are to others."""

from collections.abc import Iterable, Iterator

from ombix.core.keys.notation import SHIFT, Chord, Trigger, is_mouse, is_place, is_tap

MAX_FUNCTION_KEY = 12
"""The function keys that keyboards have."""

FUNCTION_KEYS = tuple(f"F{number}" for number in range(1, MAX_FUNCTION_KEY + 1))


class FreeKeys:
    """Single chords that are free. What is taken is told with `remove`."""

    def __init__(self, pool: Iterable[Trigger]) -> None:
        self._free = dict.fromkeys(trigger for trigger in pool if _can_be_found(trigger))
        self._nearest: dict[Chord, list[Trigger]] = {}
        self._on_function_keys = [trigger for trigger in self._free if trigger[0].key in FUNCTION_KEYS]
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
        self._on_function_keys = [key for key in self._on_function_keys if key in self._free]
        found = [key for key in self._on_function_keys if key[0].key != old[-1].key]
        return sorted(found, key=lambda one: _nearness(old, one))

    def by_nearness(self, old: Trigger) -> Iterator[Trigger]:
        """All free chords, the nearest first: the same key with other modifiers, the fewest first; then a function key;
        then another key with the same modifiers."""
        known = self._nearest.get(old[-1])
        if known is None:
            known = self._nearest[old[-1]] = sorted(self._free, key=lambda one: _nearness(old, one))
        return (one for one in known if one in self._free)


def _can_be_found(trigger: Trigger) -> bool:
    """Whether it is a chord that can be found on a keyboard by its name: with a modifier, or a function key."""
    (chord,) = trigger
    is_key = not is_mouse(chord) and not is_place(chord) and not is_tap(chord)
    return is_key and (bool(chord.modifiers & ~SHIFT) or chord.key in FUNCTION_KEYS)


def _nearness(old: Trigger, new: Trigger) -> tuple[int, int, int, str]:
    """How far a free chord is from the old keys; less is nearer."""
    before, after = old[-1], new[0]
    if after.key == before.key:
        return 0, (after.modifiers ^ before.modifiers).bit_count(), after.modifiers, ""
    is_function = len(after.key) > 1 and after.key[0] == "F" and after.key[1:].isdigit()
    if is_function:
        return 1, after.modifiers.bit_count(), int(after.key[1:]), ""
    return 2, (after.modifiers ^ before.modifiers).bit_count(), len(after.key), after.key
