"""What an editor remembers beside the text: further cursors, bookmarks and marks, answers to what it asks."""

import re
from collections.abc import Callable

from msgspec.structs import replace

from ombix.core.outcomes import Do
from ombix.effects import places
from ombix.stage.state import Cursor, Prompt, State

Effect = Callable[[State, Do], State]
"""What an action with its arguments does to a state."""

# --- several cursors


def _line_beside(state: State, step: int) -> State:
    """One more cursor in the line above (-1) or below (1) all others, in the column of the main one."""
    text, width = state.text, state.settings.tab_width
    at = (min if step < 0 else max)([state.cursor, *(one.cursor for one in state.others)])
    cell = places.cells(text[places.line_start(text, state.cursor) : state.cursor], width)
    start, end = places.line_start(text, at), places.line_end(text, at)
    if start == 0 if step < 0 else end == len(text):
        return state
    beside = places.line_start(text, start - 1) if step < 0 else end + 1
    return replace(state, others=(*state.others, Cursor(places.at_cell(text, beside, cell, width))))


def _add_above(state: State, do: Do) -> State:
    return _line_beside(state, -1)


def _add_below(state: State, do: Do) -> State:
    return _line_beside(state, 1)


def _add_next_match(state: State, do: Do) -> State:
    start, end = state.selection
    if start == end:
        return state
    last = state.others[-1] if state.others else Cursor(state.cursor, state.anchor)
    found = state.text.find(state.text[start:end], max(last.cursor, last.anchor or 0))
    if found < 0:
        return state
    return replace(state, others=(*state.others, Cursor(found + end - start, found)))


def _add_to_selected_lines(state: State, do: Do) -> State:
    start, end = state.selection
    ends = [
        places.line_end(state.text, at) for at in range(start, end + 1) if at == start or state.text[at - 1] == "\n"
    ]
    main, *others = dict.fromkeys(ends)
    return replace(state, cursor=main, anchor=None, others=tuple(map(Cursor, others)))


def _remove_last(state: State, do: Do) -> State:
    return replace(state, others=state.others[:-1])


def _remove_all(state: State, do: Do) -> State:
    return replace(state, others=())


# --- marks


def _toggle_bookmark(state: State, do: Do) -> State:
    line = places.line_start(state.text, state.cursor)
    left = tuple(one for one in state.bookmarks if one != line)
    return replace(state, bookmarks=left if line in state.bookmarks else tuple(sorted((*left, line))))


def _to_bookmark(state: State, step: int) -> State:
    line = places.line_start(state.text, state.cursor)
    found = [one for one in state.bookmarks if (one > line if step > 0 else one < line)]
    around = found or [one for one in state.bookmarks if one != line]
    if not around:
        return state
    return replace(state, cursor=around[0] if step > 0 else around[-1], anchor=None)


def _next_bookmark(state: State, do: Do) -> State:
    return _to_bookmark(state, 1)


def _previous_bookmark(state: State, do: Do) -> State:
    return _to_bookmark(state, -1)


def _set_mark(state: State, do: Do) -> State:
    slot = dict(do.arguments).get("slot", "")
    rest = tuple(one for one in state.marks if one[0] != slot)
    return replace(state, marks=(*rest, (slot, state.cursor))) if slot else state


def _jump(state: State, do: Do) -> State:
    place = dict(state.marks).get(dict(do.arguments).get("slot", ""))
    return state if place is None else replace(state, cursor=min(place, len(state.text)), anchor=None)


# --- searching, and other questions


def _find(state: State, step: int) -> State:
    """The next or previous place that has what was searched, selected; round the ends of the text, where it goes round."""
    wanted = state.searched
    if not wanted:
        return state
    start, end = state.selection
    text = state.text
    if step > 0:
        found = text.find(wanted, end)
        found = text.find(wanted) if found < 0 and state.goes_round else found
    else:
        found = text.rfind(wanted, 0, start)
        found = text.rfind(wanted) if found < 0 and state.goes_round else found
    return state if found < 0 else replace(state, cursor=found + len(wanted), anchor=found, marking=False)


def _find_next(state: State, do: Do) -> State:
    return _find(state, 1)


def _find_previous(state: State, do: Do) -> State:
    return _find(state, -1)


def _ask(state: State, do: Do) -> State:
    return replace(state, prompt=Prompt(do.action))


def _go_to_line(state: State, typed: str) -> State:
    match = re.match(r"\s*(\d{1,9})(?:[:,]\s*(\d{1,9}))?", typed)
    if match is None:
        return state
    lines = state.text.split("\n")
    line = min(max(int(match[1]), 1), len(lines))
    column = min(max(int(match[2] or 1), 1), len(lines[line - 1]) + 1)
    return replace(state, cursor=sum(len(one) + 1 for one in lines[: line - 1]) + column - 1, anchor=None)


def _search_for(state: State, typed: str) -> State:
    return _find(replace(state, searched=typed), 1)


def _search_back_for(state: State, typed: str) -> State:
    return _find(replace(state, searched=typed), -1)


_ANSWERED = {
    "go.line": _go_to_line,
    "search.find": _search_for,
    "search.find-literal": _search_for,
    "search.find-back": _search_back_for,
}
"""Actions that ask something, and what becomes of the answer."""


def _answer(state: State, do: Do) -> State:
    prompt = state.prompt
    if prompt is None:
        return state
    return _ANSWERED[prompt.action](replace(state, prompt=None), prompt.typed)


def _cancel(state: State, do: Do) -> State:
    return replace(state, prompt=None)


REMEMBERING: dict[str, Effect] = {
    "cursors.add-above": _add_above,
    "cursors.add-below": _add_below,
    "cursors.add-next-match": _add_next_match,
    "cursors.add-to-selected-lines": _add_to_selected_lines,
    "cursors.remove-last": _remove_last,
    "cursors.remove-all": _remove_all,
    "bookmark.toggle": _toggle_bookmark,
    "bookmark.next": _next_bookmark,
    "bookmark.previous": _previous_bookmark,
    "bookmark.set": _set_mark,
    "bookmark.jump": _jump,
    "search.next": _find_next,
    "search.previous": _find_previous,
    "go.line": _ask,
    "search.find": _ask,
    "search.find-literal": _ask,
    "search.find-back": _ask,
    "prompt.accept": _answer,
    "prompt.cancel": _cancel,
}


def typed_into_prompt(state: State, text: str) -> State:
    """A question with more typed into it."""
    prompt = state.prompt
    return state if prompt is None else replace(state, prompt=replace(prompt, typed=prompt.typed + text))


def rubbed_out_of_prompt(state: State) -> State:
    """A question with the last character of its answer taken away."""
    prompt = state.prompt
    return state if prompt is None else replace(state, prompt=replace(prompt, typed=prompt.typed[:-1]))
