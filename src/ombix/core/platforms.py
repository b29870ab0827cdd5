"""Platforms: what Mod is there, and how their users write a chord."""

from collections.abc import Mapping
from typing import Any, NamedTuple

from ombix.core.keys import MODIFIERS, Chord, Trigger, resolve, write, write_chord


class Platform(NamedTuple):
    """A platform. `symbols` are written before the key without a sign between them; `names` replace modifier names."""

    name: str
    title: str
    main_modifier: int
    symbols: dict[str, str] = {}  # noqa: RUF012
    names: dict[str, str] = {}  # noqa: RUF012
    key_symbols: dict[str, str] = {}  # noqa: RUF012
    order: tuple[str, ...] = tuple(MODIFIERS)

    def resolve(self, trigger: Trigger) -> Trigger:
        """The trigger with Mod replaced by what it is here."""
        return resolve(trigger, self.main_modifier)

    def show(self, trigger: Trigger) -> str:
        """The trigger as this platform's users write it."""
        return " ".join(self._show_chord(chord) for chord in self.resolve(trigger))

    def show_with_portable(self, trigger: Trigger) -> str:
        """Like `show`, with the portable notation in parentheses where it differs."""
        shown, portable = self.show(trigger), write(trigger)
        return shown if shown == portable else f"{shown} ({portable})"

    def _show_chord(self, chord: Chord) -> str:
        if not self.symbols and not self.names:
            return write_chord(chord)
        key = write_chord(Chord(0, chord.key))
        if chord.modifiers and len(key) == 1 and len(key.upper()) == 1:
            key = key.upper()
        key = self.key_symbols.get(key, self.symbols.get(key, self.names.get(key, key)))
        held = [name for name in self.order if MODIFIERS[name] & chord.modifiers]
        if self.symbols:
            return "".join(self.symbols.get(name, f"{name}+") for name in held) + key
        return "+".join([*(self.names.get(name, name) for name in held), key])


def platform(name: str, table: Mapping[str, Any]) -> Platform:
    """A platform from its data file's table."""
    return Platform(
        name=name,
        title=str(table["title"]),
        main_modifier=MODIFIERS[str(table["main-modifier"])],
        symbols=dict(table.get("symbols", {})),
        names=dict(table.get("names", {})),
        key_symbols=dict(table.get("key-symbols", {})),
        order=tuple(table.get("order", MODIFIERS)),
    )
