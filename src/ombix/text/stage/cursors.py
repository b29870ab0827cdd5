"""Several cursors: where they are put, how they are told apart, and rectangles, which are a cursor in each of their lines."""

from collections.abc import Callable, Iterator, Sequence

from msgspec.structs import replace

from ombix.core.keymap.outcomes import Do
from ombix.text.effects import text_motions
from ombix.text.stage.stage_state import Column, Cursor, State

Effect = Callable[[State, Do], State]
"""What an action with its arguments does to a state."""


def all_cursors(state: State) -> list[Cursor]:
    """The cursors of a state, the main one first."""
    return [Cursor(state.cursor, state.anchor, state.goal), *state.others]


def with_cursors(state: State, cursors: Sequence[Cursor]) -> State:
    """A state with other cursors, the main one first; those in one place become one."""
    found: dict[tuple[int, int | None], Cursor] = {}
    for cursor in cursors:
        found.setdefault((cursor.cursor, cursor.anchor), cursor)
    main, *others = found.values()
    return replace(state, cursor=main.cursor, anchor=main.anchor, goal=main.goal, others=tuple(others))


def with_texts(state: State, texts: Sequence[str]) -> State:
    """A state with texts in place of what its cursors have selected, in the order of the text; each is selected then, or the
    cursor is behind it where nothing was."""
    cursors, text = all_cursors(state), state.text
    order = sorted(range(len(cursors)), key=lambda index: _span(cursors[index]))
    pieces, at, grown = [], 0, 0
    for number, index in enumerate(order):
        start, end = _span(cursors[index])
        pieces += [text[at:start], texts[number]]
        first = start + grown
        grown += len(texts[number]) - (end - start)
        cursors[index] = Cursor(first + len(texts[number]), first if end > start else None)
        at = end
    return with_cursors(replace(state, text="".join([*pieces, text[at:]]), goal=None), cursors)


def _span(one: Cursor) -> tuple[int, int]:
    anchor = one.cursor if one.anchor is None else one.anchor
    return min(anchor, one.cursor), max(anchor, one.cursor)


# --- put in places


def _beside(step: int) -> Effect:
    """One more cursor in the line above (-1) or below (1) all others, in the column of the main one."""

    def add(state: State, do: Do) -> State:
        text, width = state.text, state.settings.tab_width
        at = (min if step < 0 else max)([cursor.cursor for cursor in all_cursors(state)])
        cell = text_motions.cells(text[text_motions.line_start(text, state.cursor) : state.cursor], width)
        start, end = text_motions.line_start(text, at), text_motions.line_end(text, at)
        if start == 0 if step < 0 else end == len(text):
            return state
        beside = text_motions.line_start(text, start - 1) if step < 0 else end + 1
        return replace(state, others=(*state.others, Cursor(text_motions.at_cell(text, beside, cell, width))))

    return add


def _newest(state: State) -> Cursor:
    return state.others[-1] if state.others else Cursor(state.cursor, state.anchor)


def _match(state: State, step: int) -> Cursor | None:
    """The next place, or the one before, of what is selected, seen from the newest cursor."""
    wanted = state.text[slice(*state.selection)]
    start, end = _span(_newest(state))
    found = state.text.find(wanted, end) if step > 0 else state.text.rfind(wanted, 0, start)
    return Cursor(found + len(wanted), found) if wanted and found >= 0 else None


def _add_match(step: int) -> Effect:
    def add(state: State, do: Do) -> State:
        found = _match(state, step)
        return state if found is None else with_cursors(state, [*all_cursors(state), found])

    return add


def _skip_match(state: State, do: Do) -> State:
    found = _match(state, 1)
    return state if found is None else with_cursors(state, [*all_cursors(state)[:-1], found])


def _add_all_matches(state: State, do: Do) -> State:
    wanted, text = state.text[slice(*state.selection)], state.text
    if not wanted:
        return state
    own, length = state.selection[0], len(wanted)
    found, at = [Cursor(state.cursor, state.anchor)], text.find(wanted)
    while at >= 0:
        if at + length <= own or at >= own + length:
            found.append(Cursor(at + length, at))
        at = text.find(wanted, own if at < own < at + length else at + length)
    return with_cursors(state, found)


def _selected_lines(state: State) -> Iterator[int]:
    """A place in each line that is selected; the last one not where the selection only ends at its start."""
    start, end = state.selection
    at = start
    while at <= end and (at < end or at == start):
        yield at
        at = text_motions.line_end(state.text, at) + 1


def _in_lines(place: Callable[[str, int], int]) -> Effect:
    def put(state: State, do: Do) -> State:
        return with_cursors(state, [Cursor(place(state.text, at)) for at in _selected_lines(state)])

    return put


def _add_to_selected_lines(state: State, do: Do) -> State:
    start, end = state.selection
    ends = [
        text_motions.line_end(state.text, at)
        for at in range(start, end + 1)
        if at == start or state.text[at - 1] == "\n"
    ]
    return with_cursors(state, list(map(Cursor, dict.fromkeys(ends))))


def _split_lines(state: State, do: Do) -> State:
    start, end = state.selection
    if start == end:
        return state
    rows = [Cursor(min(end, text_motions.line_end(state.text, at)), at) for at in _selected_lines(state)]
    return with_cursors(state, rows)


def _remove_last(state: State, do: Do) -> State:
    return replace(state, others=state.others[:-1])


def _remove_all(state: State, do: Do) -> State:
    return replace(state, others=())


# --- among them


def _turn(step: int) -> Effect:
    """Make the next cursor in the text, or the one before, the main one."""

    def turn(state: State, do: Do) -> State:
        cursors = all_cursors(state)
        order = sorted(cursors, key=_span)
        at = (order.index(cursors[0]) + step) % len(order)
        return with_cursors(state, [order[at], *(cursor for cursor in cursors if cursor is not order[at])])

    return turn


def _rotate(state: State, do: Do) -> State:
    spans = sorted(map(_span, all_cursors(state)))
    texts = [state.text[start:end] for start, end in spans]
    return with_texts(state, [*texts[-1:], *texts[:-1]])


def _number(state: State, do: Do) -> State:
    return with_texts(state, [str(number + 1) for number in range(len(state.others) + 1)])


def _align(state: State, do: Do) -> State:
    text, width = state.text, state.settings.tab_width
    alone = replace(state, anchor=None, others=tuple(Cursor(other.cursor) for other in state.others))
    at = sorted(cursor.cursor for cursor in all_cursors(alone))
    cells = [text_motions.cells(text[text_motions.line_start(text, one) : one], width) for one in at]
    if len({text_motions.line_start(text, one) for one in at}) < len(at):
        return state
    return with_texts(alone, [" " * (max(cells) - cell) for cell in cells])


# --- rectangles


def _place_of(text: str, at: int, width: int) -> tuple[int, int]:
    """The line and the cell of an offset."""
    start = text_motions.line_start(text, at)
    return text.count("\n", 0, start), text_motions.cells(text[start:at], width)


def _drawn(state: State) -> Column:
    """The rectangle at hand, or the one between the ends of what is selected."""
    if state.column is not None:
        return state.column
    width = state.settings.tab_width
    anchor = state.cursor if state.anchor is None else state.anchor
    return Column(*_place_of(state.text, anchor, width), *_place_of(state.text, state.cursor, width))


def _with_column(state: State, column: Column) -> State:
    """A cursor in each line of a rectangle, the main one where it is drawn to."""
    width, starts, at = state.settings.tab_width, [0], state.text.find("\n")
    while at >= 0:
        starts.append(at + 1)
        at = state.text.find("\n", at + 1)
    step = 1 if column.line <= column.to_line else -1
    rows = []
    for line in range(column.to_line, column.line - step, -step):
        anchor, cursor = (
            text_motions.at_cell(state.text, starts[line], cell, width) for cell in (column.cell, column.to_cell)
        )
        rows.append(Cursor(cursor, anchor))
    main, *others = rows
    return replace(state, cursor=main.cursor, anchor=main.anchor, goal=None, others=tuple(others), column=column)


def _draw(lines: int, cells: int) -> Effect:
    """A rectangle drawn further by lines and cells, not beyond the longest of its lines."""

    def draw(state: State, do: Do) -> State:
        one, width = _drawn(state), state.settings.tab_width
        to_line = min(max(one.to_line + lines, 0), state.text.count("\n"))
        rows = state.text.split("\n")[min(one.line, to_line) : max(one.line, to_line) + 1]
        longest = max(text_motions.cells(row, width) for row in rows)
        to_cell = min(max(one.to_cell + cells, 0), max(longest, one.to_cell, one.cell))
        return _with_column(state, Column(one.line, one.cell, to_line, to_cell))

    return draw


def _toggle_column(state: State, do: Do) -> State:
    if state.column is None:
        return _with_column(state, _drawn(state))
    last = state.others[-1] if state.others else Cursor(state.cursor, state.anchor)
    return replace(state, anchor=last.anchor, others=(), column=None)


CURSORS: dict[str, Effect] = {
    "cursors.add-above": _beside(-1),
    "cursors.add-below": _beside(1),
    "cursors.add-next-match": _add_match(1),
    "cursors.add-previous-match": _add_match(-1),
    "cursors.skip-match": _skip_match,
    "cursors.add-all-matches": _add_all_matches,
    "cursors.add-to-selected-lines": _add_to_selected_lines,
    "cursors.at-line-starts": _in_lines(text_motions.line_start),
    "cursors.at-line-ends": _in_lines(text_motions.line_end),
    "cursors.split-lines": _split_lines,
    "cursors.remove-last": _remove_last,
    "cursors.remove-all": _remove_all,
    "cursors.next": _turn(1),
    "cursors.previous": _turn(-1),
    "cursors.rotate": _rotate,
    "cursors.number": _number,
    "cursors.align": _align,
    "select.column": _toggle_column,
    "select.column-up": _draw(-1, 0),
    "select.column-down": _draw(1, 0),
    "select.column-left": _draw(0, -1),
    "select.column-right": _draw(0, 1),
}
"""Actions about cursors, and what they do."""
