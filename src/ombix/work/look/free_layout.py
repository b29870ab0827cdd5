"""How free keys are laid out."""

from ombix.report.blocks import Block, Cell, Grid, line
from ombix.report.terminal_text import Display
from ombix.work.look.free_answer import FreeKeysRow, FreeReport
from ombix.workspace.condition_words import in_words


def free_report(found: FreeReport, display: Display) -> list[Block]:
    """The keys, each with its reason; or why those that were asked for are taken."""
    if found.asked:
        return _asked(found)
    goal = f"{found.title} ({found.action})" if found.action else "any action"
    head = (
        line(f"Free for {goal} {_where(found)}:")
        if found.keys
        else line(f"No keys are free for {goal} {_where(found)}.")
    )
    blocks: list[Block] = [head]
    if found.keys:
        blocks.append(free_rows(found.keys))
        rest = found.in_all - len(found.keys)
        blocks += [line(f"and {rest} more: --count {found.in_all} lists all")] if rest > 0 else []
    return blocks


def free_rows(rows: tuple[FreeKeysRow, ...], numbered: bool = False) -> Grid:
    """Free keys, a row each."""
    found: list[tuple[Cell | str, ...]] = [
        (*((str(at),) if numbered else ()), Cell(one.shown, "key"), f"{one.seconds:.2f} s", _said(one))
        for at, one in enumerate(rows, 1)
    ]
    return Grid(found, ((" ",) if numbered else ()) + ("keys", "effort", "why"), 2)


def _said(one: FreeKeysRow) -> str:
    takes = [f"takes the place of {loser.does} in {loser.editor}" for loser in one.displaces]
    return "; ".join([*one.reasons, *takes])


def _asked(found: FreeReport) -> list[Block]:
    keys = Cell(found.asked, "key")
    if not found.taken:
        row = found.keys[0]
        said = _said(row)
        return [line(keys, f" is free {_where(found)}. It takes {row.seconds:.2f} s{f'; it {said}' if said else ''}.")]
    rows = [(one.platform, one.reason) for one in found.taken]
    return [line(keys, " is not free:"), Grid(rows, ("on", "because"), 2)]


def _where(found: FreeReport) -> str:
    parts = [f"on {_list(found.platforms)}"]
    parts += [f"with the layout{'s' * (len(found.layouts) > 1)} {_list(found.layouts)}"] if found.layouts else []
    parts += [f"in {_list(found.editors)}"] if found.editors else []
    parts += [in_words(found.where)] if found.where else []
    return ", ".join(parts)


def _list(names: tuple[str, ...]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
