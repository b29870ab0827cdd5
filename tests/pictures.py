"""Texts as pictures: | is the cursor, [ or ] the other end of what is selected."""

from typing import NamedTuple


class Picture(NamedTuple):
    """A text with its cursor and the other end of what is selected, as offsets from 0."""

    text: str
    cursor: int
    anchor: int | None


def read(picture: str) -> Picture:
    """`a[bc|d` has the anchor at [ and the cursor at |; `a|bc]d` the other way round."""
    cursor = picture.replace("[", "").replace("]", "").index("|")
    plain = picture.replace("|", "")
    anchor = next((plain.index(mark) for mark in "[]" if mark in plain), None)
    return Picture(plain.replace("[", "").replace("]", ""), cursor, anchor)
