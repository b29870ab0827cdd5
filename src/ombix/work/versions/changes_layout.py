"""How changes between versions, where keys come from, and the set-up in git are laid out."""

from ombix.report.blocks import Blank, Block, Cell, Grid, Style, Title, line
from ombix.report.terminal_text import Display
from ombix.work.versions.changes_answer import BrokenHabit, EntryChange, KeysChange, VersionChanges

_STANDS: dict[str, Style] = {"right": "good", "missing": "warn", "other": "bad", "not there for a user": "quiet"}


def version_changes(found: VersionChanges, display: Display) -> list[Block]:
    """Keys given, taken and moved; habits that break; other entries."""
    if not (found.keys or found.habits or found.entries):
        return [line(f"Nothing changed by meaning between {found.before} and {found.after}.")]
    blocks: list[Block] = [
        line(f"From {found.before} to {found.after}"),
        *(line(Cell(remark, "warn")) for remark in found.remarks),
    ]
    if found.keys:
        rows = [_keys_row(key) for key in found.keys]
        blocks += [Blank(), Title("Keys"), Grid(rows, ("what", "", "keys", "when"))]
    if found.habits:
        rows = [_habit_row(habit) for habit in found.habits]
        blocks += [Blank(), Title("Habits that break"), Grid(rows, ("keys", "was", "is now", "when", "in"))]
    if found.entries:
        blocks += [
            Blank(),
            Title("Other changes"),
            Grid([_entry_row(entry) for entry in found.entries], ("what", "", "was", "is now")),
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
    moved = [key for key in found.keys if key.did == "moved"]
    given = [key for key in found.keys if key.did == "given"]
    taken = [key for key in found.keys if key.did == "taken"]
    counts = [f"{len(kind)} {word}" for kind, word in ((given, "given"), (moved, "moved"), (taken, "taken")) if kind]
    others = len(found.keys) - len(given) - len(moved) - len(taken)
    counts += [f"{others} in other states"] * bool(others)
    first = f"Keys: {', '.join(counts)}" if counts else f"{len(found.entries)} entries changed" if found.entries else ""
    lines = [first, ""]
    for key in found.keys:
        keys = " to ".join(", ".join(each) for each in (key.was, key.now) if each)
        when = f" when {key.when or key.was_when}" if key.when or key.was_when else ""
        said = {"given": "gets", "taken": "loses", "moved": "moves from", "other states": "is in other states on"}[
            key.did
        ]
        lines.append(f"- {key.does} {said} {keys if key.did != 'other states' else ', '.join(key.now)}{when}")
    lines += [f"- {entry.what} {entry.did}" for entry in found.entries]
    broken = [habit for habit in found.habits if not habit.editor]
    lines += ["", *(f"{one.keys} was {one.was} and is {one.now or 'nothing'} now" for one in broken)] if broken else []
    return lines if first else []
