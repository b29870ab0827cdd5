"""Worked examples of what actions do to a text, as they stand in data."""

from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from ombix.text.effects.buffer import PLAIN, Settings


class Picture(NamedTuple):
    """A text with its cursor and the other end of what is selected, as offsets from 0."""

    text: str
    cursor: int
    anchor: int | None


class Example(NamedTuple):
    """What an action does in one state: the text `before` it and `after` it, with | for the cursor and « or » for the other
    end of what is selected; its arguments, what was kept before it and is behind it (None: not told), and the settings."""

    before: str
    after: str
    arguments: tuple[tuple[str, str], ...] = ()
    kept: str = ""
    keeps: str | None = None
    settings: Settings = PLAIN

    @property
    def begin(self) -> Picture:
        """The state before."""
        return read_picture(self.before)

    @property
    def end(self) -> Picture:
        """The state behind it."""
        return read_picture(self.after)


def read_picture(picture: str) -> Picture:
    """`a«bc|d` has the anchor at « and the cursor at |; `a|bc»d` the other way round. Raises ValueError without a cursor."""
    cursor = picture.replace("«", "").replace("»", "").index("|")
    plain = picture.replace("|", "")
    anchor = next((plain.index(mark) for mark in "«»" if mark in plain), None)
    return Picture(plain.replace("«", "").replace("»", ""), cursor, anchor)


def examples(domain: str, table: Mapping[str, Sequence[Any]]) -> dict[str, tuple[Example, ...]]:
    """The examples of a domain's actions by name, from a table of `data/examples`: rows of two texts, or tables."""
    return {f"{domain}.{verb}": tuple(map(_example, rows)) for verb, rows in table.items()}


def _example(row: Any) -> Example:
    if isinstance(row, list):
        before, after = row
        return Example(before, after)
    settings = Settings(**{name.replace("-", "_"): value for name, value in row.get("set", {}).items()})
    arguments = tuple(sorted(row.get("with", {}).items()))
    return Example(row["from"], row["to"], arguments, row.get("kept", ""), row.get("keeps"), settings)
