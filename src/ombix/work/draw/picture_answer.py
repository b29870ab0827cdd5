"""Keyboards with what is on their keys, a panel for each group of modifiers and each step of a sequence."""

from typing import Literal, NamedTuple

KeyKind = Literal["taken", "begins", "free", "types", "kept", "impossible", "held", "modifier"]
"""Bound; the beginning of longer keys; free; typed into the text; kept by the system or the terminal; not pressable, or not sent;
a modifier that is held, and one that is not."""


class PictureKey(NamedTuple):
    """A key: where it is (`place`, W3C UI Events `code`), its corner, its width and height in key units, what is printed on it, and
    what it does in its panel. `keys` are the keys with that panel's modifiers; `does` and `title` are empty where it does nothing;
    `rows` say in words what it does in which states. `value` is a number for it, where one was asked for: seconds, or a count."""

    place: str
    x: float
    y: float
    width: float
    height: float
    legend: str
    kind: KeyKind
    keys: str = ""
    does: str = ""
    title: str = ""
    family: str = ""
    rows: tuple[str, ...] = ()
    value: float | None = None
    finger: str = ""
    """Which finger presses it, where the strain is shown."""
    elsewhere: bool = False
    """Whether it does this only where the keys do not go to the text."""


class PicturePanel(NamedTuple):
    """The keyboard with some modifiers held, behind keys that were pressed before (`after`, empty for none)."""

    title: str
    after: str
    modifiers: str
    keys: tuple[PictureKey, ...]


class PictureFamily(NamedTuple):
    """A kind of work in the legend."""

    name: str
    title: str
    sign: str
    colour: str


class KeyboardPicture(NamedTuple):
    """The keyboard at hand, with what is on its keys. `value` says in words what the keys' numbers are; empty for none."""

    title: str
    about: str
    layout: str
    keyboard: str
    panels: tuple[PicturePanel, ...]
    families: tuple[PictureFamily, ...]
    value: str = ""
    left_out: int = 0
    """Panels that are not shown, as there are so many."""
