"""What has to be done before an action has something to do, and behind it so that what it did shows."""

from fnmatch import fnmatchcase
from typing import Literal, NamedTuple

from msgspec import Struct


class FirstStep(NamedTuple):
    """An action; or keys that are pressed, what is typed into a question, or a text that is typed into the text."""

    kind: Literal["action", "press", "type", "text"]
    what: str


class ComesFirst(Struct, frozen=True, forbid_unknown_fields=True):
    """A way to give actions (by patterns) something to do: the steps before them, and those behind them; whether it is one for
    windows only, and whether it is gone in a text that is longer than the screen."""

    actions: tuple[str, ...]
    first: tuple[str, ...] = ()
    then: tuple[str, ...] = ()
    windows: bool = False
    long: bool = False

    def is_for(self, action: str) -> bool:
        """Whether it may give an action something to do."""
        return action not in self.first and any(fnmatchcase(action, one) for one in self.actions)


def first_step(written: str) -> FirstStep:
    """A step from what stands for it: an action, or "press", "type" or "text" and what comes behind that."""
    kind, blank, what = written.partition(" ")
    if not blank:
        return FirstStep("action", kind)
    if kind in ("press", "type", "text"):
        return FirstStep(kind, what)  # type: ignore[arg-type]
    raise ValueError(f"no step: {written}")
