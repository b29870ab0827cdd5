"""What moving and selecting do to the cursor and the selection."""

from collections.abc import Callable

from msgspec.structs import replace

from ombix.core.outcomes import Do
from ombix.stage import places
from ombix.stage.state import Settings, State

Effect = Callable[[State, Do], State]
"""What an action with its arguments does to a state."""

Move = Callable[[str, int], int]
VerticalMove = Callable[[str, int, int, Settings], int]


def left(text: str, at: int) -> int:
    """One character to the left."""
    return max(0, at - 1)


def right(text: str, at: int) -> int:
    """One character to the right."""
    return min(len(text), at + 1)


def start(text: str, at: int) -> int:
    """The start of the text."""
    return 0


def end(text: str, at: int) -> int:
    """The end of the text."""
    return len(text)


def _move_to(state: State, cursor: int) -> State:
    return replace(state, cursor=cursor, anchor=state.anchor if state.marking else None)


def _select_to(state: State, cursor: int) -> State:
    return replace(state, cursor=cursor, anchor=state.cursor if state.anchor is None else state.anchor)


def move(where: Move) -> Effect:
    """The cursor goes there; the selection is given up, unless the mark is set."""
    return lambda state, do: _move_to(state, where(state.text, state.cursor))


def move_out_of_selection(where: Move, side: int) -> Effect:
    """Like `move`; but where something is selected, the cursor goes to that end of it."""

    def effect(state: State, do: Do) -> State:
        if state.has_selection and not state.marking:
            return replace(state, cursor=state.selection[side], anchor=None)
        return _move_to(state, where(state.text, state.cursor))

    return effect


def select(where: Move) -> Effect:
    """The selection is extended to there."""
    return lambda state, do: _select_to(state, where(state.text, state.cursor))


def _vertical(go: VerticalMove, to: Callable[[State, int], State]) -> Effect:
    """A move to another line, at the cell that was started from."""

    def effect(state: State, do: Do) -> State:
        first = places.line_start(state.text, state.cursor)
        cell = state.goal
        if cell is None:
            cell = places.cells(state.text[first : state.cursor], state.settings.tab_width)
        return replace(to(state, go(state.text, state.cursor, cell, state.settings)), goal=cell)

    return effect


def _select_all(state: State, do: Do) -> State:
    return replace(state, anchor=0, cursor=len(state.text))


def _select_line(state: State, do: Do) -> State:
    first, last = places.line_start(state.text, state.cursor), places.line_end(state.text, state.cursor)
    return replace(state, anchor=first, cursor=min(len(state.text), last + 1))


def _toggle_mark(state: State, do: Do) -> State:
    return replace(state, anchor=state.cursor if state.anchor is None else None, marking=state.anchor is None)


def _clear(state: State, do: Do) -> State:
    return replace(state, anchor=None, marking=False)


KEEP_GOAL = frozenset({"cursor.up", "cursor.down", "select.up", "select.down"})
"""Actions after which a row of moves up and down goes on."""

MOVING: dict[str, Effect] = {
    "cursor.left": move_out_of_selection(left, 0),
    "cursor.right": move_out_of_selection(right, 1),
    "cursor.up": _vertical(places.up, _move_to),
    "cursor.down": _vertical(places.down, _move_to),
    "cursor.line-start": move(places.line_start),
    "cursor.line-end": move(places.line_end),
    "cursor.text-start": move(places.text_start),
    "cursor.text-start-or-line-start": move(places.text_start_or_line_start),
    "cursor.word-left": move(places.word_left),
    "cursor.word-right": move(places.word_right),
    "cursor.next-word": move(places.next_word),
    "cursor.previous-word": move(places.previous_word),
    "cursor.document-start": move(start),
    "cursor.document-end": move(end),
    "cursor.previous-blank-line": move(places.previous_blank),
    "cursor.next-blank-line": move(places.next_blank),
    "cursor.block-start": move(places.block_start),
    "cursor.next-block": move(places.next_block),
    "cursor.matching-bracket": move(places.matching),
    "select.left": select(left),
    "select.right": select(right),
    "select.up": _vertical(places.up, _select_to),
    "select.down": _vertical(places.down, _select_to),
    "select.line-start": select(places.line_start),
    "select.line-end": select(places.line_end),
    "select.text-start": select(places.text_start),
    "select.text-start-or-line-start": select(places.text_start_or_line_start),
    "select.word-left": select(places.word_left),
    "select.word-right": select(places.word_right),
    "select.next-word": select(places.next_word),
    "select.previous-word": select(places.previous_word),
    "select.document-start": select(start),
    "select.document-end": select(end),
    "select.all": _select_all,
    "select.line": _select_line,
    "select.toggle-mark": _toggle_mark,
    "select.clear": _clear,
}
