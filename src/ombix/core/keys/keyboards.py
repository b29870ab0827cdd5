"""Keyboards: which keys there are, where each stands, what is printed on it, and what is behind Fn."""

from collections.abc import Mapping
from typing import Any, NamedTuple

from msgspec import Struct

_SMALL_GAP = 0.51
"""Key units."""


class Position(NamedTuple):
    """Where a key stands: its left end and its row, and its width; in key units (a letter's key is 1), from top left."""

    x: float
    y: float
    width: float


class Keyboard(Struct, frozen=True):
    """A keyboard. `positions` is by place (W3C UI Events `code`); `behind_fn` gives the place to press with Fn."""

    name: str
    title: str
    positions: dict[str, Position]
    behind_fn: dict[str, str] = {}
    printed: dict[str, str] = {}
    thumbs: dict[str, tuple[str, ...]] = {}
    """The places that the `left` and the `right` thumb presses, that where it rests first; none where that is the usual."""

    def middle(self, place: str) -> tuple[float, float]:
        """The middle of a key, across and down, in key units. Raises KeyError for a place that the keyboard has not."""
        one = self.positions[place]
        return one.x + one.width / 2, one.y + 0.5

    def neighbours(self, place: str) -> tuple[str, ...]:
        """The places whose keys a finger that misses the key of `place` may hit; none where the keyboard has not got it.

        They touch it, at an edge or in part of one, or come next in its row behind a gap of at most half a key, as between
        the groups of function keys.
        """
        one = self.positions.get(place)
        if one is None:
            return ()
        touching = []
        for other_place, other in self.positions.items():
            apart = abs(one.y - other.y)
            gap = max(one.x, other.x) - min(one.x + one.width, other.x + other.width)
            beside = apart == 0 and -0.01 < gap < _SMALL_GAP
            above = 0 < apart <= 1 and gap < -0.01
            if other_place != place and (beside or above):
                touching.append(other_place)
        return tuple(touching)


def keyboard(name: str, table: Mapping[str, Any], shapes: Mapping[str, Any], shape: str) -> Keyboard:
    """A keyboard from its data file's table, its letter block in a shape (`ansi`, `iso`, `jis`) of the shapes file.

    A block's rows are texts of places with widths in key units, like "Tab:1.5 KeyQ"; a number alone is a gap. What stands
    under `letters` and `modifiers` is that of the shape.
    """
    positions: dict[str, Position] = {}
    for block in table["blocks"]:
        kind = str(block["name"])
        rows = shapes[{"letters": shape, "modifiers": f"modifiers-{shape}"}.get(kind, kind)]
        for row, text in enumerate(rows):
            _place_row(text, float(block["x"]), float(block["y"]) + row, positions)
    return Keyboard(
        name, str(table["title"]), positions,
        {place: place_of(base) for place, base in table.get("behind-fn", {}).items()}, dict(table.get("printed", {})),
        {side: tuple(map(place_of, places.split())) for side, places in table.get("thumbs", {}).items()},
    )  # fmt: skip


def place_of(word: str) -> str:
    """The place that a data file means: a letter alone is the place of that letter on a US keyboard, `KeyQ` for Q."""
    return f"Key{word}" if len(word) == 1 and word.isupper() else word


def _place_row(text: str, x: float, y: float, positions: dict[str, Position]) -> None:
    for word in text.split():
        place, _, size = word.partition(":")
        if place[0].isdigit():
            x += float(place)
            continue
        width = float(size or 1)
        positions[place_of(place)] = Position(x, y, width)
        x += width
