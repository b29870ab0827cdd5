"""What actions do on the stage: their programs, at each cursor; and what an editor remembers beside its text."""

from collections.abc import Callable

from msgspec.structs import replace

from ombix.core.catalogue.actions import Catalogue
from ombix.core.keymap.outcomes import Do
from ombix.core.text_changes import alike
from ombix.text.effects.buffer import Buffer
from ombix.text.effects.program_language import EffectProgram, program
from ombix.text.stage.clipboard import with_kept
from ombix.text.stage.folded_lines import out_of_folds
from ombix.text.stage.marks_and_search import REMEMBERING, moved_along
from ombix.text.stage.stage_state import Cursor, State

_FOR_EACH_CURSOR = ("cursor", "select", "edit", "line", "comment")
"""Kinds of work that are done at each cursor."""
_GOING = ("cursor", "search", "bookmark", "go")
"""Kinds of work that lead somewhere else, and fail where they do not."""
_STAYING = ("bookmark.toggle", "bookmark.set")
_BY_LINES = (".up", ".down", ".page-up", ".page-down")
"""Actions that lead to another line, and fail where there is none."""


def program_of(outcome: Do, catalogue: Catalogue) -> EffectProgram | None:
    """What an action does to a text; None for one that does something else, asks first, or is not known."""
    known = catalogue.actions.get(outcome.action)
    text = known.program(dict(outcome.arguments)) if known is not None else ""
    return program(text) if text else None


def has_effect(outcome: Do, catalogue: Catalogue) -> bool:
    """Whether the stage knows what an action does to its state."""
    return outcome.action in REMEMBERING or program_of(outcome, catalogue) is not None


def run(outcome: Do, state: State, catalogue: Catalogue) -> State:
    """The state after an action, once. Raises KeyError for an action without an effect."""
    return run_checked(outcome, state, catalogue)[0]


def run_checked(outcome: Do, state: State, catalogue: Catalogue) -> tuple[State, bool]:
    """The same, and whether the action could do its work: it fails where its program ends before its end, where it moves and
    there is nowhere to go, and where it looks for something that is not there."""
    name = outcome.action
    after, is_done = with_kept(state, lambda start: _run_once(outcome, start, catalogue), name)
    if after.column is state.column and not name.startswith("select.column"):
        after = after if after.column is None else replace(after, column=None)
    return out_of_folds(state, moved_along(state, after), name.endswith(_BY_LINES)), is_done


def _run_once(outcome: Do, state: State, catalogue: Catalogue) -> tuple[State, bool]:
    found = program_of(outcome, catalogue)
    if found is None:
        after = REMEMBERING[outcome.action](state, outcome)
        after = after if after.goal is None else replace(after, goal=None)
    elif state.others and outcome.domain in _FOR_EACH_CURSOR:
        ended: list[bool] = []

        def one_more(one: State) -> State:
            moved, is_done = _run_program(found, one)
            ended.append(is_done)
            return moved

        after = for_each_cursor(state, one_more)
        if not any(ended):
            return after, False
    else:
        after, is_done = _run_program(found, state)
        if not is_done:
            return after, False
    name = outcome.action
    if outcome.domain not in _GOING or name in _STAYING or name.endswith(("-start", "-end")):
        return after, True
    if name.endswith(_BY_LINES) and not state.others:
        return after, _line_of(after) != _line_of(state)
    return after, replace(after, goal=None) != replace(state, goal=None)


def _line_of(state: State) -> int:
    return state.text.count("\n", 0, state.cursor)


def _run_program(found: EffectProgram, state: State) -> tuple[State, bool]:
    buffer = buffer_of(state)
    is_done = found.run(buffer)
    after = replace(
        state, text=buffer.text, cursor=buffer.cursor, anchor=buffer.anchor, clipboard=buffer.clipboard,
        marking=buffer.marking, goal=buffer.goal,
    )  # fmt: skip
    return after, is_done


def buffer_of(state: State) -> Buffer:
    """A state's text with its main cursor, for a program to run on."""
    buffer = Buffer(state.text, state.cursor, state.anchor, state.clipboard, state.settings)
    buffer.marking, buffer.goal = state.marking, state.goal
    return buffer


def insert(state: State, text: str) -> State:
    """The state with `text` in place of the selection, the cursor behind it."""
    start, end = state.selection
    whole = state.text[:start] + text + state.text[end:]
    return replace(
        state, text=whole, cursor=start + len(text), anchor=None, marking=False, goal=None, pasted=None, column=None
    )


def for_each_cursor(state: State, effect: Callable[[State], State]) -> State:
    """The state after something was done at each of its cursors, the last in the text first."""
    cursors = [Cursor(state.cursor, state.anchor, state.goal), *state.others]
    alone = replace(state, others=())
    clipboards: dict[int, str] = {}
    for index in sorted(range(len(cursors)), key=lambda index: cursors[index].cursor, reverse=True):
        mine = cursors[index]
        before = replace(alone, cursor=mine.cursor, anchor=mine.anchor, goal=mine.goal, clipboard=state.clipboard)
        after = effect(before)
        grown = len(after.text) - len(before.text)
        start = len(before.text) + 1 if grown == 0 and before.text == after.text else alike(before.text, after.text)[0]
        cursors = [one if number == index else _moved(one, start, grown) for number, one in enumerate(cursors)]
        cursors[index] = Cursor(after.cursor, after.anchor, after.goal)
        clipboards[index] = after.clipboard
        alone = after
    main, *others = cursors
    kept = [
        one
        for number, one in enumerate(others)
        if one.cursor not in {cursor.cursor for cursor in cursors[: number + 1]}
    ]
    changed = [clipboards[index] for index in range(len(cursors)) if clipboards[index] != state.clipboard]
    return replace(
        alone, cursor=main.cursor, anchor=main.anchor, goal=main.goal, others=tuple(kept),
        clipboard="\n".join(changed) if changed else state.clipboard,
    )  # fmt: skip


def _moved(cursor: Cursor, start: int, grown: int) -> Cursor:
    """A cursor after the text changed from `start` on."""

    def moved(at: int) -> int:
        return max(start, at + grown) if at > start or (at == start and grown > 0) else at

    return Cursor(moved(cursor.cursor), None if cursor.anchor is None else moved(cursor.anchor), cursor.goal)
