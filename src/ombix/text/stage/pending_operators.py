"""Operators that waited for a movement: what they do to what it goes over."""

from msgspec.structs import replace

from ombix.core.catalogue.actions import SELECTED, Catalogue
from ombix.core.keymap.outcomes import MAX_COUNT, Do
from ombix.text.effects.operators import operate
from ombix.text.stage.action_effects import buffer_of, for_each_cursor, has_effect, run_checked
from ombix.text.stage.clipboard import with_kept
from ombix.text.stage.stage_state import State


def operated(state: State, waiting: Do, then: Do, catalogue: Catalogue) -> tuple[State, bool]:
    """The state after an operator over a movement, an object that is selected, or, where it is given
    twice, over whole lines; and whether there was anything to operate on. The counts of both are multiplied."""
    operator, times = catalogue.actions[waiting.action].operator, min(waiting.count * then.count, MAX_COUNT)

    def run(start: State) -> tuple[State, bool]:
        done: list[bool] = []

        def one(at: State) -> State:
            after, is_done = _at_cursor(at, operator, then.once, times, catalogue)
            done.append(is_done)
            return after

        after = for_each_cursor(start, one) if start.others else one(start)
        return after, any(done)

    return with_kept(state, run, waiting.action)


def _at_cursor(state: State, operator: str, then: Do, times: int, catalogue: Catalogue) -> tuple[State, bool]:
    action = catalogue.actions.get(then.action)
    moved, kind = replace(state, anchor=None, marking=False), action.moves_over if action is not None else ""
    if action is not None and action.operator:
        kind, then, times = "lines", Do("cursor.down"), times - 1
    elif not kind or not has_effect(then, catalogue):
        return state, False
    for number in range(times):
        further, is_done = run_checked(then, moved, catalogue)
        if not is_done or further == moved or further.prompt is not None:
            if number == 0 and kind != SELECTED:
                return state, False
            break
        moved = further
    buffer = buffer_of(moved if kind == SELECTED else replace(state, anchor=None, marking=False))
    is_done = operate(buffer, moved.cursor, kind, operator)
    return (
        replace(
            state,
            text=buffer.text,
            cursor=buffer.cursor,
            anchor=None,
            marking=False,
            clipboard=buffer.clipboard,
            goal=None,
        ),
        is_done,
    )
