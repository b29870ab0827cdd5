"""Steps that move the cursor and select."""

from collections.abc import Sequence

from ombix.text.effects import text_motions
from ombix.text.effects.buffer import Buffer
from ombix.text.effects.program_words import (
    BEHIND,
    FAR,
    Place,
    Run,
    Stop,
    cell_kept_to,
    characters_on,
    place_of,
    range_of,
)


def go(words: Sequence[str]) -> Run:
    """The cursor goes there; the selection is given up, unless the mark is set."""
    place = place_of(words)

    def go(b: Buffer) -> None:
        b.cursor = place(b)
        b.held = None
        if not b.marking:
            b.anchor = None

    return go


def stand(words: Sequence[str]) -> Run:
    """The cursor goes there; what is selected stays so, and from a mark on more is selected."""
    place = place_of(words)

    def stand(b: Buffer) -> None:
        if b.marking:
            b.cursor = place(b)
            return
        if b.held is None and b.has_selection:
            b.held = b.selection
        b.cursor = place(b)
        if b.held is None:
            b.anchor = None

    return stand


def hold(words: Sequence[str]) -> Run:
    """A range is selected, the cursor stays where it is."""
    found = range_of(words)

    def hold(b: Buffer) -> None:
        b.held = found(b)
        b.anchor = b.held[0]

    return hold


def extend(words: Sequence[str]) -> Run:
    """The selection is extended to there; with `held`, from where the cursor is, if that is no end of what is held; with
    `over`, what is held goes from the character that the cursor was on to that which it goes onto, with both."""
    keeps, over = "held" in words, "over" in words
    place = place_of([word for word in words if word not in ("held", "over")])

    def extend(b: Buffer) -> None:
        if over:
            _extend_over(b, place)
            return
        if keeps:
            _extend_held(b, place)
            return
        to = place(b)
        if b.anchor is None or not (b.has_selection or b.marking):
            b.anchor = b.cursor
        b.held = None
        b.cursor = to

    return extend


def _extend_over(b: Buffer, place: Place) -> None:
    start, end = b.held or (b.cursor, b.cursor + 1)
    first = max(0, min(end - 1 if b.cursor == start else start, len(b.text)))
    b.cursor = place(b)
    begin, after = min(first, b.cursor), min(max(first, b.cursor) + 1, len(b.text))
    b.held = (begin, after) if begin < after else None
    b.anchor = None


def _extend_held(b: Buffer, place: Place) -> None:
    start, end = b.held or (b.cursor, b.cursor)
    other = start if b.cursor == end else end if b.cursor == start else b.cursor
    b.cursor = place(b)
    b.held = (min(other, b.cursor), max(other, b.cursor)) if other != b.cursor else None
    b.anchor = None


def drop(words: Sequence[str]) -> Run:
    """Nothing is selected any more."""
    return Buffer.drop


def mark(words: Sequence[str]) -> Run:
    """What moves from here on selects."""

    def mark(b: Buffer) -> None:
        b.anchor = b.cursor
        b.marking = True

    return mark


def select_range(words: Sequence[str]) -> Run:
    """A range is selected, the cursor at its end."""
    found = range_of(words)

    def select(b: Buffer) -> None:
        b.anchor, b.cursor = found(b)

    return select


def select_on(b: Buffer, first: int, last: int) -> None:
    """Select from one character to another, with both, the cursor on the second."""
    b.held, b.marking = None, False
    if first == last:
        b.anchor, b.cursor = None, last
    elif first < last:
        b.anchor, b.cursor = first, last + 1
    else:
        b.anchor, b.cursor = first + 1, last


def step_on(words: Sequence[str]) -> Run:
    """The cursor goes onto another character; with `extend`, what is between is selected."""
    extends = words[0] == "extend"
    place = place_of(words[1:] if extends else words)

    def go(b: Buffer) -> None:
        first, last = characters_on(b)
        to = _from(b, last, place)
        select_on(b, first if extends else to, to)

    return go


def _from(b: Buffer, at: int, place: Place) -> int:
    """The character that a place is on, seen from another one. Raises Stop where there is none; the cursor stays."""
    cursor, b.cursor = b.cursor, at
    try:
        return max(0, min(place(b), len(b.text) - 1))
    finally:
        b.cursor = cursor


def select_to_on(words: Sequence[str]) -> Run:
    """What is between the cursor's character and another one is selected, with both."""
    place = place_of(words)

    def select(b: Buffer) -> None:
        _first, last = characters_on(b)
        select_on(b, last, _from(b, last, place))

    return select


def stay(words: Sequence[str]) -> Run:
    """Nothing is done."""
    return lambda b: None


def exchange_ends(words: Sequence[str]) -> Run:
    """The cursor goes to the other end of what is selected, which stays so."""

    def exchange(b: Buffer) -> None:
        start, end = b.selection
        b.anchor, b.cursor, b.held = (start, end, None) if b.cursor == start else (end, start, None)

    return exchange


def face_start(words: Sequence[str]) -> Run:
    """The cursor goes onto the first character of what is selected, which stays so."""

    def face(b: Buffer) -> None:
        first, last = characters_on(b)
        select_on(b, max(first, last), min(first, last))

    return face


def face_end(words: Sequence[str]) -> Run:
    """The cursor goes onto the last character of what is selected, which stays so."""

    def face(b: Buffer) -> None:
        first, last = characters_on(b)
        select_on(b, min(first, last), max(first, last))

    return face


def alight(words: Sequence[str]) -> Run:
    """The cursor goes before the character that it is on."""

    def alight(b: Buffer) -> None:
        b.cursor, b.anchor = characters_on(b)[1], None

    return alight


def settle(words: Sequence[str]) -> Run:
    """The cursor comes to stand on a character: never behind the last one of a line that has some."""

    def settle(b: Buffer) -> None:
        text, at = b.text, b.cursor
        if at == len(text) and at and text[at - 1] == "\n":
            at -= 1
        if (at == len(text) or text[at] == "\n") and at and text[at - 1] != "\n":
            at -= 1
        b.cursor = at

    return settle


def goal(words: Sequence[str]) -> Run:
    """What moves up and down next goes to the last characters of lines, to their starts, or behind their ends; or to the
    `column` that the cursor was in when a line was taken away, as far as the line in its place has one."""
    if words[0] == "column":
        return _goal_of_column
    cell = {"start": 0, "end": FAR, "behind": BEHIND}[words[0]]

    def goal(b: Buffer) -> None:
        b.goal = cell

    return goal


def _goal_of_column(b: Buffer) -> None:
    if b.moment is None or b.moment.held is None:
        b.goal = None
        return
    start = text_motions.line_start(b.text, b.cursor)
    column = b.moment.cursor - b.moment.held[0]
    line = b.text[start : text_motions.line_end(b.text, start)]
    b.goal = text_motions.cells(line[:column], b.settings.tab_width)


def keep_goal(words: Sequence[str]) -> Run:
    """What moves up and down next keeps to the cell that the cursor is on now, or, but for a `new` one, that such moves kept to
    before."""

    def keep(b: Buffer) -> None:
        if "new" in words:
            b.goal = None
        cell_kept_to(b, words)

    return keep


def add_up(words: Sequence[str]) -> Run:
    """Whether what is cut next, or copied next, adds to what was kept."""
    cuts, copies = words[0] == "yes", words[0] == "copies"

    def add_up(b: Buffer) -> None:
        b.adds_up, b.adds_copies = cuts, copies

    return add_up


def stop(words: Sequence[str]) -> Run:
    """Nothing more is done."""

    def stop(b: Buffer) -> None:
        raise Stop

    return stop
