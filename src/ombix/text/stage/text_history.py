"""What was there before: a tree of states, in which a change after an undo begins a new branch and loses none."""

from typing import NamedTuple

from ombix.text.stage.stage_state import State


class _Moment(NamedTuple):
    """A state before a change, and the number of the moment that it followed (-1: the start)."""

    state: State
    parent: int


class UndoTree:
    """The states of a text in the order in which they were left, each with the one that it grew from.

    `undo` and `redo` go along the branch at hand; `earlier` and `later` go through all that ever was, in the order of time.
    """

    def __init__(self) -> None:
        self._moments: list[_Moment] = []
        self._last_child: dict[int, int] = {}
        self._here = -1

    def __bool__(self) -> bool:
        """Whether anything was changed on the way to where it is."""
        return self._here > 0

    def __len__(self) -> int:
        """How many changes led to where it is."""
        count, at = 0, self._here
        while at > 0:
            count, at = count + 1, self._moments[at].parent
        return count

    def changed(self, before: State, after: State) -> None:
        """A change was made."""
        if not self._moments:
            self._moments.append(_Moment(before, -1))
            self._here = 0
        else:
            self._moments[self._here] = self._moments[self._here]._replace(state=before)
        self._moments.append(_Moment(after, self._here))
        self._last_child[self._here] = len(self._moments) - 1
        self._here = len(self._moments) - 1

    def undo(self, now: State) -> State:
        """The state before the last change; `now` where nothing was changed."""
        return self._go(self._moments[self._here].parent if self._moments else -1, now)

    def redo(self, now: State) -> State:
        """The state behind the change that was taken back last from here; `now` where there is none."""
        return self._go(self._last_child.get(self._here, -1), now)

    def earlier(self, now: State) -> State:
        """The state that was there before this one, on whichever branch."""
        return self._go(self._here - 1, now)

    def later(self, now: State) -> State:
        """The state that was there after this one, on whichever branch."""
        return self._go(self._here + 1 if self._moments else -1, now)

    def _go(self, number: int, now: State) -> State:
        if not 0 <= number < len(self._moments):
            return now
        self._moments[self._here] = self._moments[self._here]._replace(state=now)
        self._last_child[self._moments[number].parent] = number
        self._here = number
        return self._moments[number].state
