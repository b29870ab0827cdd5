"""Changes taken back, and those that can be."""

from datetime import UTC, datetime

from ombix.core.errors import InputError, Place
from ombix.files.disk import absolute
from ombix.files.writer import Writer
from ombix.work.change.undo_answer import History, PastChange, UndoReport

APPLIED = "apply to "
"""What the changes begin with that write editors' own files."""


def undo(
    writer: Writer, name: str = "", dry_run: bool = False, force: bool = False, skip: bool = False
) -> UndoReport | None:
    """Take a change back, the newest or that of a name, or forget it; None where there is none. Raises InputError when a file was
    changed since in the same lines, and neither was asked for."""
    try:
        taken = writer.undo(name, dry_run, force, skip)
    except InputError as error:
        if not error.what.startswith(f"the file was changed after “{APPLIED}"):
            raise
        # Of an editor's own file there is a way that needs no choice: the entries that were written, wherever they stand now.
        raise InputError(
            error.what, f"Take out what was written there with: ombix apply --remove. Or: {error.advice}", error.place
        ) from None
    if taken is None:
        return None
    files = tuple(Place(absolute(path)) for path in taken.files)
    return UndoReport(taken.command, files, taken.was_skipped, taken.was_merged)


def history(writer: Writer, most: int) -> History:
    """The changes that can be taken back, the newest first."""
    found = writer.history()
    return History(
        len(found),
        tuple(
            PastChange(
                one.noted.name, datetime.fromtimestamp(one.noted.seconds, UTC).isoformat(timespec="seconds"),
                one.noted.record.command, tuple(Place(absolute(plan.path)) for plan in one.plans),
                "collides" if any(plan.how == "collides" for plan in one.plans)
                else "merge" if any(plan.how == "merge" for plan in one.plans) else "restore",
            )
            for one in found[:most]
        ),
    )  # fmt: skip
