"""How changes between versions, where keys come from, and the set-up in git are laid out."""

from collections.abc import Sequence

from ombix.core.results.changes import BlameReport, BrokenHabit, EntryChange, KeysChange, KeysMeaning, VersionChanges
from ombix.core.results.git import SetUpReport, StagedReport
from ombix.report.blocks import Blank, Block, Cell, Grid, Style, Title, line
from ombix.report.findings import finding_blocks
from ombix.report.plain import Display

_STANDS: dict[str, Style] = {"right": "good", "missing": "warn", "other": "bad", "not there for a user": "quiet"}


def version_changes(found: VersionChanges, display: Display) -> list[Block]:
    """Keys given, taken and moved; habits that break; other entries."""
    if not (found.keys or found.habits or found.entries):
        return [line(f"Nothing changed by meaning between {found.before} and {found.after}.")]
    blocks: list[Block] = [
        line(f"From {found.before} to {found.after}"),
        *(line(Cell(one, "warn")) for one in found.remarks),
    ]
    if found.keys:
        rows = [_keys_row(one) for one in found.keys]
        blocks += [Blank(), Title("Keys"), Grid(rows, ("what", "", "keys", "when"))]
    if found.habits:
        rows = [_habit_row(one) for one in found.habits]
        blocks += [Blank(), Title("Habits that break"), Grid(rows, ("keys", "was", "is now", "when", "in"))]
    if found.entries:
        blocks += [
            Blank(),
            Title("Other changes"),
            Grid([_entry_row(one) for one in found.entries], ("what", "", "was", "is now")),
        ]
    return blocks


def _keys_row(one: KeysChange) -> tuple[Cell | str, ...]:
    keys = (
        " → ".join(", ".join(each) for each in (one.was, one.now) if each) if one.was != one.now else ", ".join(one.now)
    )
    when = (
        one.when if one.was_when == one.when or not one.was else f"{one.was_when or 'always'} → {one.when or 'always'}"
    )
    if not one.now:
        when = one.was_when
    on = f"on {', '.join(one.platforms)}" if one.platforms else ""
    return Cell(one.does, "strong"), one.did, Cell(keys, "key"), " ".join(filter(None, (when, on)))


def _habit_row(one: BrokenHabit) -> tuple[Cell | str, ...]:
    on = f"on {', '.join(one.platforms)}" if one.platforms else ""
    return (
        Cell(one.keys, "key"),
        one.was,
        Cell(one.now or "nothing", "warn" if one.now else "bad"),
        one.when,
        " ".join(filter(None, (one.editor, on))),
    )


def _entry_row(one: EntryChange) -> tuple[Cell | str, ...]:
    return Cell(one.what, "strong"), one.did, _short(one.was), _short(one.now)


def _short(text: str) -> str:
    flat = " ".join(text.split())
    return flat if len(flat) < 120 else flat[:119] + "…"


def message_lines(found: VersionChanges) -> list[str]:
    """The changes as lines of a commit's message, with a first line that says what they are about."""
    moved = [one for one in found.keys if one.did == "moved"]
    given = [one for one in found.keys if one.did == "given"]
    taken = [one for one in found.keys if one.did == "taken"]
    counts = [f"{len(kind)} {word}" for kind, word in ((given, "given"), (moved, "moved"), (taken, "taken")) if kind]
    others = len(found.keys) - len(given) - len(moved) - len(taken)
    counts += [f"{others} in other states"] * bool(others)
    first = f"Keys: {', '.join(counts)}" if counts else f"{len(found.entries)} entries changed" if found.entries else ""
    lines = [first, ""]
    for one in found.keys:
        keys = " to ".join(", ".join(each) for each in (one.was, one.now) if each)
        when = f" when {one.when or one.was_when}" if one.when or one.was_when else ""
        said = {"given": "gets", "taken": "loses", "moved": "moves from", "other states": "is in other states on"}[
            one.did
        ]
        lines.append(f"- {one.does} {said} {keys if one.did != 'other states' else ', '.join(one.now)}{when}")
    lines += [f"- {one.what} {one.did}" for one in found.entries]
    broken = [one for one in found.habits if not one.editor]
    lines += ["", *(f"{one.keys} was {one.was} and is {one.now or 'nothing'} now" for one in broken)] if broken else []
    return lines if first else []


def blame_report(found: BlameReport, display: Display) -> list[Block]:
    """What keys do, and the commits that gave them that."""
    blocks: list[Block] = [line(Cell(found.shown, "key"), f"  {_meaning(found.now)}")]
    if found.was:
        blocks.append(line(f"before: {_meaning(found.was)}", indent=2))
    for one in found.commits:
        blocks.append(line(Cell(one.short, "strong"), f"  {one.date[:10]}  {one.author}  {one.subject}"))
        blocks += [line(f"at {display.place(one.place)}", indent=2)] if one.place is not None else []
    if found.note:
        blocks.append(line(found.note))
    return blocks


def _meaning(found: Sequence[KeysMeaning]) -> str:
    return ", ".join(f"{one.does}{f' when {one.when}' if one.when else ''}" for one in found) or "nothing"


def set_up_report(found: SetUpReport, display: Display, dry_run: bool = False) -> list[Block]:
    """Each part, and how it stands."""
    rows = [(one.part, Cell(one.stands, _STANDS[one.stands]), one.says) for one in found.parts]
    blocks: list[Block] = [
        line("For this user" if not found.where else f"In {display.path(found.where)}"),
        Grid(rows, ("part", "stands", "says")),
    ]
    verb = "would write" if dry_run else "wrote"
    blocks += [line(f"{verb} {display.path(one)}") for one in found.wrote]
    if found.did != "checked" and not found.wrote:
        blocks.append(line("There was nothing to change."))
    return blocks


def staged_report(found: StagedReport, display: Display) -> list[Block]:
    """The new findings of each workspace."""
    blocks: list[Block] = []
    for one in found.workspaces:
        for each in one.findings:
            blocks += [*finding_blocks(each, display), Blank()]
        known = f", and {one.known} that the last commit has, too" if one.known else ""
        noun = "new finding" if len(one.findings) == 1 else "new findings"
        blocks.append(line(f"{display.path(one.workspace)}: {len(one.findings)} {noun}{known}"))
    return blocks or [line("No workspace is touched by what is staged.")]
