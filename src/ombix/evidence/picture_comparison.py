"""What is the same in two pictures of an editor, but for the keys that it shows beside what they do."""

import re
from typing import Protocol

from ombix.evidence.editor_run import TILES_IN_A_ROW, Picture

_PAGE, _NEARLY = 300, 0.75
"""So many new characters are a page, and such a share of them has to be the same."""
_COLUMNS = 80
_KEY = re.compile(r"\^\S|F\d{1,2}|(?:(?:C|M|S|Sh|Alt|Ctrl|Shift)[-+])+\S+")
"""A key as editors show it beside what it does."""
_FEW_WORDS = 2
_NEW_SQUARES, _FEW_SQUARES = 50, 0.025
"""Where more squares than these are new, such a share of them may differ."""
_MENU_ROWS, _MENU_COLUMNS = 4, 6
"""A menu is higher and wider than so many squares, and half of them are new."""


class Followed(Protocol):
    """What was to be seen before keys were pressed, and behind them."""

    @property
    def before(self) -> Picture: ...

    @property
    def after(self) -> Picture: ...


def is_nearly(own: Followed, other: Followed, masked: set[int]) -> bool:
    """Of pictures that are new for the most part, like a page of help that has keys in it, whether nearly all that is written
    there is the same."""
    pictures = (_left(one, masked) for one in (own.after, other.after, other.before))
    new = [
        (mine, theirs) for mine, theirs, old in zip(*pictures, strict=False)
        if theirs != old and _is_written(mine, theirs)
    ]  # fmt: skip
    return len(new) > _PAGE and sum(mine == theirs for mine, theirs in new) > _NEARLY * len(new)


def is_window_with_other_keys(own: Followed, other: Followed, masked: set[int]) -> bool:
    """Whether what is new in the two pictures of a window is nearly all the same, as where other letters of it are underlined, or
    are menus that begin at the same place, are of the same height, and differ only to the right, where keys stand beside what
    they do."""
    apart = differing(own.after, other.after) - masked
    below = [at for at in apart if at >= TILES_IN_A_ROW]  # the first row is the menu's
    changed = differing(other.before, other.after) - masked
    if len(changed) > _NEW_SQUARES and len(below) < _FEW_SQUARES * len(changed):
        return True
    boxes, is_filled = [], True
    for one in (own, other):
        new = differing(one.before, one.after) - masked - {len(one.after) - 1}
        if not new:
            return False
        rows, places = [at // TILES_IN_A_ROW for at in new], [at % TILES_IN_A_ROW for at in new]
        boxes.append((min(rows), max(rows), min(places), max(places)))
        top, bottom, left, right = boxes[-1]
        is_filled = is_filled and len(new) > (bottom - top + 1) * (right - left + 1) / 2
    (top, bottom, left, right), (*same, other_right) = boxes
    first = min((at % TILES_IN_A_ROW for at in apart), default=TILES_IN_A_ROW)
    width = min(right, other_right) - left + 1
    is_box = bottom - top >= _MENU_ROWS and width >= _MENU_COLUMNS and is_filled
    return [top, bottom, left] == same and is_box and first - left >= width / 2


def is_row_with_other_keys(own: Followed, other: Followed, masked: set[int]) -> bool:
    """Whether in a terminal all rows that differ are the same but for the keys in them, or differed before the keys, too, and have
    only moved."""
    if own.after[-1:] != other.after[-1:]:
        return False
    rows = {at // _COLUMNS for at in differing(own.after, other.after) - masked}
    before = {(_row(own.before, row), _row(other.before, row)) for row in range(len(own.before) // _COLUMNS)}
    for row in rows:
        mine, theirs = _row(own.after, row), _row(other.after, row)
        if (mine, theirs) not in before and not _are_of_other_keys(mine.split(), theirs.split()):
            return False
    return bool(rows)


def _are_of_other_keys(mine: list[str], theirs: list[str]) -> bool:
    """Whether two rows have keys in them, and are the same but for these."""
    pairs = [
        [[one for one in row if bool(_KEY.fullmatch(one)) is is_key] for row in (mine, theirs)]
        for is_key in (True, False)
    ]
    (own, other), (words, same) = pairs
    return bool(own) and bool(other) and words == same and len(words) >= _FEW_WORDS


def _row(picture: Picture, row: int) -> str:
    """The text of a row of a terminal."""
    cells = picture[row * _COLUMNS : (row + 1) * _COLUMNS]
    return "".join(cell[0] if isinstance(cell, tuple) and isinstance(cell[0], str) else " " for cell in cells)


def _is_written(*cells: object) -> bool:
    """Whether one of the cells of a terminal has a character in it."""
    return any(isinstance(cell, tuple) and isinstance(cell[0], str) and cell[0].strip() for cell in cells)


def differing(one: Picture, other: Picture) -> set[int]:
    """The places where two pictures differ."""
    return {at for at, pair in enumerate(zip(one, other, strict=False)) if pair[0] != pair[1]}


def _left(picture: Picture, masked: set[int]) -> list[object]:
    return [one for at, one in enumerate(picture) if at not in masked]
