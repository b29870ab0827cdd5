"""What an editor remembers beside the text: bookmarks and marks, and answers to what it asks."""

import re

from msgspec.structs import replace

from ombix.core.keymap.outcomes import Do
from ombix.core.text_changes import alike
from ombix.text.effects import text_motions
from ombix.text.stage.clipboard import KEEPING, kept_text
from ombix.text.stage.cursors import CURSORS, Effect
from ombix.text.stage.folded_lines import FOLDING
from ombix.text.stage.stage_state import Fold, Prompt, State

# --- marks


def _toggle_bookmark(state: State, do: Do) -> State:
    line = text_motions.line_start(state.text, state.cursor)
    left = tuple(bookmark for bookmark in state.bookmarks if bookmark != line)
    return replace(state, bookmarks=left if line in state.bookmarks else tuple(sorted((*left, line))))


def _to_bookmark(state: State, step: int) -> State:
    line = text_motions.line_start(state.text, state.cursor)
    found = [bookmark for bookmark in state.bookmarks if (bookmark > line if step > 0 else bookmark < line)]
    around = found or [bookmark for bookmark in state.bookmarks if bookmark != line]
    if not around:
        return state
    return replace(state, cursor=around[0] if step > 0 else around[-1], anchor=None)


def _next_bookmark(state: State, do: Do) -> State:
    return _to_bookmark(state, 1)


def _previous_bookmark(state: State, do: Do) -> State:
    return _to_bookmark(state, -1)


def _set_mark(state: State, do: Do) -> State:
    slot = dict(do.arguments).get("slot", "")
    rest = tuple(mark for mark in state.marks if mark[0] != slot)
    return replace(state, marks=(*rest, (slot, state.cursor))) if slot else state


def _jump(state: State, do: Do) -> State:
    place = dict(state.marks).get(dict(do.arguments).get("slot", ""))
    return state if place is None else replace(state, cursor=min(place, len(state.text)), anchor=None)


def moved_along(before: State, after: State) -> State:
    """The state behind a change of the text, with bookmarks, marks and folds where their lines are now. A fold in which something
    was changed is open."""
    if before.text == after.text or not (after.bookmarks or after.marks or after.folds):
        return after
    first, last = alike(before.text, after.text)
    end, grown = len(before.text) - last, len(after.text) - len(before.text)
    adds_lines = first == end and after.text[first : end + grown].endswith("\n")
    is_line = text_motions.line_start(before.text, first) == first

    def moved(at: int) -> int:
        if at < first or (at == first and not (adds_lines and is_line)):
            return at
        return at + grown if at >= end else min(at, end + grown)

    folds = [
        Fold(moved(fold.start), moved(fold.end), fold.by_hand)
        for fold in after.folds
        if end <= text_motions.line_end(before.text, fold.start) or first >= fold.end
    ]
    bookmarks = sorted({text_motions.line_start(after.text, moved(at)) for at in after.bookmarks})
    return replace(
        after,
        bookmarks=tuple(bookmarks),
        marks=tuple((name, moved(at)) for name, at in after.marks),
        folds=tuple(folds),
    )


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
    "edit.paste-earlier": kept_text,
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
    **CURSORS,
    **FOLDING,
    **KEEPING,
    "edit.paste-earlier": _ask,
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
