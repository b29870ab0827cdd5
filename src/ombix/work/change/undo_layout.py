"""How changes that can be taken back are laid out: `undo`."""

from datetime import datetime

from ombix.report.blocks import Block, Cell, Grid, line
from ombix.report.known import _UNDOES
from ombix.report.terminal_text import Display
from ombix.work.change.undo_answer import History, UndoReport


def undo_report(found: UndoReport, display: Display, dry_run: bool) -> list[Block]:
    """What was taken back."""
    names = ", ".join(display.path(file.file) for file in found.files)
    done, would = ("forgot", "would forget") if found.skipped else ("took back", "would take back")
    kept = [line("What was changed since in the same files is kept.")] if found.kept_later else []
    return [line(f"{would if dry_run else done} “{found.command}”{f': {names}' if names else ''}"), *kept]


def history(found: History, display: Display) -> list[Block]:
    """The changes that can be taken back, a row each."""
    if not found.changes:
        return [line("There is nothing to take back here.")]
    rows = [
        (
            Cell(change.name, "key"), Cell(_local(change.made), "quiet"), change.command,
            ", ".join(display.path(file.file) for file in change.files),
            Cell(_UNDOES[change.undo], "warn" if change.undo == "collides" else ""),
        )
        for change in found.changes
    ]  # fmt: skip
    rest = found.known - len(found.changes)
    more = [line(f"and {rest} more: --count {found.known} lists all")] if rest > 0 else []
    return [Grid(rows, ("change", "made", "what", "files", "undo")), *more]


def _local(moment: str) -> str:
    return datetime.fromisoformat(moment).astimezone().strftime("%Y-%m-%d %H:%M")
