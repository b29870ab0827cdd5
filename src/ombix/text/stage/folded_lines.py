"""Lines that are folded away: a block is a line with those below it that are indented further."""

from collections.abc import Callable, Sequence

from msgspec.structs import replace

from ombix.core.keymap.outcomes import Do
from ombix.text.effects import text_motions
from ombix.text.stage.cursors import Effect
from ombix.text.stage.stage_state import Fold, State


def blocks(text: str, tab_width: int) -> list[Fold]:
    """All that can be folded, by the indentation, the outer ones first. Blank lines at the end of a block are not in it."""
    found: list[Fold] = []
    open_ones: list[tuple[int, int]] = []  # indentation in cells, start of the line
    at, last_end = 0, 0
    for line in text.split("\n"):
        if line.strip():
            cell = text_motions.cells(line[: len(line) - len(line.lstrip())], tab_width)
            while open_ones and open_ones[-1][0] >= cell:
                _cell, start = open_ones.pop()
                if "\n" in text[start:last_end]:
                    found.append(Fold(start, last_end))
            open_ones.append((cell, at))
            last_end = at + len(line)
        at += len(line) + 1
    found += [Fold(start, last_end) for _cell, start in open_ones if "\n" in text[start:last_end]]
    return sorted(found, key=lambda one: (one.start, -one.end))


def _line(state: State) -> int:
    return text_motions.line_start(state.text, state.cursor)


def _blocks(state: State) -> list[Fold]:
    return blocks(state.text, state.settings.tab_width)


def _around(state: State, some: Sequence[Fold]) -> list[Fold]:
    """Those that the cursor's line is in, the outer ones first."""
    line = _line(state)
    return [one for one in some if one.start <= line <= one.end]


def _with_folds(state: State, folds: Sequence[Fold]) -> State:
    """A state with these folds; a cursor in one goes to its first line."""
    state = replace(state, folds=tuple(sorted(set(folds), key=lambda one: (one.start, -one.end))))
    hiding = hiding_fold(state)
    return state if hiding is None else replace(state, cursor=hiding.start, anchor=None, goal=None)


def hiding_fold(state: State) -> Fold | None:
    """The outermost fold that hides the cursor's line; None where it can be seen."""
    line = _line(state)
    return next((fold for fold in state.folds if fold.start < line <= fold.end), None)


def _close(state: State, do: Do) -> State:
    open_ones = [one for one in _around(state, _blocks(state)) if one not in state.folds]
    return _with_folds(state, [*state.folds, open_ones[-1]]) if open_ones else state


def _open(state: State, do: Do) -> State:
    closed = _around(state, state.folds)
    return replace(state, folds=tuple(fold for fold in state.folds if fold != closed[0])) if closed else state


def _toggle(state: State, do: Do) -> State:
    return _open(state, do) if _around(state, state.folds) else _close(state, do)


def _inside(outer: Fold, some: Sequence[Fold]) -> list[Fold]:
    return [one for one in some if outer.start <= one.start and one.end <= outer.end]


def _close_deep(state: State, do: Do) -> State:
    around = _around(state, _blocks(state))
    return _with_folds(state, [*state.folds, *_inside(around[-1], _blocks(state))]) if around else state


def _open_deep(state: State, do: Do) -> State:
    closed = _around(state, state.folds)
    gone = _inside(closed[0], state.folds) if closed else []
    return replace(state, folds=tuple(fold for fold in state.folds if fold not in gone))


def _close_all(state: State, do: Do) -> State:
    return _with_folds(state, [*state.folds, *_blocks(state)])


def _open_all(state: State, do: Do) -> State:
    return replace(state, folds=())


def _to_level(state: State, do: Do) -> State:
    """Blocks in as many others as the level says, or more, are folded; all others are open."""
    some, level = _blocks(state), max(int(dict(do.arguments).get("number", "1")), 1)
    deep = [one for one in some if sum(other.start < one.start and one.end <= other.end for other in some) + 1 >= level]
    return _with_folds(state, [*deep, *(fold for fold in state.folds if fold.by_hand)])


def _close_others(state: State, do: Do) -> State:
    some = _blocks(state)
    return _with_folds(state, [one for one in some if one not in _around(state, some)])


def _comments(state: State, do: Do) -> State:
    """Comments of several lines, each of which begins with the sign of one."""
    sign, found, at, start = state.settings.comment.strip(), [], 0, -1
    for line in [*state.text.split("\n"), ""]:
        if line.lstrip().startswith(sign) and sign:
            start = at if start < 0 else start
        else:
            if start >= 0 and "\n" in state.text[start : at - 1]:
                found.append(Fold(start, at - 1))
            start = -1
        at += len(line) + 1
    return _with_folds(state, [*state.folds, *found])


def _selection(state: State, do: Do) -> State:
    start, end = state.selection
    last = end - 1 if end > start and state.text[end - 1] == "\n" else end
    one = Fold(text_motions.line_start(state.text, start), text_motions.line_end(state.text, last), by_hand=True)
    return (
        _with_folds(replace(state, anchor=None), [*state.folds, one])
        if "\n" in state.text[one.start : one.end]
        else state
    )


def _remove(state: State, do: Do) -> State:
    mine = [one for one in _around(state, state.folds) if one.by_hand]
    return replace(state, folds=tuple(fold for fold in state.folds if fold not in mine[-1:]))


def _go(wanted: Callable[[State, Sequence[Fold]], list[Fold]]) -> Effect:
    def go(state: State, do: Do) -> State:
        found = wanted(state, [*_blocks(state), *state.folds])
        return replace(state, cursor=found[0].start, anchor=None, goal=None) if found else state

    return go


def _next(state: State, some: Sequence[Fold]) -> list[Fold]:
    return sorted((one for one in some if one.start > _line(state)), key=lambda one: one.start)


def _previous(state: State, some: Sequence[Fold]) -> list[Fold]:
    return sorted((one for one in some if one.start < _line(state)), key=lambda one: -one.start)


def _parent(state: State, some: Sequence[Fold]) -> list[Fold]:
    return sorted((one for one in _around(state, some) if one.start < _line(state)), key=lambda one: -one.start)


FOLDING: dict[str, Effect] = {
    "fold.close": _close,
    "fold.open": _open,
    "fold.toggle": _toggle,
    "fold.close-deep": _close_deep,
    "fold.open-deep": _open_deep,
    "fold.close-all": _close_all,
    "fold.open-all": _open_all,
    "fold.level": _to_level,
    "fold.close-others": _close_others,
    "fold.comments": _comments,
    "fold.selection": _selection,
    "fold.remove": _remove,
    "fold.next": _go(_next),
    "fold.previous": _go(_previous),
    "fold.parent": _go(_parent),
}
"""Actions about folds, and what they do."""


def out_of_folds(before: State, after: State, by_lines: bool) -> State:
    """A state whose cursor is not hidden: what goes by lines goes on to the next one that can be seen, anything else opens what
    hides it."""
    hiding = hiding_fold(after) if after.folds else None
    while hiding is not None:
        if not by_lines or after.cursor == before.cursor:
            after = replace(after, folds=tuple(fold for fold in after.folds if fold != hiding))
        elif after.cursor < before.cursor or hiding.end == len(after.text):
            after = replace(after, cursor=_in_line(after, hiding.start))
        else:
            after = replace(after, cursor=_in_line(after, hiding.end + 1))
        hiding = hiding_fold(after)
    return after


def _in_line(state: State, start: int) -> int:
    """The place in another line that is below or above the cursor."""
    width = state.settings.tab_width
    here = text_motions.line_start(state.text, state.cursor)
    cell = text_motions.cells(state.text[here : state.cursor], width) if state.goal is None else state.goal
    return text_motions.at_cell(state.text, start, cell, width)
