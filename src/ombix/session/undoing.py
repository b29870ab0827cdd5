"""Changes taken back."""

from ombix.core.errors import Place
from ombix.core.results.files import UndoReport
from ombix.store.files import absolute
from ombix.store.writing import Writer


def undo(writer: Writer, dry_run: bool, force: bool, skip: bool) -> UndoReport | None:
    """Take the newest change back, or forget it; None where there is none. Raises InputError when a file was changed since,
    and neither was asked for."""
    taken = writer.undo(dry_run, force, skip)
    if taken is None:
        return None
    return UndoReport(taken.command, tuple(Place(absolute(path)) for path in taken.files), taken.was_skipped)
