"""The effects of actions on a state, each written out: pure functions `(state, action with arguments) -> state`."""

from collections.abc import Callable

from msgspec.structs import replace

from ombix.core.outcomes import Do
from ombix.stage.changing import CHANGING
from ombix.stage.moving import KEEP_GOAL, MOVING, Effect
from ombix.stage.remembering import REMEMBERING
from ombix.stage.state import Cursor, State

EFFECTS: dict[str, Effect] = {**MOVING, **CHANGING}
"""Action to its exact effect, for the actions that only change the text, the cursor, the selection and the clipboard."""

_FOR_EACH_CURSOR = ("cursor", "select", "edit", "line", "comment")
"""Kinds of work that are done at each cursor."""


def has_effect(action: str) -> bool:
    """Whether the stage knows what an action does to its state."""
    return action in EFFECTS or action in REMEMBERING


def run(outcome: Do, state: State) -> State:
    """The state after an action, once. Raises KeyError for an action without an effect."""
    effect = EFFECTS.get(outcome.action) or REMEMBERING[outcome.action]
    if state.others and outcome.domain in _FOR_EACH_CURSOR:
        return for_each_cursor(state, lambda one: _run(effect, outcome, one))
    return _run(effect, outcome, state)


def _run(effect: Effect, outcome: Do, state: State) -> State:
    after = effect(state, outcome)
    return after if outcome.action in KEEP_GOAL or after.goal is None else replace(after, goal=None)


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
        start = _first_difference(before.text, after.text)
        cursors = [one if number == index else _moved(one, start, grown) for number, one in enumerate(cursors)]
        cursors[index] = Cursor(after.cursor, after.anchor, after.goal)
        clipboards[index] = after.clipboard
        alone = after
    main, *others = cursors
    kept = [
        one for number, one in enumerate(others) if one.cursor not in {each.cursor for each in cursors[: number + 1]}
    ]
    changed = [clipboards[index] for index in range(len(cursors)) if clipboards[index] != state.clipboard]
    return replace(
        alone, cursor=main.cursor, anchor=main.anchor, goal=main.goal, others=tuple(kept),
        clipboard="\n".join(changed) if changed else state.clipboard,
    )  # fmt: skip


def _first_difference(one: str, other: str) -> int:
    if one == other:
        return len(one) + 1
    return next(
        (at for at, pair in enumerate(zip(one, other, strict=False)) if pair[0] != pair[1]), min(len(one), len(other))
    )


def _moved(cursor: Cursor, start: int, grown: int) -> Cursor:
    """A cursor after the text changed from `start` on."""

    def moved(at: int) -> int:
        return max(start, at + grown) if at > start or (at == start and grown > 0) else at

    return Cursor(moved(cursor.cursor), None if cursor.anchor is None else moved(cursor.anchor), cursor.goal)
