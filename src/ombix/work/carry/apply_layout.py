"""How files that were applied are laid out, and where editors stand."""

from collections.abc import Iterator, Sequence
from datetime import datetime

from ombix.report.blocks import Blank, Block, Cell, Grid, Style, line, shortened
from ombix.report.terminal_text import Display
from ombix.work.carry.answer_words import in_short
from ombix.work.carry.apply_answer import Applied, ApplyReport, ChangedDefault, EditorStanding, HandEdit, StatusReport

_STYLES: dict[str, Style] = {
    "up to date": "good", "behind": "warn", "edited by hand": "warn", "missing": "bad", "not chosen": "bad", "unreadable": "bad",
}  # fmt: skip
_WAYS = {"block": "a block of it", "whole": "the whole of it"}
_MOST = 8
_MOST_LINES = 40


def apply_report(found: ApplyReport, display: Display, dry_run: bool) -> list[Block]:
    """What became of each editor."""
    blocks: list[Block] = []
    for number, one in enumerate(found.editors):
        blocks += [*([Blank()] if number else []), *_applied(one, display, dry_run)]
    return blocks


def _applied(one: Applied, display: Display, dry_run: bool) -> Iterator[Block]:
    name, file = Cell(one.editor, "strong"), display.path(one.file.file)
    if one.did == "elsewhere":
        yield line(name, f": {one.needs}")
        return
    counts = in_short(dict(one.answers))
    if one.did == "unchanged":
        yield line(name, f": {file} is up to date ({counts})")
    elif one.did == "removed":
        verb = "would be taken out of" if dry_run else "was taken out of"
        yield line(name, f": Ombix's part {verb} {file}")
    elif one.did == "refused":
        yield line(name, f": {file} ", Cell("is not written", "warn"), f": {one.needs}")
    else:
        verb = "would be written" if dry_run else "written and read back"
        yield line(name, f": {file} {verb}, {_WAYS[one.way]} ({counts})")
    if dry_run and one.did in ("written", "removed"):
        yield from file_lines(one.lines, display, _MOST_LINES)
    for each in one.adopted:
        yield line(f"{'would take' if dry_run else 'taken'} into the keymap: {each}", indent=2)
    yield from _edits(one.edits)
    if one.did != "unchanged":
        yield from _missed("keys of the file that no longer do what they did", one.lost)
        yield from _missed("what stands in the file and is not understood", [shortened(each) for each in one.gone])
    yield from _defaults(one.defaults)


def file_lines(found: Sequence[str], display: Display, most: int | None = None) -> Iterator[Block]:
    """The lines of a file that go and come, all of them or the first ones."""
    for one in found[:most]:
        yield line(Cell(one, "bad" if one.startswith("-") else "good"), indent=4)
    if most is not None and len(found) > most:
        yield line(f"and {len(found) - most} more: --json has all of them", indent=4)


def _missed(said: str, found: Sequence[str]) -> Iterator[Block]:
    if found:
        more = f" and {len(found) - _MOST} more" if len(found) > _MOST else ""
        yield line(Cell(f"{said}: {', '.join(found[:_MOST])}{more}", "warn"), indent=2)


def _edits(found: Sequence[HandEdit]) -> Iterator[Block]:
    if not found:
        return
    rows = [
        (Cell(one.keys, "key"), one.was or "not there", one.now or "not there", "" if one.is_inside else "outside the block")
        for one in found
    ]  # fmt: skip
    yield line("edited by hand", indent=2)
    yield Grid(rows, ("keys", "was", "is now", ""), 4)


def _defaults(found: Sequence[ChangedDefault]) -> Iterator[Block]:
    if not found:
        return
    rows = [(Cell(one.keys, "key"), one.was or "nothing", one.now or "nothing", one.section) for one in found[:_MOST]]
    yield line("default keys that are others now", indent=2)
    yield Grid(rows, ("keys", "was", "is now", "section"), 4)
    if len(found) > _MOST:
        yield line(f"and {len(found) - _MOST} more: --json has all of them", indent=4)


def status_report(found: StatusReport, display: Display) -> list[Block]:
    """A row for each editor, and below what is to be known of it."""
    rows = [
        (
            Cell(editor.editor, "strong"), Cell(editor.standing, _STYLES.get(editor.standing, "")), display.path(editor.file.file),
            _WAYS.get(editor.way, ""), Cell(_when(editor.applied), "quiet"),
        )
        for editor in found.editors
    ]  # fmt: skip
    blocks: list[Block] = [Grid(rows, ("editor", "stands", "file", "written", "last"))]
    for editor in found.editors:
        blocks += _details(editor)
    return blocks


def _details(one: EditorStanding) -> Iterator[Block]:
    found = [*_edits(one.edits), *_defaults(one.defaults)]
    if one.other_version:
        found.append(
            line(f"it is version {one.other_version}; described is {one.version}, so that keys may be others", indent=2)
        )
    if one.reason:
        found.append(line(Cell(one.reason, "bad"), indent=2))
    if found:
        yield from (Blank(), line(Cell(one.editor, "strong")), *found)


def _when(moment: str) -> str:
    return datetime.fromisoformat(moment).astimezone().strftime("%Y-%m-%d %H:%M") if moment else ""
