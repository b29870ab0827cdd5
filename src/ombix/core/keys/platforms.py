"""Platforms: what Mod is there, how their users write a chord, and what a system or a desktop keeps for itself."""

from collections.abc import Iterable, Mapping
from functools import cached_property
from typing import Any, NamedTuple

from ombix.core.keys.notation import ALTGR, MODIFIERS, Chord, Trigger, parse, resolve, write_chord


class Platform(NamedTuple):
    """A platform. `symbols` are written before the key without a sign between them; `names` replace modifier names."""

    name: str
    title: str
    main_modifier: int
    symbols: dict[str, str] = {}  # noqa: RUF012
    names: dict[str, str] = {}  # noqa: RUF012
    key_symbols: dict[str, str] = {}  # noqa: RUF012
    order: tuple[str, ...] = tuple(MODIFIERS)
    third_level: int = ALTGR
    """The modifiers that the key beside the space bar holds which chooses the third level."""
    layout_variant: str = ""
    """What a layout's name ends in that is made for this platform's keyboards, after a hyphen."""
    keyboard: str = "full"
    """The keyboard, where the workspace names none."""
    has_own_third_levels: bool = False
    """Whether its layouts are not those of X11 beyond the second level."""

    def resolve(self, trigger: Trigger) -> Trigger:
        """The trigger with Mod replaced by what it is here."""
        return resolve(trigger, self.main_modifier)

    def show(self, trigger: Trigger) -> str:
        """The trigger as this platform's users write it."""
        return " ".join(self._show_chord(chord) for chord in self.resolve(trigger))

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
        third_level=sum(MODIFIERS[word] for word in table["third-level"].split("+")),
        layout_variant=str(table.get("layout-variant", "")),
        keyboard=str(table.get("keyboard", "full")),
        has_own_third_levels=bool(table.get("own-third-levels", False)),
    )


class Reserved(NamedTuple):
    """A chord that does not reach an editor, because `by` does something with it. Mod and places are as they are written.

    `can_be_given_back`: its user can take it away from there. `source` is where this is known from.
    """

    chord: Chord
    does: str
    by: str
    can_be_given_back: bool
    source: str = ""


class Desktop:
    """A system or desktop and the chords that it keeps. `always`: every user of the platform has it."""

    def __init__(self, name: str, table: Mapping[str, Any]) -> None:
        self.name = name
        self.title = str(table["title"])
        self.platform = str(table["platform"])
        self.always = bool(table.get("always", False))
        self._parts: list[Any] = table["from"]

    @cached_property
    def reserved(self) -> tuple[Reserved, ...]:
        """What it keeps, each with its source."""
        return tuple(
            Reserved(parse(keys)[0], does, self.title, bool(part["can-be-given-back"]), str(part["source"]))
            for part in self._parts
            for keys, does in part["keys"].items()
        )


def reserved_on(platform: Platform, desktops: Iterable[Desktop], chosen: str = "") -> list[Reserved]:
    """What the system keeps on a platform, and the chosen desktop, where it is one of that platform."""
    return [
        one
        for desktop in desktops
        if desktop.platform == platform.name and (desktop.always or desktop.name == chosen)
        for one in desktop.reserved
    ]
