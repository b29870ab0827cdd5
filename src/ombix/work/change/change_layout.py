"""How changes to a keymap are laid out, and what they bring about."""

from collections.abc import Iterator, Sequence

from ombix.report.blocks import Block, Cell, Style, line
from ombix.report.terminal_text import Display
from ombix.workspace.change_answer import ChangeReport, Consequences, DidBefore, PlatformFinding, StopsWorking

_STYLES: dict[str, Style] = {"error": "bad", "warning": "warn", "note": "quiet"}
_MOST = 6
"""So many of a kind are listed; of more, how many there are."""


def change_report(found: ChangeReport, display: Display, dry_run: bool) -> list[Block]:
    """What was written into a file, and what that brings about."""
    file = display.path(found.file.file)
    verb = "not written into" if found.refused else "would write" if dry_run else "wrote"
    blocks: list[Block] = []
    for edit in found.edits:
        if edit.after:
            blocks.append(line(f"{verb} {file}: {edit.after}"))
            blocks += [line(f"in place of {edit.before}", indent=2)] if edit.before else []
        else:
            blocks.append(line(f"{verb} {file}, without {edit.before}"))
    blocks += consequences(found.consequences)
    if found.refused:
        blocks.append(line("Nothing was changed. Write it all the same with --anyway."))
    return blocks


def consequences(found: Consequences) -> Iterator[Block]:
    """What a change brings about."""
    for one in found.did[:_MOST]:
        yield line("Before, ", Cell(one.shown, "key"), f" was {one.does}{_in_and_when(one)}.")
    yield from _more(found.did)
    for one in found.comes[:_MOST]:
        yield line("Then, ", Cell(one.shown, "key"), f" is {one.does}{_in_and_when(one)}.")
    yield from _more(found.comes)
    for one in found.takes[:_MOST]:
        yield line(Cell(f"It would take {one.shown} from {one.does}{_in_and_when(one)}.", "bad"))
    yield from _more(found.takes)
    yield from _stops(found.stops)
    yield from _findings("New", found.new)
    yield from _findings("Mended", found.mended)


def _in_and_when(one: DidBefore) -> str:
    where = f" in {one.editor}" if one.editor else ""
    return where + (f" when {one.when}" if one.when else "")


def _stops(found: Sequence[StopsWorking]) -> Iterator[Block]:
    by_editor: dict[str, list[str]] = {}
    for one in found:
        by_editor.setdefault(one.editor, []).append(one.does)
    for editor, names in by_editor.items():
        more = f" and {len(names) - _MOST} more" if len(names) > _MOST else ""
        where = f" in {editor}" if editor else ""
        yield line(Cell(f"No keys run {', '.join(names[:_MOST])}{more} any more{where}.", "warn"))


def new_findings(found: Sequence[PlatformFinding]) -> Iterator[Block]:
    """Findings that were not there before."""
    return _findings("New", found)


def _findings(title: str, found: Sequence[PlatformFinding]) -> Iterator[Block]:
    for one in found[:_MOST]:
        finding = one.finding
        when = f" when {finding.when}" if finding.when else ""
        style = _STYLES[finding.severity] if title == "New" else "good"
        yield line(f"{title}: ", Cell(f"{finding.rule}, {finding.severity}", style), f": {finding.message}{when}.")
    yield from _more(found)


def _more(found: Sequence[object]) -> Iterator[Block]:
    if len(found) > _MOST:
        yield line(f"and {len(found) - _MOST} more of these: --json has all of them")
