"""How changes to a keymap are laid out, and what they bring about."""

from collections.abc import Iterator, Mapping, Sequence

from ombix.report.blocks import Block, Cell, Style, line
from ombix.report.terminal_text import Display
from ombix.work.audit.audit_layout import said
from ombix.workspace.change_answer import ChangeReport, Consequences, DidBefore, InEditor, PlatformFinding
from ombix.workspace.condition_words import in_words
from ombix.workspace.reason_words import for_it

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
            blocks += [line(f"instead of {edit.before}", indent=2)] if edit.before else []
        else:
            blocks.append(line(f"{verb} {file}, without {edit.before}"))
    only_that = found.refused and found.consequences.arriving and not found.consequences.errors
    blocks += _in_editors(found.consequences) if only_that else consequences(found.consequences)
    if found.refused:
        blocks.append(line("Nothing was changed. Write it all the same with --anyway."))
    return blocks


def consequences(found: Consequences) -> Iterator[Block]:
    """What a change brings about."""
    titles = found.titles
    for one in found.did[:_MOST]:
        yield line("Until now, ", Cell(one.shown, "key"), f" was {_called(one.does, titles)}{_in_and_when(one)}.")
    yield from _more(found.did)
    for one in found.comes[:_MOST]:
        yield line(Cell(one.shown, "key"), f" is then {_called(one.does, titles)}{_in_and_when(one)}.")
    yield from _more(found.comes)
    for one in found.takes[:_MOST]:
        yield line(Cell(f"It would take {one.shown} from {_called(one.does, titles)}{_in_and_when(one)}.", "bad"))
    yield from _more(found.takes)
    yield from _in_editors(found)
    for end in found.ends:
        names = [_called(name, titles) for name in end.does[:_MOST]]
        among = f", {', '.join(names)} among them" if end.number > 1 else f": {names[0]}"
        commands = f"{end.number} commands" if end.number > 1 else "a command"
        yield line(Cell(f"{end.shown} begins {commands} of {end.editor}, which no longer run{among}.", "warn"))
    for strand in found.strands:
        yield line(Cell(f"No key is left for {strand.does} in {strand.editor}.", "bad"))
    yield from _stops(found)
    yield from _findings("New", found.new)
    yield from _findings("Fixed", found.mended)


def _called(name: str, titles: Mapping[str, str]) -> str:
    return f"“{titles[name]}”" if name in titles else name


def _in_editors(found: Consequences) -> Iterator[Block]:
    """Whether each editor can have what was bound; first those in which it works."""
    if found.arriving:
        by_key: dict[str, list[str]] = {}
        for one in found.arriving:
            by_key.setdefault(one.arrives, []).append(one.editor)
        keys = found.arriving[0].keys
        for arrives, names in by_key.items():
            sentence = f"{keys} is {arrives} in {' and '.join(dict.fromkeys(names))}, and cannot be told from it."
            yield line(Cell(sentence, "bad"))
        return
    works = dict.fromkeys(one.editor for one in found.in_editors if one.verdict == "works")
    works = dict.fromkeys(
        name for name in works if all(one.verdict == "works" for one in found.in_editors if one.editor == name)
    )
    if works:
        yield line(f"It works in {' and '.join(works)}.")
    told: dict[str, Style] = {}  # of a family of keys once
    for one in found.in_editors:
        if one.verdict == "otherwise":
            told[f"In {one.editor}: {one.how}."] = ""
        elif one.verdict == "missing":
            told[f"Not {_missing(one, found.titles)}."] = "warn"
    yield from (line(Cell(text, style)) for text, style in told.items())


def _missing(one: InEditor, titles: Mapping[str, str]) -> str:
    """Where an editor does not have what was bound, and what it has instead."""
    if one.how.startswith("on "):  # other keys, and why
        return f"on {one.keys} in {one.editor}: {one.how}"
    if one.moved:
        return f"on {one.keys} in {one.editor}: {one.how}; it is on {' and '.join(one.moved)} there"
    return f"in {one.editor}: {for_it(one.how, one.does)}{f'; nearest is {_called(one.nearest, titles)}' if one.nearest else ''}"


def _in_and_when(one: DidBefore) -> str:
    where = f" in {one.editor}" if one.editor else ""
    return where + (f" {in_words(one.when)}" if one.when else "")


def _stops(found: Consequences) -> Iterator[Block]:
    by_editor: dict[str, list[str]] = {}
    for one in found.stops:
        by_editor.setdefault(one.editor, []).append(_called(one.does, found.titles))
    for editor, names in by_editor.items():
        more = f" and {len(names) - _MOST} more" if len(names) > _MOST else ""
        where = f" in {editor}" if editor else ""
        last = names[:_MOST]
        listed = ", ".join(last) if more or len(last) == 1 else f"{', '.join(last[:-1])} and {last[-1]}"
        yield line(Cell(f"No keys are left for {listed}{more}{where}.", "warn"))


def new_findings(found: Sequence[PlatformFinding]) -> Iterator[Block]:
    """Findings that were not there before."""
    return _findings("New", found)


def _findings(title: str, found: Sequence[PlatformFinding]) -> Iterator[Block]:
    for one in found[:_MOST]:
        finding = one.finding
        when = f", {in_words(finding.when)}" if finding.when else ""
        style = _STYLES[finding.severity] if title == "New" else "good"
        yield line(f"{title}: ", Cell(f"{finding.rule}, {finding.severity}", style), f": {said(finding)}{when}.")
    yield from _more(found)


def _more(found: Sequence[object]) -> Iterator[Block]:
    if len(found) > _MOST:
        yield line(f"and {len(found) - _MOST} more of these: --json has all of them")
