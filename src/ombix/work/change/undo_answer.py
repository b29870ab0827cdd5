"""Changes that were taken back, and those that can be."""

from typing import Literal, NamedTuple

from ombix.core.errors import Place


class UndoReport(NamedTuple):
    """A change that was taken back: what had made it, and its files; or one that was only forgotten. `kept_later`: what was changed
    since in the same files was kept."""

    command: str
    files: tuple[Place, ...]
    skipped: bool = False
    kept_later: bool = False


class PastChange(NamedTuple):
    """A change that can be taken back: a name for it, when it was made (ISO 8601), what made it, its files, and how each would be
    taken back: as they were, with what was changed since kept, or not, for that collides."""

    name: str
    made: str
    command: str
    files: tuple[Place, ...]
    undo: Literal["restore", "merge", "collides"]


class History(NamedTuple):
    """The newest of the changes that can be taken back; `known` is how many there are."""

    known: int
    changes: tuple[PastChange, ...]
